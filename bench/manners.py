"""Files that nobody has a reader for: in how many of their fields they are read right without help.

`./kettle run python bench/manners.py [tune|report]`: 28 manners that the reader was tuned on, 42 others, or (as a rule) 60 that are put
together by chance from the labels, signs and layouts of both. Wanted: 95 % of the fields.
"""

from __future__ import annotations

import io
import random
import sys
import textwrap
from typing import NamedTuple

from kettlesort.core.formats import NotReadable, open_reading
from kettlesort.core.record import Record, folded
from measure import tell

FIELDS = ("title", "authors", "year", "journal", "volume", "pages", "doi", "abstract", "keywords", "accession")


class Manner(NamedTuple):
    """How a source labels: its labels in their order, what stands after a label, and how values and records are laid out."""

    name: str
    labels: dict[str, str]
    after: str = ": "
    before: str = ""
    width: int = 0
    hang: str = "   "
    number: str = ""
    between: str = "\n"
    end: str = ""
    several: str = "; "
    heading: str = ""
    name_form: str = "{f}, {g}"
    pad: int = 0
    brackets: str = ""


def _labels(text: str) -> dict[str, str]:
    return dict(zip(FIELDS, text.split(","), strict=True))


def _mixed(labels: dict[str, str], order: str) -> dict[str, str]:
    return {field: labels[field] for field in order.split() if field in labels}


_ENGLISH = _labels("Title,Authors,Year,Journal,Volume,Pages,DOI,Abstract,Keywords,Record ID")
_WORDS = _labels("Headline,Written by,Issued,Printed in,Band,Leaves,Link,Digest,Shelf words,Entry no")
_GERMAN = _labels("Titel,Verfasser,Erscheinungsjahr,Zeitschrift,Band,Seiten,DOI,Zusammenfassung,Schlagwörter,Nummer")
_FRENCH = _labels("Titre,Auteurs,Année,Revue,Volume,Pages,DOI,Résumé,Mots-clés,Notice")
_SPANISH = _labels("Título,Autores,Año,Revista,Volumen,Páginas,DOI,Resumen,Palabras clave,Registro")
_POLISH = _labels("Tytuł,Autorzy,Rok,Czasopismo,Tom,Strony,DOI,Streszczenie,Słowa kluczowe,Nr rekordu")
_ITALIAN = _labels("Titolo,Autori,Anno,Rivista,Volume,Pagine,DOI,Riassunto,Parole chiave,Scheda")
_TWO = _labels("TT,AA,YY,JJ,VV,PP,DD,XX,WW,NN")
_THREE = _labels("TIT,AUT,YEA,JOU,VOL,PAG,DOI,ABS,KEY,NUM")
_FOUR = _labels("TITL,AUTH,YEAR,JRNL,VOLU,PAGE,IDEN,ABST,TERM,RECN")
_SMALL = _labels("title,author,year,source,vol,pp,doi,summary,terms,id")
_DIGITS = _labels("T10,A20,Y30,J40,V50,P60,D70,S80,K90,R01")
_DUTCH = _labels("Titel,Auteurs,Jaar,Tijdschrift,Deel,Bladzijden,DOI,Samenvatting,Trefwoorden,Nummer")
_SWEDISH = _labels("Titel,Författare,År,Tidskrift,Volym,Sidor,DOI,Sammanfattning,Ämnesord,Post")
_PORTUGUESE = _labels("Título,Autores,Ano,Revista,Volume,Páginas,DOI,Resumo,Palavras-chave,Registo")
_INVENTED = _labels("What,Who,When,Where,Part,From to,Permanent,About,Filed under,Slip")
_CODES = _labels("K1,K2,K3,K4,K5,K6,K7,K8,K9,K0")
_CZECH = _labels("Název,Autoři,Rok,Časopis,Ročník,Strany,DOI,Abstrakt,Klíčová slova,Záznam")
_LONG = _labels(
    "Title of the paper,Names of the authors,Year of publication,Name of journal,Volume number,Page range,Digital identifier,Abstract text,Subject words,Library number"
)
_FIRST_ID = "accession title authors year journal volume pages doi abstract keywords"
_FIRST_AUTHOR = "authors title journal year volume pages abstract keywords doi accession"

