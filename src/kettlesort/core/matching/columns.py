"""What is compared of records: their fields folded so that spelling habits do not count, column by column.

A million records have to fit, so a column is an array of numbers wherever equality is all that
counts: equal text has the same number, 0 means that the record does not say.
"""

from __future__ import annotations

import math
import re
from array import array
from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kettlesort.core.matching.keys import KEYS, keys_of
from kettlesort.core.matching.marks import language_of, marks_of, version_of, without_label
from kettlesort.core.record import KINDS, SPELLED, Folding, Record, folded, plain

Array = NDArray[Any]

AUTHORS = 8
"""So many authors of a record are compared."""
_SAID = 900
"""So many letters of an abstract are looked at for them."""

ARTICLES = frozenset(
    [
        "a",
        "an",
        "the",
        "of",
        "and",
        "in",
        "on",
        "for",
        "to",
        "with",
        "by",
        "from",
        "at",
        "as",
        "its",
        "is",
        "are",
        "der",
        "die",
        "das",
        "des",
        "und",
        "im",
        "von",
        "zur",
        "zum",
        "fur",
        "le",
        "la",
        "les",
        "du",
        "de",
        "et",
        "en",
        "el",
        "los",
        "las",
        "un",
        "une",
        "ein",
        "eine",
        "del",
        "il",
    ]
)
_LETTERED = frozenset(
    [
        "vitamin",
        "hepatitis",
        "influenza",
        "type",
        "group",
        "protein",
        "class",
        "part",
        "serotype",
        "grade",
        "phase",
        "model",
        "study",
        "stage",
        "apolipoprotein",
        "immunoglobulin",
    ]
)
_LETTERS = Folding(
    {
        ord("α"): " alpha ", ord("β"): " beta ", ord("γ"): " gamma ", ord("δ"): " delta ", ord("ε"): " epsilon ", ord("ζ"): " zeta ", ord("η"): " eta ", ord("θ"): " theta ", ord("κ"): " kappa ",
        ord("λ"): " lambda ", ord("μ"): " mu ", ord("µ"): " mu ", ord("ν"): " nu ", ord("π"): " pi ", ord("ρ"): " rho ", ord("σ"): " sigma ", ord("τ"): " tau ", ord("φ"): " phi ", ord("χ"): " chi ",
        ord("ψ"): " psi ", ord("ω"): " omega ",
        ord("°"): " degrees ", ord("±"): " ", ord("×"): " ", ord("→"): " to ", ord("&"): " and ", ord("%"): " percent ", ord("'"): "", ord("’"): "", ord("‘"): "", ord("ʼ"): "",
    }
)  # fmt: skip
_LETTERS.update({ord(letter): said for letter, said in SPELLED.items()})
_GREEK_MARKUP = re.compile(r"[$\\{}]+|\bmathrm\b|\btext(?:it|bf|rm)\b")
_SAID_TWICE = re.compile(r"\s*\[([^\[\]]{12,})\]\s*\.?$")
_TYPE_SAID = re.compile(
    r"\s*[\[(](?:review|abstract|article|letter|editorial|poster|conference abstract|meeting abstract|comment|correction|erratum|retracted(?: article)?)[\])]\s*\.?$",
    re.I,
)
_PARTICLES = frozenset(
    [
        "van",
        "von",
        "der",
        "den",
        "de",
        "del",
        "della",
        "di",
        "da",
        "dos",
        "du",
        "la",
        "le",
        "ter",
        "ten",
        "zu",
        "zur",
        "af",
        "el",
        "al",
        "bin",
        "ibn",
        "st",
        "saint",
        "o",
        "d",
        "mc",
        "mac",
    ]
) - {"mc", "mac", "st", "saint"}
_LATER = frozenset(["jr", "sr", "ii", "iii", "iv", "phd", "md", "msc"])
_UMLAUT = re.compile(r"([aou])e(?![aeiou])")
_SERIAL = re.compile(r"\b(\d{4})-?(\d{3}[\dxX])\b")
_NUMBER = re.compile(r"\d+[a-z]?")


