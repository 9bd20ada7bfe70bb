"""Which field values belong to: from what they look like as much as from the name that they stand under."""

from __future__ import annotations

import itertools
import re
import unicodedata
from collections.abc import Mapping, Sequence

from kettlesort.core.formats.places import place_in, volume_in
from kettlesort.core.record import doi_of

_NAMES = {
    "title": "title, article title, document title, primary title, item title, original title, translated title, titel, titre, titulo, titolo, tytul, ti, t1, name of article, nazev, titolo del documento, otsikko, cim, title of the paper, paper title, headline, public title, scientific title, brief title, official title, study title, full title",
    "authors": "authors, author, author names, author s, author full names, creators, creator, autoren, autor, autor in, verfasser, auteurs, auteur, autores, autori, autorzy, people, written by, by, au, fau, forfattare, forfatter, forfattere, autoři, tekijat, szerzok, autore, author list, contributors, names of the authors, writers",
    "family_name": "last name, lastname, surname, family name, familyname, nachname, familienname, nom de famille, apellido, apellidos, cognome, nazwisko, achternaam, efternamn, etternavn, author last name, author surname, author family name, first author last name, first author surname, last name of author",
    "given_name": "first name, firstname, given name, givenname, given names, forename, forenames, vorname, prenom, imie, voornaam, fornamn, fornavn, initials, author first name, author given name, author initials, first author first name, first author initials",
    "year": "year, publication year, pub year, publishedyear, date published, pubyear, jahr, erscheinungsjahr, annee, ano, anno, rok, year of publication, yr, py, ar, jaar, aar, vuosi, ev, year published, issued, year of issue",
    "date": "date, date of registration, registration date, date registration, first posted, publication date, published, cover date, datum, fecha, date of publication",
    "journal": "journal, source title, source, publication title, publication, journal book, journal name, container title, zeitschrift, quelle, revue, revista, rivista, czasopismo, journal title, jt, so, published in, periodical, tijdschrift, tidskrift, tidsskrift, casopis, lehti, folyoirat, name of journal, in journal",
    "journal_short": "journal abbreviation, abbreviated source title, journal short, journal abbrev, iso abbreviation, ta",
    "place": "citation, bibliographic details, publication details, journal details, citation details, imprint, volume issue, vol issue, volume and issue, vol no, vol iss, vol issue pages, volume issue pages, vol issue page, band heft, source details, bibliographic citation",
    "article_number": "article number, art no, article no, artn, e location id, elocation id, elocator, article num",
    "identifiers": "identifiers, ids, identifiers list, standard numbers, doi pmid, pmid doi",
    "volume": "volume, vol, band, jahrgang, tome, volumen, tom, vl, vi, deel, volym, rocnik, bind, arg, volume number, kotet",
    "issue": "issue, number, no, heft, issue number, nummer, numero, issue no, ip, zeszyt",
    "pages": "pages, page, page range, seiten, pages range, paginas, pagine, pp, pg, strony, pagination, bladzijden, bladzijde, sidor, sider, stranky, oldalak, page numbers, page s",
    "first_page": "start page, page start, first page, begin page, beginning page, sp, bp, spage, from page, page from, startpage, page first, von seite, seite von",
    "last_page": "end page, page end, last page, ending page, ep, epage, to page, page to, endpage, page last, bis seite, seite bis",
    "doi": "doi, digital object identifier, doi link, do, doi number, digital identifier, permanent identifier",
    "accession": "accession, id, trial id, trialid, trial number, trial registration number, registration number, main id, study id, accession number, record id, unique id, identifier, an, pmid, key, record number, ut, ut unique id, citation key, nr, entry id, rec no, record no, rec nr, item no, notice, registro, registo, scheda, zaznam, nr rekordu, post, entry no, library number, entry, eintrag, reference number, ref no, reference id",
    "issn": "issn, issn isbn, isbn, e issn, eissn, sn, issn number",
    "abstract": "abstract, abstract note, summary, zusammenfassung, resume, resumen, riassunto, description, abstrakt, streszczenie, ab, n2, samenvatting, sammanfattning, sammendrag, resumo, abstrakti, osszefoglalo, abstract text, digest",
    "language": "language, language of original document, sprache, langue, idioma, lingua, jezyk, la, lang",
    "keywords": "keywords, manual tags, automatic tags, author keywords, index keywords, descriptors, subject headings, tags, subjects, schlagworter, schlagwort, mots cles, palabras clave, parole chiave, slowa kluczowe, keyword, subject, topics, mesh terms, index terms, kw, de, mh, trefwoorden, amnesord, emneord, nokkelord, klicova slova, palavras chave, kulcsszavak, avainsanat, subject words, index words, deskriptoren",
    "url": "url, link, links, address, web address, ur, permalink, full text link",
    "publisher": "publisher, verlag, editeur, editorial, pb, institution",
    "kind": "type, document type, publication type, kind, item type, record type, dokumenttyp, type de document, tipo, pt, ty, dt",
    "references": "references, cited references, reference, literatur, cr, bibliography",
    "note": "note, notes, comments, anmerkung, remarques, notas, annotation",
}
FIELD_OF = {name.strip(): field for field, names in _NAMES.items() for name in names.split(",")}
_WORDS = re.compile(r"[^a-z0-9]+")
_ENDING = re.compile(r"(?<=\w)\((?:e?s|e?n|in|nen|x)\)")  # "Auteur(s)", "Autor(en)"
_TITLE = re.compile(r"\b(?:title|titel|titre|titulo|titolo|tytul|nazev|otsikko|headline)\b")
_OTHER_TITLES = re.compile(
    r"\b(?:journal|source|book|short|abbrev\w*|series|conference|proceedings|meeting|host|secondary|running|job|publication|container|zeitschrift|reihe|buch|revue|revista|livre|rivista)\b"
)
_ONE_AUTHOR = re.compile(
    r"(?:author|autor|auteur|verfasser|creator)(?: ?(?:name|no))? ?\d{1,2}(?: name)?|(?:first|second|third|fourth|fifth|last|1st|2nd|3rd|\dth) (?:author|autor)(?: name)?"
    r"|(?:other|further) authors|co ?authors"
)
_YEAR = re.compile(r"(?:[\d]{1,4}[./ -])?\s*(?:1[6-9]|20)\d\d(?:[./ -].*)?$|[A-Za-z]{3,9}\.? (?:1[6-9]|20)\d\d$")
_ISSN = re.compile(r"(?:issn:?\s*)?\d{4}-?\d{3}[\dXx]\b")
_URL = re.compile(r"(?:https?://|www\.)\S+$")
_PAGES = re.compile(r"(?:pp?\.?\s*)?[a-zA-Z]?\d{1,6}\s*[-–]+\s*[a-zA-Z]?\d{1,6}$|[eE]\d+$")
_SMALL = re.compile(r"(?:vol\.?|no\.?|v\.)?\s*\d{1,4}[A-Za-z]?(?:\s*\(.*\))?$", re.I)
_PERSON = re.compile(r"[^\W\d_][\w.'’-]*(?: [^\W\d_][\w.'’-]*){0,3}(?:, ?|\s)(?:[^\W\d_][\w.'’-]*[ ]?){1,3}(?:, ?(?:Jr|Sr|II|III)\.?)?$")
_INITIALS = re.compile(
    r"(?:[A-Z]\.[ -]?){1,4}[^\W\d_][\w'’-]+(?: [^\W\d_][\w'’-]+)?$|[^\W\d_][\w'’-]+(?: [^\W\d_][\w'’-]+)?,? (?:[A-Z]\.?[ -]?){1,4}$"
)
_ACCESSION = re.compile(r"[A-Z]{1,8}[-:._]?[A-Z0-9]{0,6}[-:._]?\d{1,14}[A-Z]?$|\d{5,14}$", re.I)
_SENTENCES = re.compile(r"[^\W\d_]{3,}[.?!]\s+[^\W\d_a-z]")
_LANGUAGES = frozenset(
    [
        "english",
        "german",
        "french",
        "spanish",
        "italian",
        "portuguese",
        "chinese",
        "japanese",
        "russian",
        "polish",
        "dutch",
        "swedish",
        "danish",
        "norwegian",
        "finnish",
        "czech",
        "turkish",
        "korean",
        "arabic",
        "deutsch",
        "englisch",
        "francais",
        "anglais",
        "en",
        "de",
        "fr",
        "es",
        "it",
        "pt",
        "zh",
        "ja",
        "ru",
        "pl",
        "nl",
        "eng",
        "ger",
        "deu",
        "fre",
        "fra",
        "spa",
        "ita",
        "por",
        "chi",
        "zho",
        "jpn",
        "rus",
        "pol",
        "dut",
        "nld",
        "swe",
        "dan",
        "nor",
        "fin",
        "cze",
        "tur",
        "kor",
        "ara",
    ]
)
_KINDS = frozenset(
    [
        "journal article",
        "article",
        "review",
        "conference",
        "conference paper",
        "book",
        "book chapter",
        "thesis",
        "dissertation",
        "report",
        "letter",
        "editorial",
        "note",
        "preprint",
        "jour",
        "conf",
        "thes",
        "rprt",
        "chap",
    ]
)