TUNE = [
    Manner("colon", _ENGLISH), Manner("colon, records numbered", _ENGLISH, number="{k}."), Manner("colon, wrapped hanging", _ENGLISH, width=70),
    Manner("words, wrapped", _WORDS, width=76, heading="Library of Lids, printed for readers\n"), Manner("equals", _SMALL, after=" = "), Manner("equals, tight", _FOUR, after="="),
    Manner("tab", _ENGLISH, after="\t"), Manner("two letters, dash", _TWO, after=" - "), Manner("two letters, colon", _TWO, after=": "), Manner("three letters, blank", _THREE, after=" "),
    Manner("three letters, padded dash", _THREE, after="- ", pad=5, width=76, hang="      "), Manner("brackets", _THREE, before="<", after="> "), Manner("square brackets", _SMALL, before="[", after="] ", number="#{k}"),
    Manner("german", _GERMAN), Manner("french", _FRENCH, after=" : "), Manner("spanish, numbered", _SPANISH, number="Registro {k} de {n}"), Manner("polish", _POLISH, width=72),
    Manner("italian, ruled", _ITALIAN, between="\n----------------\n"), Manner("end label", _TWO, after=" - ", end="EE - ", between=""), Manner("end label, colon", _ENGLISH, end="End", between="\n"),
    Manner("identifier first, no blank lines", _mixed(_ENGLISH, _FIRST_ID), between=""), Manner("author first, label repeated", _mixed(_THREE, _FIRST_AUTHOR), after=": ", several="label"),
    Manner("names a line each", _ENGLISH, several="line"), Manner("indented", _ENGLISH, before="    "), Manner("heading lines", _ENGLISH, after=":\n", before=""),
    Manner("digits in labels", _DIGITS, after=" "), Manner("short names, commas", _ENGLISH, several=", ", name_form="{f} {i}"), Manner("given first", _WORDS, several=", ", name_form="{g} {f}", width=80),
]  # fmt: skip
REPORT = [
    Manner("dutch", _DUTCH), Manner("dutch, equals, wrapped", _DUTCH, after=" = ", width=66, hang="     "), Manner("swedish, tab", _SWEDISH, after="\t"), Manner("portuguese, numbered in a line", _PORTUGUESE, number="[{k}]"),
    Manner("czech, dash", _CZECH, after=" - "), Manner("invented words", _INVENTED), Manner("invented words, ruled", _INVENTED, after=" = ", between="\n=====\n"), Manner("codes", _CODES, after="  "), Manner("codes, colon, end", _CODES, after=":", end="KE:", between=""),
    Manner("long labels", _LONG, width=78), Manner("long labels, indented", _LONG, before="  ", width=90, hang="        "), Manner("small, colon, tight", _SMALL, after=":"), Manner("double colon", _SMALL, after=":: "),
    Manner("bar", _ENGLISH, after=" | "), Manner("arrow", _SMALL, after=" -> "), Manner("angle, closed", _FOUR, before="<", after=">: "), Manner("braces", _TWO, before="{", after="} "), Manner("four letters, en dash", _FOUR, after=" – "),
    Manner("padded colon", _ENGLISH, after=": ", pad=12, width=80, hang=" " * 14), Manner("padded words", _GERMAN, after="  ", pad=20), Manner("percent", _labels("%t,%a,%y,%j,%v,%p,%d,%x,%k,%n"), after=" "), Manner("stars", _SMALL, before="*", after="* "),
    Manner("numbered with of", _FRENCH, number="Notice {k} / {n}", after=" : ", width=75), Manner("slashes between", _ITALIAN, between="\n//\n"), Manner("hash between", _ENGLISH, number="### {k} ###", between=""),
    Manner("authors first, no blank", _mixed(_WORDS, _FIRST_AUTHOR), between=""), Manner("three letters, repeated, end", _mixed(_THREE, _FIRST_ID), after="  ", several="label", end="///", between=""), Manner("names a line each, tab", _SPANISH, after="\t", several="line"),
    Manner("capitals, colon", _labels("TITLE,AUTHOR(S),YEAR,SOURCE,VOLUME,PAGES,DOI,ABSTRACT,DESCRIPTORS,ACCESSION NUMBER"), width=74), Manner("capitals, heading lines", _labels("TITLE,AUTHORS,YEAR,JOURNAL,VOLUME,PAGES,DOI,ABSTRACT,KEYWORDS,RECORD"), after="\n", several="line"),
    Manner("dots", _SMALL, before=".", after=" "), Manner("at signs", _THREE, before="@", after=" "), Manner("wrapped without hanging", _ENGLISH, width=72, hang=""), Manner("two letters, tab, end", _TWO, after="\t", end="ZZ\t", between=""),
    Manner("initials with stops", _POLISH, several="; ", name_form="{i} {f}"), Manner("and between", _ENGLISH, several=" and "), Manner("bars between", _DUTCH, several=" | "), Manner("no abstract, no keywords", _mixed(_GERMAN, "title authors year journal volume pages doi accession")),
    Manner("heading of five lines", _SWEDISH, heading="Bibliotek för bin\nversion 3.2\nSökning: bin och vinter\nDatum: 2026-02-04\nTräffar: 24\n"), Manner("version line", _CZECH, heading="CATALOGUE 2\n", number="{k})"),
    Manner("colon, few fields", _mixed(_INVENTED, "title authors year doi")), Manner("equals, quoted", _ENGLISH, after=' = "', end='"'),
]  # fmt: skip