class Columns:
    """The comparable forms of n records.

    ``titles``, ``names`` and ``abstracts`` are lists of n texts; ``info`` is how much agreement on the title
    says, in nats of its words' rarity; all others are arrays of n numbers. ``second`` has the titles in another language of
    those that have one. ``keys``, m × `KEYS`, has a row for each title; ``owner`` says which record it is of, and
    ``among_titles`` and ``among_others`` where it stands among those with the same key.
    """

    def __init__(self) -> None:
        self.titles: list[str] = []
        self.names: list[str] = []
        self.abstracts: list[str] = []
        self.second: dict[int, str] = {}
        self.dois: list[str] = [""]
        self.venues: list[tuple[str, frozenset[str]]] = [("", frozenset())]
        self.numbers: dict[str, Array] = {}
        self.info: Array = np.zeros(0, np.float32)

    def __len__(self) -> int:
        return len(self.titles)

    def __getattr__(self, name: str) -> Array:
        try:
            return self.__dict__["numbers"][name]  # type: ignore[no-any-return]
        except KeyError:
            raise AttributeError(name) from None


class _Ids(dict[Any, int]):
    """Numbers its keys from 1 in the order in which they are asked for."""

    def __missing__(self, key: Any) -> int:
        self[key] = len(self) + 1
        return self[key]


@lru_cache(maxsize=65536)
def venue_name(text: str) -> str:
    """A journal's name to compare: folded, without a subtitle in brackets."""
    return folded(re.sub(r"\s*\(.*?\)", "", text.replace("&", " and ")) or text)


@lru_cache(maxsize=262144)
def family_name(name: str) -> str:
    """A family name to compare: without particles, titles, accents and ways to write an umlaut."""
    if name.isascii() and name.isalpha():
        word = name.lower()
    else:
        words = folded(name.replace("'", "").replace("’", "")).split()
        kept = [word for word in words if word not in _PARTICLES and word not in _LATER] or words
        word = "".join(kept)
    return _UMLAUT.sub(r"\1", word)


def title_of(said: str) -> str:
    """A title to compare: signs spelled out, without mark-up, articles, its repetition in another language and the record's type."""
    if "]" in said or ")" in said:
        said = _TYPE_SAID.sub("", said) or said
        if said.endswith(("]", "].")) and not said.startswith("["):
            said = _SAID_TWICE.sub("", said)
    if "\\" in said or "$" in said:
        said = _GREEK_MARKUP.sub(" ", said)
    if "<" in said or "&" in said:
        said = plain(said)
    title = " ".join(said.translate(_LETTERS).split())
    return without_label(title)


def significant(title: str) -> str:
    """A folded title without its articles and small words; whole if it has nothing else."""
    words = title.split(" ")
    kept = [word for word in words if word not in ARTICLES]
    if len(kept) == len(words):
        return title
    if "a" in words:  # of "vitamin A" it is no article
        kept = [
            w for k, w in enumerate(words) if w not in ARTICLES or (w == "a" and k and (k == len(words) - 1 or words[k - 1] in _LETTERED))
        ]
    return " ".join(kept) or title


def page_of(pages: str) -> tuple[str, bool]:
    """The first page, without the letter of an electronic one, and whether it may be an article's number instead.

    >>> page_of("e0123–e0130"), page_of("101–18")
    (('123', True), ('101', False))
    """
    first = pages.lower().partition("–")[0]
    found = _NUMBER.search(first)
    if found is None:
        return first.strip(), True
    number = found[0].lstrip("0") or "0"
    return number, first[0] == "e" or len(number) >= 5