_ANOTHERS = re.compile(
    r"err?at|corr(?:ect|ig)|retract|comment|related|relation|cit(?:ed|es|ing)|parent|supplement|preprint|version|reference|same as|part of",
    re.I,
)
"""Labels under which the DOI is another record's."""


def points_elsewhere(name: str) -> bool:
    """Whether a label or column of this name holds the identifiers of other records.

    >>> points_elsewhere("Erratum DOI"), points_elsewhere("DOI")
    (True, False)
    """
    return bool(_ANOTHERS.search(name))


def field_named(name: str) -> str | None:
    """The field that a column or label of this name holds, or ``None``.

    >>> field_named("Année"), field_named("Hive weight")
    ('year', None)
    """
    name = _bare(name)
    return FIELD_OF.get(name) or ("authors" if _ONE_AUTHOR.fullmatch(name) else None)


def some_authors(name: str) -> bool:
    """Whether a column of this name holds one author of several, or all but the first.

    >>> some_authors("Author 1"), some_authors("Co-authors"), some_authors("Authors")
    (True, True, False)
    """
    return bool(_ONE_AUTHOR.fullmatch(_bare(name)))


def speaks_of_a_title(name: str) -> bool:
    """Whether a column's name has a word for a title in it, and none for what else has one.

    >>> speaks_of_a_title("Titel des Artikels"), speaks_of_a_title("Title of the series")
    (True, False)
    """
    said = _bare(name)
    return bool(_TITLE.search(said)) and not _OTHER_TITLES.search(said)