_FAMILY = [
    "Orsel",
    "Brask",
    "Thistle",
    "Marsh",
    "Quill",
    "Straw",
    "Sorby",
    "Tann",
    "Ames",
    "Kowal",
    "Lorn",
    "Hale",
    "Winter",
    "Petrenko",
    "Garrido",
    "Vestergaard",
]
_GIVEN = [
    "Wilma",
    "Cedric",
    "Ada",
    "Odile",
    "Rudd",
    "Helen",
    "Karl",
    "Maria",
    "Daniel",
    "Zofia",
    "Tamsin",
    "Paul",
    "Olena",
    "Anna",
    "Peter",
    "Jonas",
]
_NOUNS = [
    "hives",
    "wraps",
    "lids",
    "straw",
    "combs",
    "frames",
    "swarms",
    "queens",
    "brood",
    "nectar",
    "pollen",
    "wax",
    "winter",
    "moisture",
    "insulation",
    "mites",
]
_PLACES = ["northern valleys", "western islands", "cold uplands", "dry plains", "coastal farms", "old orchards", "small towns"]


class Meant(NamedTuple):
    """A made-up record, and its names in parts."""

    record: Record
    names: list[tuple[str, str]]


def made(dice: random.Random, k: int) -> Meant:
    """A record that no other manner has."""
    a, b, c = dice.sample(_NOUNS, 3)
    names = list(zip(dice.sample(_FAMILY, n := dice.choice([1, 2, 2, 3, 4])), dice.sample(_GIVEN, n), strict=True))
    year, first = dice.randint(1975, 2025), dice.randint(1, 900)
    title = dice.choice(
        [
            f"{a.title()} and {b} in {dice.choice(_PLACES)}",
            f"Effect of {a} on {b}: a study of {c}",
            f"{a.title()}, {b} and {c} in winter colonies of {dice.choice(_PLACES)}",
        ]
    )
    sentences = [
        f"We compared {dice.choice(_NOUNS)} with {dice.choice(_NOUNS)} in {dice.randint(4, 90)} colonies.",
        f"The {dice.choice(_NOUNS)} were weighed every {dice.randint(2, 9)} days over the winter.",
        f"Losses were {dice.randint(2, 40)} % with {a} and {dice.randint(2, 60)} % without.",
        f"Keepers in {dice.choice(_PLACES)} may use {b}.",
    ]
    record = Record(
        title=title, year=year, journal=dice.choice(["Annals of Made-up Apiculture", "Hive Letters", "Journal of Invented Bee Science", "Archives of Wax"]), volume=str(dice.randint(1, 60)),
        pages=f"{first}–{first + dice.randint(2, 14)}", doi=f"10.5555/m.{year}.{k}{dice.randint(100, 999)}", abstract=" ".join(dice.sample(sentences, 4) + dice.sample(sentences, 2)),
        keywords=tuple(dice.sample([it.title() for it in _NOUNS], dice.randint(2, 4))), accession=f"{dice.choice('HKL')}{100000 + k}",
    )  # fmt: skip
    return Meant(record, names)


