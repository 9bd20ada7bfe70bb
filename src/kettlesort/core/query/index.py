"""An inverted index of records: which word stands where. Built once, asked often."""

from __future__ import annotations

import io
import re
from array import array
from bisect import bisect_left
from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from functools import lru_cache
from itertools import count
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array

from kettlesort.core.query.nodes import TEXT_FIELDS
from kettlesort.core.query.words import folded, words_of

Places = NDArray[np.int64]
Hits = NDArray[np.bool_]
GAP = 64
"""Between two texts, so that no phrase and no proximity goes from one into the next; more than the farthest proximity."""
_FIELD = {name: code for code, name in enumerate(TEXT_FIELDS)}


LISTS = ("language", "type", "country", "journal", "descriptor", "heading", "doi")
"""Fields that are found by a whole value."""
FORMAT = 1
"""Of packed indexes; one of another number is made anew."""
Lists = dict[str, dict[str, Places]]


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
    doi: str = ""
    country: str = ""


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
        values: dict[str, defaultdict[str, list[int]]] = {name: defaultdict(list) for name in LISTS[:5]}
        headings: defaultdict[str, list[int]] = defaultdict(list)
        dois: defaultdict[str, list[int]] = defaultdict(list)
        number_of = numbers.__getitem__
        for k, record in enumerate(records):
            texts = [
                (0, record.title),
                (1, record.abstract),
                *((2, word) for word in record.keywords),
                *((3, name) for name in record.authors),
                (4, record.journal),
            ]
            for field, text in texts:
                if text:
                    before = len(words)
                    words.extend(map(number_of, words_of(text)))
                    lengths.append(len(words) - before)
                    owners.append(k)
                    fields.append(field)
            years.append(record.year or 0)
            if record.doi:
                dois[" ".join(folded(record.doi).split())].append(k)
            for name, value in (
                ("language", record.language),
                ("type", record.type),
                ("country", record.country),
                ("journal", record.journal),
            ):
                if value:
                    values[name][" ".join(value.split())].append(k)
            for keyword in record.keywords:
                heads = headings_of(keyword)
                for heading in heads:
                    headings[heading].append(k)
                values["descriptor"][" ".join(keyword.replace("*", "").partition("/")[0].split())].append(k)
        vocabulary = sorted(numbers)
        new_number = np.empty(len(numbers), np.int32)
        new_number[[numbers[word] for word in vocabulary]] = np.arange(len(numbers))
        stream = new_number[np.frombuffer(words, np.int64)] if words else np.zeros(0, np.int32)
        lists = {name: {value: np.unique(np.array(at, np.int64)) for value, at in found.items()} for name, found in values.items()}
        lists |= {
            name: {value: np.array(at, np.int64) for value, at in found.items()} for name, found in (("heading", headings), ("doi", dois))
        }
        self._set(
            vocabulary,
            stream,
            np.array(lengths, np.int64),
            np.array(owners, np.int64),
            np.array(fields, np.int8),
            np.array(years, np.int64),
            lists,
        )

    def _set(
        self,
        vocabulary: list[str],
        stream: NDArray[np.int32],
        lengths: Places,
        owners: Places,
        fields: NDArray[np.int8],
        years: Places,
        lists: Lists,
    ) -> None:
        """Lay out the places of words. ``stream`` are the numbers of all words in their order, a text after the other."""
        self.vocabulary, self._stream, self._lengths, self.years, self._lists = vocabulary, stream, lengths, years, lists
        self.size = len(years)
        self._kept: dict[str, Spans] = {}
        ends = np.cumsum(lengths + GAP)
        small = np.int32 if len(ends) == 0 or ends[-1] < 2**31 - GAP else np.int64  # half the memory, and half the time of every pass
        begins = (ends - lengths - GAP).astype(small)
        self._text_begins, self._text_owners, self._text_fields = begins, owners.astype(np.int32), fields
        self._stream_text = np.repeat(np.arange(len(lengths), dtype=np.int32), lengths)
        place = np.arange(len(stream), dtype=small) + np.repeat(begins - (np.cumsum(lengths) - lengths).astype(small), lengths)
        order = _by_number(stream, len(vocabulary))
        self._place = place[order]
        text = self._stream_text[order]
        self._owner, self._field = self._text_owners[text], fields[text]
        self._begin = np.concatenate(([0], np.cumsum(np.bincount(stream, minlength=len(vocabulary)))))

    def pack(self) -> bytes:
        """The index as bytes, for keeping."""
        said: dict[str, NDArray[np.generic]] = {
            "vocabulary": _bytes_of(self.vocabulary),
            "stream": self._stream,
            "lengths": self._lengths.astype(np.int32),
            "owners": self._text_owners.astype(np.int32),
            "fields": self._text_fields,
            "years": self.years.astype(np.int16),
        }
        for name, found in self._lists.items():
            said[f"{name}_values"] = _bytes_of(list(found))
            said[f"{name}_counts"] = np.array([len(at) for at in found.values()], np.int32)
            said[f"{name}_records"] = np.concatenate([*found.values(), np.zeros(0, np.int64)]).astype(np.int32)
        out = io.BytesIO()
        np.savez(out, **said)  # type: ignore[arg-type]
        return out.getvalue()

    @classmethod
    def unpack(cls, data: bytes) -> Index:
        """The index that ``pack`` made bytes of."""
        _new__ = cls.__new__(cls)
        with np.load(io.BytesIO(data), allow_pickle=False) as said:
            lists: Lists = {}
            for name in LISTS:
                values = _texts_of(said[f"{name}_values"])
                ends = np.cumsum(said[f"{name}_counts"])
                lists[name] = (
                    dict(zip(values, np.split(said[f"{name}_records"].astype(np.int64), ends[:-1]), strict=True)) if values else {}
                )
            _new__._set(
                _texts_of(said["vocabulary"]),
                said["stream"],
                said["lengths"].astype(np.int64),
                said["owners"].astype(np.int64),
                said["fields"],
                said["years"].astype(np.int64),
                lists,
            )
        return _new__

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
        return self._from_list("heading", heading)

    def with_value(self, field: str, value: str) -> Hits:
        """The records whose language, type, country or DOI is ``value``, whatever the case. Shape (n,)."""
        wanted = folded(value.strip())
        if field == "doi":
            return self._from_list("doi", wanted)
        hits = np.zeros(self.size, np.bool_)
        for one, at in self._lists[field].items():
            if folded(one) == wanted:
                hits[at] = True
        return hits

    def breakdown(self, found: Hits, field: str, most: int = 30) -> list[tuple[str, int]]:
        """How the found records divide by year, language, type, country, journal or descriptor: the commonest values, or all years in order."""
        return commonest(self.counts(found, field), field, most)

    def counts(self, found: Hits, field: str) -> Counter[str]:
        """How many of the found records have each value of a field."""
        if field == "year":
            years, counts = np.unique(self.years[found], return_counts=True)
            return Counter({str(year) if year else "": int(n) for year, n in zip(years, counts, strict=True)})
        return Counter({value: int(np.count_nonzero(found[at])) for value, at in self._lists[field].items()})

    def _from_list(self, name: str, value: str) -> Hits:
        hits = np.zeros(self.size, np.bool_)
        hits[self._lists[name].get(value, np.zeros(0, np.int64))] = True
        return hits


def _by_number(stream: NDArray[np.int32], numbers: int) -> NDArray[np.int32]:
    """The places of each number, one number after the other, in order: counted out, in time of the stream, where sorting would take many times as long."""
    at = np.arange(len(stream), dtype=np.int32)
    return coo_array((np.ones(len(stream), np.bool_), (stream, at)), shape=(numbers, max(1, len(stream)))).tocsr().indices


def commonest(counted: Counter[str], field: str, most: int) -> list[tuple[str, int]]:
    """The commonest values first, or all years in order; none that is not there."""
    there = [one for one in counted.items() if one[1]]
    return sorted(there) if field == "year" else sorted(there, key=lambda pair: (-pair[1], pair[0]))[:most]


def _bytes_of(texts: Sequence[str]) -> NDArray[np.uint8]:
    """Texts, which hold no line break, as bytes."""
    return np.frombuffer("\n".join(texts).encode(), np.uint8)


def _texts_of(data: NDArray[np.uint8]) -> list[str]:
    return data.tobytes().decode().split("\n") if len(data) else []


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
    first, last = np.concatenate([span.first for span in spans]), np.concatenate([span.last for span in spans])
    order = np.argsort(first, kind="stable")
    return Spans(first[order], last[order])
