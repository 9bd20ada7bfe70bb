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
    doi: str = ""


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
        dois: defaultdict[str, list[int]] = defaultdict(list)
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
            if it.doi:
                dois[folded(it.doi)].append(k)
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
        self._headings, self._dois = headings, dois
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
        self._stream, self._stream_text = number.astype(np.int32), text_of_word.astype(np.int32)
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
        """The records whose language, type or DOI is ``value``, whatever the case. Shape (n,)."""
        wanted = folded(value.strip())
        if field == "doi":
            return self._from_list(self._dois.get(wanted, []))
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


def count_records(index: Index, terms: Sequence[Sequence[tuple[str, ...]]], fields: Sequence[str], but: Places) -> NDArray[np.int64]:
    """For each term, given as its spellings, in how many records but those of ``but`` its words follow each other.

    No spelling belongs to two terms; those of one term have the same number of words.
    All terms are counted in one walk along all words: those that begin a spelling are kept,
    of these those that the second word follows, and so on. Shape (terms,).
    """
    words = {word for spellings in terms for spelling in spellings for word in spelling}
    number_of = {word: index.words_like(word)[0][0] for word in words if index.words_like(word)}
    counted = np.ones(index.size, np.bool_)
    counted[but] = False
    out = np.zeros(len(terms), np.int64)
    phrases: list[tuple[int, list[int]]] = []
    for k, spellings in enumerate(terms):
        if all(len(spelling) == 1 for spelling in spellings):
            hits = np.any([index.with_word(word, fields) for (word,) in spellings], axis=0)
            out[k] = np.count_nonzero(hits & counted)
        else:
            phrases += [(k, [number_of[word] for word in it]) for it in spellings if all(word in number_of for word in it)]
    if not phrases:
        return out
    tree = _Tree([spelling for _, spelling in phrases], len(index.vocabulary))
    term_of = np.array([k for k, _ in phrases])
    texts, stream = index._stream_text, index._stream
    wanted = index._wanted(fields)[index._text_fields] & counted[index._text_owners]
    at = np.flatnonzero((tree.first > 0)[stream[:-1]] & tree.goes_on[stream[1:]] & (texts[1:] == texts[:-1]))
    at = at[wanted[texts[at]]]
    node = tree.first[stream[at]]
    pairs = []
    for depth in range(1, tree.depth):
        there = at + depth < len(stream)
        at, node = at[there], node[there]
        there = texts[at + depth] == texts[at]
        at, node = at[there], node[there]
        node = tree.step(node, stream[at + depth])
        at, node = at[node > 0], node[node > 0]
        ends = tree.spelling[node] >= 0
        term = term_of[tree.spelling[node[ends]]]
        pairs.append(_distinct(index._text_owners[texts[at[ends]]] * len(terms) + term))
    found = _distinct(np.concatenate(pairs))
    return out + np.bincount(found % len(terms), minlength=len(terms))


def _distinct(numbers: Places) -> Places:
    """Each number once, in order. (NumPy's own way hashes, and takes many times as long for numbers nearly in order.)"""
    numbers = np.sort(numbers, kind="stable")
    return numbers[np.concatenate(([True], numbers[1:] != numbers[:-1]))] if len(numbers) else numbers


class _Tree:
    """Spellings, as numbers of words, as a tree: node 0 is the root, and each step leads on by a word, or to -1.

    ``first`` is the node that each word of the vocabulary leads to from the root (0 where
    none), ``goes_on`` whether it stands anywhere but first; ``spelling`` the one that ends at
    a node, or -1.
    """

    def __init__(self, spellings: Sequence[Sequence[int]], vocabulary: int) -> None:
        steps: dict[tuple[int, int], int] = {}
        ends: dict[int, int] = {}
        self.depth = max(map(len, spellings))
        self.first = np.zeros(vocabulary, np.int64)
        self.goes_on = np.zeros(vocabulary, np.bool_)
        for k, spelling in enumerate(spellings):
            node = 0
            for word in spelling:
                node = steps.setdefault((node, word), len(steps) + 1)
            ends[node] = k
            self.first[spelling[0]] = steps[0, spelling[0]]
            self.goes_on[list(spelling[1:])] = True
        self.spelling = np.full(len(steps) + 1, -1, np.int64)
        self.spelling[list(ends)] = list(ends.values())
        edges = sorted((node << 32 | word, to) for (node, word), to in steps.items())
        self._edges = np.array([edge for edge, _ in edges], np.int64)
        self._leads = np.array([to for _, to in edges], np.int64)

    def step(self, node: Places, word: NDArray[np.int32]) -> Places:
        """Where a word leads from each node; -1 where nowhere."""
        edge = node << 32 | word.astype(np.int64)
        at = np.searchsorted(self._edges, edge)
        at[at == len(self._edges)] = 0
        return np.where(self._edges[at] == edge, self._leads[at], -1)


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