def columns_of(records: Iterable[Record], tick: Callable[[int], None] | None = None) -> Columns:
    """The comparable forms of records, read once in their order; ``tick`` is called with the number read now and then."""
    out = Columns()
    ids = {
        name: _Ids() for name in ("family", "venue", "volume", "issue", "page", "doi", "version", "accession", "language", "title", "mark")
    }
    family, venue, mark, title_ids, volumes, issues, pages = (
        ids[name] for name in ("family", "venue", "mark", "title", "volume", "issue", "page")
    )
    dois, versions, accessions, languages = (ids[name] for name in ("doi", "version", "accession", "language"))
    kinds = {kind: k + 1 if kind != "other" else 0 for k, kind in enumerate(KINDS)}
    # flat arrays of numbers, which the garbage collector need not look through
    table, families, keys, places = array("i"), array("i"), array("q"), array("q")
    more: list[tuple[int, str, list[str], Record]] = []
    count = 0
    for count, record in enumerate(records, 1):
        if tick and count % 2000 == 1:
            tick(count - 1)
        said = title_of(record.title)
        title = significant(said)
        words = title.split(" ")
        out.titles.append(title)
        again = _SAID_TWICE.search(record.title) if record.title.endswith(("]", "].")) and record.title[:1] != "[" else None
        names = record.authors[: AUTHORS + 1]
        authors = [name.partition(",") for name in names if not name.startswith(_AND_OTHERS)][:AUTHORS]
        fam = [family_name(it[0]) for it in authors]
        families.extend([family[name] for name in fam])
        families.extend(_NOBODY[len(fam) :])
        given = [it[2].strip().lower() for it in authors[:3]]
        out.names.append("|".join([f"{one},{two}" for one, two in zip(fam, given, strict=False)]))
        out.abstracts.append(record.abstract[:_SAID] if len(record.abstract) >= 60 else "")
        page, lone = page_of(record.pages) if record.pages else ("", True)
        doi, version = version_of(record.doi) if record.doi else ("", "")
        volume = number_of(record.volume) if record.volume else ""
        issue = number_of(record.issue) if record.issue else ""
        marks = marks_of(record, said, words)
        places.extend(keys_of(words, fam, record, doi, volume, page, keys))
        if again:
            second = out.second[count - 1] = significant(title_of(again[1]))
            more.append((count - 1, second, fam, record))
        table.extend(
            (
                title_ids[title] if title else 0,
                len(title),
                len(fam),
                int(len(names) != len(fam) and len(names) <= AUTHORS),
                ord(given[0][0]) if given and given[0] else 0,
                record.year or 0,
                venue[_venue_of(record.journal, record.journal_short, record.issn)]
                if record.journal or record.journal_short or record.issn
                else 0,
                volumes[volume] if volume else 0,
                issues[issue] if issue else 0,
                pages[page] if page else 0,
                lone,
                dois[doi] if doi else 0,
                versions[version] if version else 0,
                accessions[record.accession.lower()] if len(record.accession) >= 7 else 0,
                kinds.get(record.kind, 0),
                languages[language_of(record.language)] if record.language else 0,
                record.title[:2].lstrip()[:1] == "[",
                len(record.abstract) >= 60,
                mark[marks.numbers] if marks.numbers else 0,
                marks.notice,
                marks.protocol,
                mark[marks.edition] if marks.edition else 0,
                mark[marks.update] if marks.update else 0,
                marks.preprint,
                marks.meeting,
            )
        )
    columns = np.array(table, dtype=np.int32).reshape(count, len(_COLUMNS))
    out.numbers = {name: np.ascontiguousarray(columns[:, k]) for k, name in enumerate(_COLUMNS)}
    out.numbers["families"] = np.array(families, dtype=np.int32).reshape(count, AUTHORS)
    for _, second, fam, record in more:
        places.extend(keys_of(second.split(" "), fam, record, "", "", "", keys))
    out.numbers["owner"] = np.array([*range(count), *(position for position, _, _, _ in more)], dtype=np.int64)
    out.numbers["keys"] = np.array(keys, dtype=np.int64).reshape(-1, KEYS)
    place = np.array(places, dtype=np.int64).reshape(-1, 2)
    out.numbers["among_titles"], out.numbers["among_others"] = np.ascontiguousarray(place[:, 0]), np.ascontiguousarray(place[:, 1])
    out.dois += list(ids["doi"])
    out.venues += list(venue)
    return out