def written(manner: Manner, dice: random.Random, n: int = 24) -> tuple[str, list[Meant]]:
    """A file of so many records in a manner, and what they are."""
    meant = [made(dice, k) for k in range(n)]
    out = [manner.heading]
    for k, it in enumerate(meant, 1):
        lines = [manner.number.format(k=k, n=n)] if manner.number else []
        for field, label in manner.labels.items():
            head = f"{manner.before}{label}".ljust(manner.pad) + manner.after
            if field == "authors":
                said = [manner.name_form.format(f=f, g=g, i=g[0] + ("." if "{i} {f}" in manner.name_form else "")) for f, g in it.names]
            elif field == "keywords":
                said = list(it.record.keywords)
            else:
                said = [str(getattr(it.record, field)).replace("–", "-")]
            if manner.several == "label" and field in ("authors", "keywords"):
                lines += [head + one for one in said]
            elif manner.several == "line" and field in ("authors", "keywords"):
                lines.append(head + said[0])
                lines += [("" if head.endswith("\n") else manner.hang) + one for one in said[1:]]
            else:
                between = manner.several if field == "authors" and manner.several not in ("label", "line") else "; "
                text = head + between.join(said)
                lines.append(
                    "\n".join(
                        textwrap.wrap(text, manner.width, subsequent_indent=manner.hang, break_long_words=False, break_on_hyphens=False)
                    )
                    if manner.width
                    else text
                )
            if manner.end == '"':
                lines[-1] += '"'
        if manner.end not in ("", '"'):
            lines.append(manner.end)
        out.append("\n".join(lines) + "\n" + manner.between)
    return "".join(out), meant


def right(manner: Manner, record: Record, it: Meant) -> dict[str, bool]:
    """Which fields of a record were read as they were meant."""
    found = {}
    for field in manner.labels:
        value, wanted = getattr(record, field), getattr(it.record, field)
        if field == "authors":
            found[field] = [(one.partition(", ")[0], one.partition(", ")[2][:1]) for one in value] == [(f, g[0]) for f, g in it.names]
        elif field == "keywords":
            found[field] = tuple(value) == tuple(wanted)
        elif field in ("abstract", "title"):
            found[field] = folded(value) == folded(wanted)
        else:
            found[field] = value == wanted
    return found


def measured(manner: Manner, seed: int) -> tuple[float, str]:
    """The share of a manner's fields that are read right, and which are not."""
    text, meant = written(manner, random.Random(f"{manner.name} {seed}"))
    try:
        reading = open_reading(io.BytesIO(text.encode()))
        records = [entry.record for entry in reading]
    except NotReadable as error:
        return 0.0, str(error)[:60]
    if len(records) != len(meant):
        return 0.0, f"{len(records)} records for {len(meant)}, as {reading.format}"
    marks = [right(manner, record, it) for record, it in zip(records, meant, strict=True)]
    wrong = [field for field in manner.labels if sum(it[field] for it in marks) < 0.95 * len(marks)]
    return sum(sum(it.values()) for it in marks) / (len(marks) * len(manner.labels)), ", ".join(wrong)


def drawn(n: int) -> list[Manner]:
    """Manners put together by chance from labels, signs and layouts of both sets, so that most are like none of them."""
    dice, known = random.Random(7), TUNE + REPORT
    out = []
    for k in range(n):
        one = dice.choice([it for it in known if it.end != '"'])
        layout, names = dice.choice([it for it in known if it.end in ("", "End", "///")]), dice.choice(known)
        joined = one._replace(
            labels=dice.choice([it.labels for it in known if len(it.labels) > 7 and (one.after not in (" ", "  ", "- ") or max(map(len, it.labels.values())) < 6)]),
            width=layout.width, hang=layout.hang, number=layout.number, heading=layout.heading, between="" if one.end else layout.between or "\n",
            several=names.several if names.several != "line" or layout.hang else "; ", name_form=names.name_form,
        )  # fmt: skip
        out.append(joined._replace(name=f"drawn {k + 1}"))
    return out


def main() -> None:
    which = {"tune": TUNE, "report": REPORT}.get("".join(sys.argv[1:2]), drawn(60))
    shares = []
    for manner in which:
        share, why = measured(manner, 1)
        shares.append(share)
        if share < 0.999:
            print(f"  {manner.name:32} {100 * share:5.1f} %  {why}")
    tell(f"fields of {len(which)} manners read right, per cent", 100 * sum(shares) / len(shares), 95, at_most=False)


if __name__ == "__main__":
    main()
