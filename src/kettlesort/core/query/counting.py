"""Counting many words and phrases at once."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kettlesort.core.query.index import Index, Places
from kettlesort.core.query.parts import Parts


def count_records(
    index: Index | Parts, terms: Sequence[Sequence[tuple[str, ...]]], fields: Sequence[str], but: Places
) -> NDArray[np.int64]:
    """For each term, given as its spellings, in how many records but those of ``but`` its words follow each other.

    No spelling belongs to two terms; those of one term have the same number of words.
    All terms are counted in one walk along all words: those that begin a spelling are kept,
    of these those that the second word follows, and so on. Shape (terms,).
    """
    if isinstance(index, Parts):
        return np.sum(
            [count_records(part, terms, fields, index.inside(k, but)) for k, part in enumerate(index.parts)], axis=0, dtype=np.int64
        ).reshape(len(terms))
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
            phrases += [(k, [number_of[word] for word in one]) for one in spellings if all(word in number_of for word in one)]
    if not phrases:
        return out
    tree = _Tree([spelling for _, spelling in phrases], len(index.vocabulary))
    term_of = np.array([k for k, _ in phrases])
    texts, stream = index._stream_text, index._stream
    wanted = index._wanted(fields)[index._text_fields] & counted[index._text_owners]
    at = np.flatnonzero((tree.first > 0)[stream[:-1]] & tree.goes_on[stream[1:]])
    text = texts[at]
    at = at[wanted[text] & (texts[at + 1] == text)]
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
        self._steps = _Lookup(np.array([edge for edge, _ in edges], np.int64), np.array([to for _, to in edges], np.int64))

    def step(self, node: Places, word: NDArray[np.int32]) -> Places:
        """Where a word leads from each node; -1 where nowhere."""
        return self._steps.of(node << 32 | word.astype(np.int64))


class _Lookup:
    """Numbers by keys, which are at least 0: a table with open addressing, at most a quarter full, that is looked up for many keys at once.

    Most keys asked for are not there and are known to be so at the first look, in a table
    that stays in the processor's cache; a binary search would take some fifteen looks.
    """

    def __init__(self, keys: Places, values: Places) -> None:
        self._bits = max(2, int(4 * len(keys)).bit_length())
        self._keys, self._values = np.full(1 << self._bits, -1, np.int64), np.zeros(1 << self._bits, np.int64)
        left, slot = np.arange(len(keys)), self._slot(keys)
        while len(left):
            _, first = np.unique(slot, return_index=True)
            first = first[self._keys[slot[first]] < 0]
            self._keys[slot[first]], self._values[slot[first]] = keys[left[first]], values[left[first]]
            rest = np.ones(len(left), np.bool_)
            rest[first] = False
            left, slot = left[rest], (slot[rest] + 1) & ((1 << self._bits) - 1)

    def _slot(self, keys: Places) -> Places:
        spread = keys.astype(np.uint64) * np.uint64(0x9E3779B97F4A7C15)
        return (spread >> np.uint64(64 - self._bits)).astype(np.int64)

    def of(self, keys: Places) -> Places:
        """The numbers of keys, -1 for those that are not there."""
        out = np.full(len(keys), -1, np.int64)
        left, slot = np.arange(len(keys)), self._slot(keys)
        while len(left):
            there = self._keys[slot]
            hit = there == keys[left]
            out[left[hit]] = self._values[slot[hit]]
            go = (there >= 0) & ~hit
            left, slot = left[go], (slot[go] + 1) & ((1 << self._bits) - 1)
        return out