_AND_OTHERS = ("et al", "Et al", "ET AL")
_NOBODY = [0] * AUTHORS
_COLUMNS = (
    "title", "length", "authors", "several", "initial", "year", "venue", "volume", "issue", "page", "lone", "doi", "version", "accession", "kind", "language",
    "bracketed", "abstracted", "counted", "notice", "protocol", "edition", "update", "preprint", "meeting",
)  # fmt: skip


@lru_cache(maxsize=65536)
def _venue_of(journal: str, short: str, issn: str) -> tuple[str, frozenset[str]]:
    """A journal's names, joined by a bar, and its serial numbers."""
    names = dict.fromkeys([venue_name(name) for name in (journal, short) if name])
    return "|".join(names), frozenset(["".join(it).lower() for it in _SERIAL.findall(issn)])


@lru_cache(maxsize=65536)
def number_of(text: str) -> str:
    """The first number of a volume or an issue, without leading zeros; the text itself if it has none."""
    text = text.lower()
    found = _NUMBER.search(text)
    return (found[0].lstrip("0") if found else "") or text.strip()


_UNTITLED = frozenset(
    significant(name)
    for name in [
        "authors reply",
        "author s reply",
        "authors response",
        "book review",
        "book reviews",
        "letter",
        "letters",
        "letter to editor",
        "letters to editor",
        "to editor",
        "in this issue",
        "untitled",
        "editor s note",
        "editors note",
        "editor note",
        "from editor",
        "comment",
        "commentary",
        "comments",
        "correspondence",
        "news",
        "news and views",
        "obituary",
        "abstracts",
        "abstract",
        "index",
        "announcement",
        "announcements",
        "discussion",
        "conclusion",
        "conclusions",
        "acknowledgements",
        "acknowledgments",
        "erratum",
        "corrigendum",
        "correction",
        "corrections",
        "retraction",
        "case report",
        "case reports",
        "review",
        "reviews",
        "notes",
        "note",
        "contents",
        "table contents",
        "issue information",
        "front matter",
        "back matter",
        "cover",
        "poster presentations",
        "oral presentations",
        "guest editorial",
        "message from editor",
        "president s message",
        "presidential address",
        "in memoriam",
        "summary",
        "background",
        "no title",
        "vorwort",
        "einleitung",
        "buchbesprechung",
        "editorial note",
        "prologo",
        "introduccion",
        "avant propos",
        "postface",
        "afterword",
        "epilogue",
        "book notes",
        "errata",
        "invited commentary",
        "perspective",
        "viewpoint",
        "editorial",
        "editorials",
        "introduction",
        "preface",
        "foreword",
        "reply",
        "replies",
        "response",
    ]
)
"""Titles, without articles, that name no more than a kind of piece."""

RARE = 0.002
"""A word is taken to stand in at least this share of titles."""
_MOST = 42.0
"""So much, in nats, a title says at most: about seven rare words."""


def common_words(titles: Sequence[str]) -> dict[str, float]:
    """The words that stand in more than one of 500 titles, and in what share of them.

    A small review says little about what is rare, so it is taken for one of 500 titles more.
    """
    counted: Counter[str] = Counter()
    for title in titles:
        counted.update(set(title.split()))
    size = len(titles) + 500
    return {word: n / size for word, n in counted.items() if n / size > RARE}


def prepare(columns: Columns, common: Mapping[str, float], shared: Iterable[str]) -> None:
    """Let columns know what is common: work out ``info``, how much the words of each title say, and which DOIs are ``shared``."""
    said = {word: -math.log(share) for word, share in common.items()}
    rare = -math.log(RARE)
    columns.info = np.array(
        [0.0 if title in _UNTITLED else min(_MOST, sum([said.get(word, rare) for word in set(title.split())])) for title in columns.titles],
        dtype=np.float32,
    )
    among = frozenset(shared)
    columns.numbers["shared"] = np.array([doi in among for doi in columns.dois], bool)
