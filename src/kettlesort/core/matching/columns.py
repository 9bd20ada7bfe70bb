"""What is compared of records: their fields folded so that spelling habits do not count, column by column.

A million records have to fit, so a column is an array of numbers wherever equality is all that
counts: equal text has the same number, 0 means that the record does not say.
"""

from __future__ import annotations

import itertools
import math
from array import array
from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kettlesort.core.matching.folding import SAID_TWICE, family_name, number_of, page_of, significant, title_of, venue_of
from kettlesort.core.matching.keys import KEYS, Keyed, keys_of
from kettlesort.core.matching.marks import Marks, language_of, marks_of, version_of
from kettlesort.core.record import KINDS, Record

Array = NDArray[Any]

AUTHORS = 8
"""So many authors of a record are compared."""
_SAID = 900
"""So many letters of an abstract are looked at for them."""


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
    """Numbers its keys in the order in which they are asked for."""

    def __missing__(self, key: Any) -> int:
        self[key] = number = len(self)
        return number


def columns_of(records: Iterable[Record], tick: Callable[[int], None] | None = None) -> Columns:
    """The comparable forms of records, read once in their order; ``tick`` is called with the number read now and then."""
    making = _Making()
    source = iter(records)
    while chunk := list(itertools.islice(source, _CHUNK)):
        if tick:
            tick(len(making.out))
        making.add(chunk)
    return making.done()


_CHUNK = 1000
_NOBODY = [0] * AUTHORS
_AND_OTHERS = ("et al", "Et al", "ET AL")
_KINDS = {kind: k + 1 if kind != "other" else 0 for k, kind in enumerate(KINDS)}
_NAMED = ("family", "venue", "volume", "issue", "page", "doi", "version", "accession", "language", "title", "mark")
"""Columns whose values are numbered in the order in which they come; "" is 0."""


class _Making:
    """Columns in the making: a chunk of records at a time, one field after the other, which is faster than record by record."""

    def __init__(self) -> None:
        self.out = Columns()
        self.ids = {name: _Ids({"": 0}) for name in _NAMED}
        self.ids["venue"] = _Ids({("", frozenset()): 0})
        # flat arrays of numbers, which the garbage collector need not look through
        self.numbers: dict[str, array[int]] = {}
        self.families = array("i")
        self.keys = [array("q") for _ in range(KEYS)]
        self.among_titles, self.among_others = array("q"), array("q")
        self.more: list[tuple[int, str, list[str], Record]] = []

    def _put(self, name: str, values: Iterable[int]) -> None:
        self.numbers.setdefault(name, array("i")).extend(values)

    def _key(self, it: Keyed) -> None:
        keys, among_titles, among_others = keys_of(it)
        for into, values in zip(self.keys, keys, strict=True):
            into.extend(values)
        self.among_titles.extend(among_titles)
        self.among_others.extend(among_others)

    def add(self, chunk: list[Record]) -> None:
        """Take in some records."""
        out, ids, put = self.out, self.ids, self._put
        first = len(out)
        said = [title_of(it.title) for it in chunk]
        titles = [significant(title) for title in said]
        words = [title.split(" ") for title in titles]
        names = [it.authors[: AUTHORS + 1] for it in chunk]
        parts = [[name.partition(",") for name in some if not name.startswith(_AND_OTHERS)][:AUTHORS] for some in names]
        families = [[family_name(it[0]) for it in some] for some in parts]
        given = [[it[2].strip().lower() for it in some[:3]] for some in parts]
        pages = [page_of(it.pages) if it.pages else ("", True) for it in chunk]
        dois = [version_of(it.doi) if it.doi else ("", "") for it in chunk]
        volumes = [number_of(it.volume) if it.volume else "" for it in chunk]
        marks = [marks_of(it, title, some) for it, title, some in zip(chunk, said, words, strict=True)]
        self._key(Keyed(chunk, words, families, [doi for doi, _ in dois], volumes, [page for page, _ in pages]))
        for k, it in enumerate(chunk):
            if it.title.endswith(("]", "].")) and it.title[:1] != "[" and (again := SAID_TWICE.search(it.title)):
                second = out.second[first + k] = significant(title_of(again[1]))
                self.more.append((first + k, second, families[k], it))
        out.titles += titles
        out.names += [
            "|".join([f"{one},{two}" for one, two in zip(fam, own, strict=False)]) for fam, own in zip(families, given, strict=True)
        ]
        out.abstracts += [it.abstract[:_SAID] if len(it.abstract) >= 60 else "" for it in chunk]
        family = ids["family"]
        for fam in families:
            self.families.extend([family[name] for name in fam])
            self.families.extend(_NOBODY[len(fam) :])
        put("title", [ids["title"][it] for it in titles])
        put("length", map(len, titles))
        put("authors", map(len, families))
        put("several", [len(some) != len(fam) and len(some) <= AUTHORS for some, fam in zip(names, families, strict=True)])
        put("initial", [ord(own[0][0]) if own and own[0] else 0 for own in given])
        put("year", [it.year or 0 for it in chunk])
        put("venue", [ids["venue"][venue_of(it.journal, it.journal_short, it.issn)] for it in chunk])
        put("volume", [ids["volume"][it] for it in volumes])
        put("issue", [ids["issue"][number_of(it.issue)] if it.issue else 0 for it in chunk])
        put("page", [ids["page"][page] for page, _ in pages])
        put("lone", [lone for _, lone in pages])
        put("doi", [ids["doi"][doi] for doi, _ in dois])
        put("version", [ids["version"][version] for _, version in dois])
        put("accession", [ids["accession"][it.accession.lower()] if len(it.accession) >= 7 else 0 for it in chunk])
        put("kind", [_KINDS.get(it.kind, 0) for it in chunk])
        put("language", [ids["language"][language_of(it.language)] if it.language else 0 for it in chunk])
        put("bracketed", [it.title[:2].lstrip()[:1] == "[" for it in chunk])
        put("abstracted", [len(it.abstract) >= 60 for it in chunk])
        for name, values in zip(Marks._fields, zip(*marks, strict=True), strict=True):
            put(name, [ids["mark"][value] for value in values] if name in ("numbers", "edition", "update") else values)

    def done(self) -> Columns:
        """The columns, as arrays."""
        out, count = self.out, len(self.out)
        none = [""] * len(self.more)
        again = [(record, second.split(" "), fam) for _, second, fam, record in self.more]
        self._key(Keyed([it[0] for it in again], [it[1] for it in again], [it[2] for it in again], none, none, none))
        names = (
            "title",
            "length",
            "authors",
            "several",
            "initial",
            "year",
            "venue",
            "volume",
            "issue",
            "page",
            "lone",
            "doi",
            "version",
            "accession",
        )
        for name in (*names, "kind", "language", "bracketed", "abstracted", *Marks._fields):
            out.numbers[name] = np.array(self.numbers.get(name, ()), dtype=np.int32)
        out.numbers["counted"] = out.numbers.pop("numbers")
        out.numbers["families"] = np.array(self.families, dtype=np.int32).reshape(count, AUTHORS)
        out.numbers["owner"] = np.array([*range(count), *(position for position, _, _, _ in self.more)], dtype=np.int64)
        out.numbers["keys"] = np.stack([np.array(values, dtype=np.int64) for values in self.keys], axis=1)
        out.numbers["among_titles"] = np.array(self.among_titles, dtype=np.int64)
        out.numbers["among_others"] = np.array(self.among_others, dtype=np.int64)
        out.dois, out.venues = list(self.ids["doi"]), list(self.ids["venue"])
        return out


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
