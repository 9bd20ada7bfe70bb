"""What is compared of records: their fields folded so that spelling habits do not count, column by column.

A million records have to fit, so a column is an array of numbers wherever equality is all that
counts: equal text has the same number, 0 means that the record does not say.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kettlesort.core.matching.folding import SAID_TWICE, number_of, page_of, person_of, significant, title_of, venue_of
from kettlesort.core.matching.keys import Keyed, keys_of
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
    says, in nats of its words' rarity; all others are arrays of n numbers, but for ``words``, which has the numbers of the words of
    all titles one after the other, ``worded`` of them for each. ``source`` is for
    who knows it to fill in: a number from 1 for each record's. ``second`` has the titles in another language of those that have one. ``keys``, m × `KEYS`, has a row for each title; ``owner`` says which record it is of, and
    ``among_titles`` and ``among_others`` where it stands among those with the same key.
    """

    def __init__(self) -> None:
        self.titles: list[str] = []
        self.names: list[str] = []
        self.abstracts: list[str] = []
        self.second: dict[int, str] = {}
        self.dois: list[str] = [""]
        self.venues: list[tuple[str, frozenset[str]]] = [("", frozenset())]
        self.vocabulary: list[str] = [""]
        self.people: list[str] = [""]
        self.renamed: frozenset[tuple[int, int]] = frozenset()
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


class _Venues(dict[tuple[str, str, str], int]):
    """The number of a journal that is said by its name, its short name and its serial numbers."""

    def __init__(self, numbers: _Ids) -> None:
        self.numbers = numbers

    def __missing__(self, said: tuple[str, str, str]) -> int:
        self[said] = number = self.numbers[venue_of(*said)]
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
_KINDS = {kind: k + 1 if kind != "other" else 0 for k, kind in enumerate(KINDS)}
_NAMED = ("family", "venue", "volume", "issue", "page", "doi", "version", "accession", "language", "title", "word", "mark")
"""Columns whose values are numbered in the order in which they come; "" is 0."""


class _Making:
    """Columns in the making: a chunk of records at a time, one field after the other, which is faster than record by record."""

    def __init__(self) -> None:
        self.out = Columns()
        self.ids = {name: _Ids({"": 0}) for name in _NAMED}
        self.ids["venue"] = _Ids({("", frozenset()): 0})
        self.venues = _Venues(self.ids["venue"])
        self.numbers: dict[str, list[Array]] = {}
        self.keyed: list[tuple[Array, Array, Array]] = []
        self.more: list[tuple[int, list[str], list[str], int]] = []

    def _put(self, name: str, values: Iterable[int]) -> None:
        self.numbers.setdefault(name, []).append(np.fromiter(values, np.int32))

    def add(self, chunk: list[Record]) -> None:
        """Take in some records."""
        out, ids, put = self.out, self.ids, self._put
        first = len(out)
        said = [title_of(record.title) for record in chunk]
        words = [significant(title) for title in said]
        titles = [" ".join(some) for some in words]
        names = [record.authors[: AUTHORS + 1] for record in chunk]
        people = [[one for one in map(person_of, some) if one][:AUTHORS] for some in names]
        families = [[one.family for one in some] for some in people]
        pages = [page_of(record.pages) if record.pages else ("", True) for record in chunk]
        dois = [version_of(record.doi) if record.doi else ("", "") for record in chunk]
        volumes = [number_of(record.volume) if record.volume else "" for record in chunk]
        marks = [marks_of(each, title, some) for each, title, some in zip(chunk, said, words, strict=True)]
        accessions = [record.accession.lower() if len(record.accession) >= 7 else "" for record in chunk]
        abstracts = [record.abstract[:_SAID] if len(record.abstract) >= 60 else "" for record in chunk]
        self.keyed.append(
            keys_of(
                Keyed(
                    words,
                    families,
                    [record.year or 0 for record in chunk],
                    [doi for doi, _ in dois],
                    volumes,
                    [page for page, _ in pages],
                    accessions,
                    abstracts,
                )
            )
        )
        for k, record in enumerate(chunk):
            if record.title.endswith(("]", "].")) and record.title[:1] != "[" and (again := SAID_TWICE.search(record.title)):
                second = significant(title_of(again[1]))
                out.second[first + k] = " ".join(second)
                self.more.append((first + k, second, families[k], record.year or 0))
        out.titles += titles
        out.names += ["|".join([one.names for one in some[:3]]) for some in people]
        out.abstracts += abstracts
        family, word = ids["family"], ids["word"]
        put("families", [family[name] for some in families for name in some])
        put("words", [word[each] for some in words for each in some])
        put("worded", map(len, words))
        put("title", [ids["title"][text] for text in titles])
        put("length", map(len, titles))
        put("authors", map(len, families))
        put("several", [len(some) != len(fam) and len(some) <= AUTHORS for some, fam in zip(names, families, strict=True)])
        put("initial", [ord(some[0].initial) if some and some[0].initial else 0 for some in people])
        put("year", [each.year or 0 for each in chunk])
        put("venue", [self.venues[each.journal, each.journal_short, each.issn] for each in chunk])
        put("volume", [ids["volume"][volume] for volume in volumes])
        put("issue", [ids["issue"][number_of(each.issue)] if each.issue else 0 for each in chunk])
        put("page", [ids["page"][page] for page, _ in pages])
        put("lone", [lone for _, lone in pages])
        put("doi", [ids["doi"][doi] for doi, _ in dois])
        put("version", [ids["version"][version] for _, version in dois])
        put("accession", [ids["accession"][accession] for accession in accessions])
        put("kind", [_KINDS.get(each.kind, 0) for each in chunk])
        put("language", [ids["language"][language_of(each.language)] if each.language else 0 for each in chunk])
        put("bracketed", [each.title[:2].lstrip()[:1] == "[" for each in chunk])
        put("abstracted", map(bool, abstracts))
        for name, values in zip(Marks._fields, zip(*marks, strict=True) if marks else [()] * len(Marks._fields), strict=True):
            put(name, [ids["mark"][value] for value in values] if name in ("numbers", "edition", "update") else values)

    def done(self) -> Columns:
        """The columns, as arrays."""
        out, count = self.out, len(self.out)
        more, none = self.more, [""] * len(self.more)
        self.keyed.append(
            keys_of(Keyed([one[1] for one in more], [one[2] for one in more], [one[3] for one in more], none, none, none, none, none))
        )
        if not count:
            self.add([])
        out.numbers = {name: np.concatenate(parts) for name, parts in self.numbers.items()}
        out.numbers["counted"] = out.numbers.pop("numbers")
        out.numbers["source"] = np.zeros(count, np.int32)
        families = np.zeros((count, AUTHORS), np.int32)
        families[np.arange(AUTHORS) < out.authors[:, None]] = out.families
        out.numbers["families"] = families
        out.numbers["owner"] = np.array([*range(count), *(position for position, _, _, _ in more)], dtype=np.int64)
        out.numbers["keys"] = np.concatenate([keys for keys, _, _ in self.keyed], axis=1).T
        out.numbers["among_titles"] = np.concatenate([place for _, place, _ in self.keyed])
        out.numbers["among_others"] = np.concatenate([place for _, _, place in self.keyed])
        out.dois, out.venues = list(self.ids["doi"]), list(self.ids["venue"])
        out.vocabulary, out.people = list(self.ids["word"]), list(self.ids["family"])
        return out