def _bare(name: str) -> str:
    name = _ENDING.sub("", name)
    if not name.isascii():
        name = "".join(c for c in unicodedata.normalize("NFKD", name) if not unicodedata.combining(c)).replace("ł", "l")
    return _WORDS.sub(" ", name.lower()).strip()


def _people_in(value: str) -> bool:
    """Whether a value is people: names with a separator, or a line each."""
    return len(value) < 4000 and (_are_people(_APART.split(value)) or ("\n" in value and _are_people(value.split("\n"))))


_APART = re.compile(r";|\band\b|\||(?<=[A-Z]),|(?<=\.),")


def _are_people(parts: Sequence[str]) -> bool:
    parts = [" ".join(part.split()) for part in parts if part.strip()]
    likely = sum(bool(_INITIALS.match(part) or ("," in part and _PERSON.match(part))) for part in parts)
    return bool(parts) and likely >= 0.7 * len(parts)


def _listed(value: str) -> bool:
    """Whether a value has a few words on each of its lines."""
    lines = value.split("\n")
    return len(lines) > 1 and all(len(line) < 40 and not line.rstrip().endswith((".", ",")) for line in lines)


def likeness(values: Sequence[str]) -> dict[str, float]:
    """How much values look like those of each field, from 0 to 1; only fields that they can be told to be by looks."""
    values = [value.strip() for value in values if value.strip()][:200]
    if not values:
        return {}
    n = len(values)

    def share(test: object) -> float:
        return sum(bool(test(value)) for value in values) / n  # type: ignore[operator]

    lengths = sorted(len(value) for value in values)
    middle, distinct = lengths[n // 2], len(set(values)) / n
    words = sorted(len(value.split()) for value in values)[n // 2]
    separated = share(lambda value: value.count(";") + value.count("|") >= 1 or value.count(",") >= 2 or _listed(value))
    looks = {
        "doi": share(lambda value: (doi := doi_of(value)) and len(value) < len(doi) + 40 + value.count("%")),
        "year": share(lambda value: len(value) <= 24 and _YEAR.match(value)),
        "issn": share(_ISSN.match) if middle <= 24 else 0.0,
        "url": share(_URL.match) * 0.9,
        "pages": share(_PAGES.match),
        "volume": 0.5 * share(lambda value: len(value) <= 8 and _SMALL.match(value)),
        "authors": share(_people_in),
        "language": share(lambda value: value.lower().strip(" .") in _LANGUAGES),
        "kind": share(lambda value: value.lower() in _KINDS),
        "place": share(
            lambda value: len(value) < 300 and (place_in(value) or ((place := volume_in(value)) and (place.issue or place.pages)))
        ),
        "accession": 0.7 * share(lambda value: len(value) <= 30 and _ACCESSION.match(value)) * (distinct > 0.95),
    }
    counted = [int(value) for value in values if value.isdigit() and len(value) < 8]
    if n > 2 and len(counted) == n and all(b - a == 1 for a, b in itertools.pairwise(counted)):
        looks["accession"] = 0.65  # records numbered as they come
    told = share(lambda value: len(value) >= 100 and len(_SENTENCES.findall(value)) >= 1)
    looks["abstract"] = 0.95 if middle >= 300 and words >= 40 else 0.5 if middle >= 200 and words >= 28 else 0.0
    looks["abstract"] = max(looks["abstract"], 0.85 if told > 0.7 and looks["authors"] < 0.4 and words >= 16 else 0.0)
    sentence = 20 <= middle <= 260 and 4 <= words <= 40 and looks["authors"] < 0.4 and looks["url"] < 0.5 and looks["doi"] < 0.5
    looks["title"] = (0.8 if distinct > 0.8 else 0.4) * (0.5 if separated > 0.6 else 1) if sentence else 0.0
    if (
        8 <= middle <= 90
        and words >= 2
        and looks["authors"] < 0.4
        and (distinct < 0.9 or n < 12)
        and separated < 0.3
        and looks["pages"] < 0.3
    ):
        looks["journal"] = 0.35
    if separated > 0.5 and looks["authors"] < 0.4 and looks["abstract"] < 0.5:
        looks["keywords"] = 0.6
    return {field: score for field, score in looks.items() if score > 0.2}


def fields_by_likeness(values_by_name: Mapping[str, Sequence[str]], named: bool = True) -> dict[str, str]:
    """Which field each name fills, "" where nothing speaks for any; from names, where ``named``, and from values.

    A name that says a field counts for more than looks, unless the values cannot be of it. Looks give a field to one
    name only, the likeliest.
    """
    scores: list[tuple[float, str, str]] = []
    for name, values in values_by_name.items():
        looks = likeness(values)
        if named and points_elsewhere(name):
            looks.pop("doi", None)
        said = field_named(name.lstrip("%")) if named else None
        for field, score in looks.items():
            scores.append((score, name, field))
        if said:
            scores.append((1.05 + 0.35 * looks.get(said, 0.0) - (0.9 if _cannot_be(said, looks, values) else 0), name, said))
    out = dict.fromkeys(values_by_name, "")
    taken: set[str] = set()
    for score, name, field in sorted(scores, key=lambda pair: -pair[0]):
        by_name = score >= 0.85 and named and field_named(name.lstrip("%")) == field
        if out[name] or score < 0.3 or (field in taken and not by_name):
            continue
        out[name] = field
        taken.add(field)
    return out


def are_fuller(full: Sequence[str], short: Sequence[str]) -> bool:
    """Whether the values of one column or label name the same people as those of another, record by record, and more fully.

    >>> are_fuller(["Orsel, Wilma; Brask, Tom"], ["Orsel W, Brask T"])
    True
    """
    pairs = [(one, other) for one, other in zip(full, short, strict=False) if one.strip() and other.strip()]
    if len(pairs) < max(1, 0.5 * sum(bool(value.strip()) for value in full)):
        return False
    same = sum(_long_words(other) <= _long_words(one) for one, other in pairs)
    return same >= 0.8 * len(pairs) and sum(len(one) for one, _ in pairs) > sum(len(other) for _, other in pairs)


def with_full_names(fields: Mapping[str, str], values: Mapping[str, Sequence[str]]) -> dict[str, str]:
    """The same fields, where authors stand twice: the fuller names are the authors, the others count only in records without those."""
    out = dict(fields)
    named = [name for name, field in out.items() if field == "authors" and not _ONE_AUTHOR.fullmatch(_bare(name))]
    if not named:
        return out
    others = [name for name, field in out.items() if not field and likeness(values[name]).get("authors", 0) >= 0.6]
    for one, other in itertools.permutations([*named, *others], 2):
        if out[one] == "authors" and out[other] != "short_authors" and are_fuller(values[other], values[one]):
            out[one], out[other] = "short_authors", "authors"
    return out


def _long_words(text: str) -> set[str]:
    return set(re.findall(r"[^\W\d_]{3,}", text.lower()))


def _cannot_be(field: str, looks: Mapping[str, float], values: Sequence[str]) -> bool:
    """Whether values are of another field by their looks."""
    strict = {"doi": "doi", "year": "year", "date": "year", "issn": "issn"}
    if field == "accession":  # a list of words is none
        wordy = sum(len(value.split()) > 3 for value in values) > 0.5 * len(values)
        return looks.get("keywords", 0) >= 0.5 or wordy or (len(values) > 3 and len(set(values)) < 0.8 * len(values))
    if field in ("issue", "volume"):
        return looks.get("accession", 0) >= 0.6 and len(set(values)) > 2
    filled = [value for value in values if value.strip()]
    if field in strict:
        return bool(filled) and looks.get(strict[field], 0) < 0.3
    if field in ("title", "authors", "journal", "abstract"):
        return any(looks.get(other, 0) > 0.7 for other in ("doi", "year", "url", "issn", "pages")) or (
            field == "title" and looks.get("abstract", 0) > 0.9
        )
    return False
