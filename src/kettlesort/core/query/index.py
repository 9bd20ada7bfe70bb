"""An inverted index of records: which word stands where. Built once, asked often."""

from __future__ import annotations

import re
from array import array
from bisect import bisect_left
from collections import defaultdict
from collections.abc import Iterable, Sequence
from functools import lru_cache
from itertools import count
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kettlesort.core.query.nodes import TEXT_FIELDS
from kettlesort.core.query.words import folded, words_of

Places = NDArray[np.int64]
Hits = NDArray[np.bool_]
GAP = 64
"""Between two texts, so that no phrase and no proximity goes from one into the next; more than the farthest proximity."""
_FIELD = {name: code for code, name in enumerate(TEXT_FIELDS)}


class Searched(NamedTuple):
    """What of a record can be searched."""

    title: str
    abstract: str
    keywords: Sequence[str]
    authors: Sequence[str]
    journal: str
    year: int | None
    language: str
    type: str


class Spans(NamedTuple):
    """Where something stands: first and last word of each occurrence, as places in the index, in order."""

    first: Places
    last: Places


@lru_cache(maxsize=100_000)
def headings_of(keyword: str) -> tuple[str, ...]:
    """What a descriptor is found by: whole, as its heading, and as heading with each qualifier; without the star of a major topic.

    >>> headings_of("*Bees/physiology/*growth")
    ('bees/physiology/growth', 'bees', 'bees/physiology', 'bees/growth')
    """
    whole = " ".join(folded(keyword.replace("*", "")).split())
    heading, *qualifiers = [part.strip() for part in whole.split("/")]
    return tuple(dict.fromkeys([whole, heading, *(f"{heading}/{qualifier}" for qualifier in qualifiers)]))


class Index:
    """The words of n records, each with its places.

    Each text of a record (title, abstract, every descriptor, every author, journal) lies in
    one long line of words, apart from the next by GAP. For each word of the vocabulary, in
    alphabetical order, its occurrences are kept together: place in the line, record, field.
    """

    def __init__(self, records: Iterable[Searched]) -> None:
        numbers: defaultdict[str, int] = defaultdict(count().__next__)
        words, lengths, owners, fields = array("q"), array("q"), array("q"), array("b")
        years = array("q")
        values: dict[str, defaultdict[str, list[int]]] = {name: defaultdict(list) for name in ("language", "type", "journal", "descriptor")}
        headings: defaultdict[str, list[int]] = defaultdict(list)
        number_of = numbers.__getitem__
        for k, it in enumerate(records):
            texts = [
                (0, it.title),
                (1, it.abstract),
                *((2, word) for word in it.keywords),
                *((3, name) for name in it.authors),
                (4, it.journal),
            ]
            for field, text in texts:
                if text:
                    before = len(words)
                    words.extend(map(number_of, words_of(text)))
                    lengths.append(len(words) - before)
                    owners.append(k)
                    fields.append(field)
            years.append(it.year or 0)
            for name, value in (("language", it.language), ("type", it.type), ("journal", it.journal)):
                if value:
                    values[name][value.strip()].append(k)
            for keyword in it.keywords:
                heads = headings_of(keyword)
                for heading in heads:
                    headings[heading].append(k)
                values["descriptor"][keyword.replace("*", "").partition("/")[0].strip()].append(k)
        self.size = len(years)
        self.years = np.frombuffer(years, dtype=np.int64) if years else np.zeros(0, np.int64)
        self._values = {name: {value: np.unique(np.array(at, np.int64)) for value, at in found.items()} for name, found in values.items()}
        self._headings = headings
        self._lay_out(
            dict(numbers), np.array(words, np.int64), np.array(lengths, np.int64), np.array(owners, np.int64), np.array(fields, np.int8)
        )
        self._kept: dict[str, Spans] = {}

    def _lay_out(self, numbers: dict[str, int], words: Places, lengths: Places, owners: Places, fields: NDArray[np.int8]) -> None:
        self.vocabulary = sorted(numbers)
        new_number = np.empty(len(numbers), np.int64)
        new_number[[numbers[word] for word in self.vocabulary]] = np.arange(len(numbers))
        begins = np.concatenate(([0], np.cumsum(lengths + GAP)[:-1])) if len(lengths) else np.zeros(0, np.int64)
        self._text_begins, self._text_owners, self._text_fields = begins, owners, fields
        text_of_word = np.repeat(np.arange(len(lengths)), lengths)
        place = np.arange(len(words)) - np.repeat(np.cumsum(lengths) - lengths, lengths) + begins[text_of_word] if len(words) else words
        number = new_number[words] if len(words) else words
        order = np.argsort(number, kind="stable")
        self._place = place[order]
        self._owner = owners[text_of_word[order]].astype(np.int32) if len(words) else np.zeros(0, np.int32)
        self._field = fields[text_of_word[order]] if len(words) else np.zeros(0, np.int8)
        self._begin = (
            np.concatenate(([0], np.cumsum(np.bincount(number, minlength=len(numbers)))))
            if len(words)
            else np.zeros(len(numbers) + 1, np.int64)
        )

    def words_like(self, pattern: str) -> list[tuple[int, int]]:
        """The words that ``pattern`` matches, as ranges of the vocabulary."""
        literal = re.match(r"[^*?]*", pattern)
        prefix = literal[0] if literal else ""
        low = bisect_left(self.vocabulary, prefix)
        if prefix == pattern:
            return [(low, low + 1)] if low < len(self.vocabulary) and self.vocabulary[low] == pattern else []
        high = bisect_left(self.vocabulary, prefix + "\U0010ffff")
        if pattern == prefix + "*":
            return [(low, high)] if high > low else []
        fits = re.compile(re.escape(pattern).replace(r"\*", ".*").replace(r"\?", "."), re.S).fullmatch
        return [(k, k + 1) for k in range(low, high) if fits(self.vocabulary[k])]

    def _occurrences(self, pattern: str) -> list[slice]:
        return [slice(int(self._begin[low]), int(self._begin[high])) for low, high in self.words_like(pattern)]

    def with_word(self, pattern: str, fields: Sequence[str]) -> Hits:
        """The records with a word that ``pattern`` matches in one of the fields. Shape (n,)."""
        hits = np.zeros(self.size, np.bool_)
        wanted = self._wanted(fields)
        for part in self._occurrences(pattern):
            owner = self._owner[part]
            hits[owner if wanted.all() else owner[wanted[self._field[part]]]] = True
        return hits

    @staticmethod
    def _wanted(fields: Sequence[str]) -> Hits:
        wanted = np.zeros(len(TEXT_FIELDS), np.bool_)
        wanted[[_FIELD[name] for name in fields]] = True
        return wanted

    def spans_of(self, patterns: Sequence[str]) -> Spans:
        """Where the words that the patterns match follow each other, in any field."""
        key = " ".join(patterns)
        if key not in self._kept:
            each = [
                np.sort(np.concatenate([self._place[part] for part in self._occurrences(pattern)] or [np.zeros(0, np.int64)]))
                for pattern in patterns
            ]
            first = each[0]
            for k, places in enumerate(each[1:], 1):
                first = first[_among(first + k, places)]
            if len(self._kept) > 500:
                self._kept.clear()
            self._kept[key] = Spans(first, first + len(patterns) - 1)
        return self._kept[key]

    def records_at(self, places: Places, fields: Sequence[str]) -> Hits:
        """The records that these places are in, for those of the fields. Shape (n,)."""
        hits = np.zeros(self.size, np.bool_)
        text = np.searchsorted(self._text_begins, places, side="right") - 1
        hits[self._text_owners[text[self._wanted(fields)[self._text_fields[text]]]]] = True
        return hits

    def with_heading(self, heading: str) -> Hits:
        """The records with a descriptor, given as ``headings_of`` gives it. Shape (n,)."""
        return self._from_list(self._headings.get(heading, []))

    def with_value(self, field: str, value: str) -> Hits:
        """The records whose language or type is ``value``, whatever the case. Shape (n,)."""
        wanted = folded(value.strip())
        hits = np.zeros(self.size, np.bool_)
        for one, at in self._values[field].items():
            if folded(one) == wanted:
                hits[at] = True
        return hits

    def breakdown(self, found: Hits, field: str, most: int = 30) -> list[tuple[str, int]]:
        """How the found records divide by year, language, type, journal or descriptor: the commonest values, or all years in order."""
        if field == "year":
            years, counts = np.unique(self.years[found], return_counts=True)
            return [(str(year) if year else "", int(n)) for year, n in zip(years, counts, strict=True)]
        counted = [(value, int(np.count_nonzero(found[at]))) for value, at in self._values[field].items()]
        return sorted([it for it in counted if it[1]], key=lambda it: (-it[1], it[0]))[:most]

    def _from_list(self, records: list[int]) -> Hits:
        hits = np.zeros(self.size, np.bool_)
        hits[records] = True
        return hits


def _among(some: Places, all_: Places) -> Hits:
    """Which of ``some`` are in ``all_``; both in order."""
    if not len(all_):
        return np.zeros(len(some), np.bool_)
    at = np.searchsorted(all_, some)
    at[at == len(all_)] = 0
    return np.asarray(all_[at] == some)


def near(left: Spans, right: Spans, within: int) -> Spans:
    """The spans from one side to the nearest of the other, before and after, with at most ``within`` words between."""
    if not len(left.first) or not len(right.first):
        return Spans(np.zeros(0, np.int64), np.zeros(0, np.int64))
    after = np.searchsorted(right.first, left.last, side="right")
    there = after < len(right.first)
    there[there] = right.first[after[there]] - left.last[there] - 1 <= within
    ends = np.sort(right.last)
    before = np.searchsorted(ends, left.first, side="left") - 1
    here = before >= 0
    here[here] = left.first[here] - ends[before[here]] - 1 <= within
    by_end = np.argsort(right.last, kind="stable")
    first = np.concatenate((left.first[there], right.first[by_end[before[here]]]))
    last = np.concatenate((right.last[after[there]], left.last[here]))
    order = np.argsort(first, kind="stable")
    return Spans(first[order], last[order])


def either(spans: Sequence[Spans]) -> Spans:
    """All of several sets of spans, in order."""
    first, last = np.concatenate([it.first for it in spans]), np.concatenate([it.last for it in spans])
    order = np.argsort(first, kind="stable")
    return Spans(first[order], last[order])
