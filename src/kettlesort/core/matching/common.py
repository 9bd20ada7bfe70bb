"""What is common among a review's records, so that agreement on it says little: words, titles, DOIs; and journals that go by two names."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np
from rapidfuzz.distance import Indel

from kettlesort.core.matching.columns import Array, Columns
from kettlesort.core.matching.compare import Compared, names_are_close, one_is_cut
from kettlesort.core.matching.folding import significant


class Common(NamedTuple):
    """``words`` with the share of titles that they stand in; ``dois`` that reports share; ``titles`` that recur, as of a column; and
    pairs of names that one journal goes by (``venues``)."""

    words: Mapping[str, float] = {}
    dois: Sequence[str] = ()
    titles: Sequence[str] = ()
    venues: Sequence[tuple[str, str]] = ()

    def prepare(self, columns: Columns) -> None:
        """Let columns know: work out ``info``, how much the words of each title say, and which titles ``recur``, DOIs are ``shared``
        and journals were ``renamed``."""
        said = -np.log([self.words.get(word, RARE) for word in columns.vocabulary])
        said[0] = 0.0  # of no title
        of, words = _words_of(columns)
        info = np.minimum(_MOST, np.bincount(of, weights=said[words], minlength=len(columns)))
        again = frozenset(self.titles)
        columns.numbers["recurs"] = np.array([title in again for title in columns.titles], bool)
        info[columns.recurs | [title in _UNTITLED for title in columns.titles]] = 0.0
        columns.info = info.astype(np.float32)
        columns.numbers["crowded"] = _crowded(columns)
        among = frozenset(self.dois)
        columns.numbers["shared"] = np.array([doi in among for doi in columns.dois], bool)
        called: dict[str, list[int]] = {}
        for k, (name, _) in enumerate(columns.venues):
            called.setdefault(name, []).append(k)
        pairs = [pair for one, two in self.venues for pair in itertools.product(called.get(one, ()), called.get(two, ()))]
        columns.renamed = frozenset([*pairs, *((y, x) for x, y in pairs)])


_UNTITLED = frozenset(
    " ".join(significant(name))
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


def _crowded(columns: Columns) -> Array:
    """Which records have a title that recurs and that their source has again in the same year, by the same first author."""
    out = np.zeros(len(columns), bool)
    again = np.flatnonzero(columns.recurs)
    if len(again):
        said = np.stack((columns.title[again], columns.year[again], columns.source[again], columns.families[again, 0]), axis=1)
        _, which, counts = np.unique(said, axis=0, return_inverse=True, return_counts=True)
        out[again] = counts[which.ravel()] > 1
    return out


def common_words(columns: Columns) -> dict[str, float]:
    """The words that stand in more than one of 500 titles, and in what share of them.

    A small review says little about what is rare, so it is taken for one of 500 titles more.
    """
    _, words = _words_of(columns)
    share = np.bincount(words, minlength=len(columns.vocabulary)) / (len(columns) + 500)
    return {columns.vocabulary[k]: float(share[k]) for k in np.flatnonzero(share > RARE).tolist() if k}


def _words_of(columns: Columns) -> tuple[Array, Array]:
    """Whose title a word stands in, and its number: each word of a title once."""
    coded = np.sort(np.repeat(np.arange(len(columns)), columns.worded) << 32 | columns.words)
    coded = coded[np.diff(coded, prepend=-1) > 0]
    return coded >> 32, coded & 0xFFFFFFFF


SEVERAL = 3
"""A title, or a DOI, that so many different pieces have says little."""
_LOOKED_AT = 200


def recurring_titles(columns: Columns) -> list[str]:
    """Titles that at least `SEVERAL` different pieces have, as a column or a yearly report does; preprints, meetings' abstracts and notices aside.

    Pieces are different whose authors, first pages, or years by two or more, differ; and those that one source
    keeps under different accession numbers or, if it has none, with different authors, year or place.
    """
    marked = columns.preprint | columns.meeting | columns.protocol | columns.notice
    order = np.argsort(columns.title, kind="stable")
    order = order[marked[order] == 0]
    numbers, begins, counts = np.unique(columns.title[order], return_index=True, return_counts=True)
    several = (counts >= SEVERAL) & (numbers != 0)
    out = []
    several &= _varied(columns, order, begins)
    for begin, count in zip(begins[several].tolist(), counts[several].tolist(), strict=True):
        at = order[begin : begin + min(count, _LOOKED_AT)]
        pieces = max(_by_year(columns.year[at]), _by_place(columns, at), _by_people(columns, at), _by_source(columns, at))
        if pieces >= SEVERAL:
            out.append(columns.titles[at[0]])
    return out


def _varied(columns: Columns, order: Array, begins: Array) -> Array:
    """Which runs of an order might hold several pieces: a quick look at all, so that few need a closer one."""
    runs = len(begins)
    run = np.repeat(np.arange(runs), np.diff(np.append(begins, len(order))))

    def several(group: Array, size: int, *values: Array) -> Array:
        """In which groups at least so many different values are."""
        mixed = np.zeros(len(order), np.uint64)
        for value in values:
            mixed = (mixed ^ value[order].astype(np.uint64)) * np.uint64(0x9E3779B97F4A7C15)
        coded = np.sort(group << 36 | (mixed >> np.uint64(28)).astype(np.int64))
        return np.asarray(np.bincount(coded[np.diff(coded, prepend=-1) > 0] >> 36, minlength=size) >= SEVERAL)

    sources = int(columns.source.max(initial=0)) + 1
    kept = several(run * sources + columns.source[order], runs * sources, columns.accession, columns.year, columns.page)
    people = several(run, runs, *columns.families.T)
    return (
        people
        | several(run, runs, columns.year)
        | several(run, runs, columns.volume, columns.page)
        | kept.reshape(runs, sources)[:, 1:].any(1)
    )


def _by_place(columns: Columns, at: Array) -> int:
    """How many volumes and first pages there are."""
    said = (columns.page[at] != 0) & (columns.lone[at] == 0)
    return len({*zip(columns.volume[at][said].tolist(), columns.page[at][said].tolist(), strict=True)})


def _by_year(years: Array) -> int:
    """How many years there are that lie two or more apart."""
    chosen: list[int] = []
    for year in sorted(set(years.tolist()) - {0}):
        if not chosen or year - chosen[-1] >= 2:
            chosen.append(year)
    return len(chosen)


def _by_people(columns: Columns, at: Array) -> int:
    """How many sets of authors there are of which no two share half of the smaller one or are spelled alike."""
    said = {frozenset(row) - {0}: columns.names[k] for k, row in zip(at.tolist(), columns.families[at].tolist(), strict=True)}
    chosen: list[tuple[frozenset[int], str]] = []
    for people, names in sorted(said.items(), key=lambda pair: (-len(pair[0]), pair[1])):
        if people and not any(2 * len(people & them) >= min(len(people), len(them)) or names_are_close(names, so) for them, so in chosen):
            chosen.append((people, names))
    return len(chosen)


def _by_source(columns: Columns, at: Array) -> int:
    """How many pieces the source keeps that keeps most."""
    kept: dict[int, set[tuple[object, ...]]] = {}
    said = zip(
        *(columns.numbers[name][at].tolist() for name in ("accession", "year", "volume", "page", "doi")),
        columns.families[at].tolist(), columns.source[at].tolist(), strict=True,
    )  # fmt: skip
    for accession, year, volume, page, doi, families, source in said:
        if source:
            kept.setdefault(source, set()).add((accession,) if accession else (year, volume, page, doi, *families))
    return max(map(len, kept.values()), default=0)


def shared_dois(columns: Columns) -> list[str]:
    """DOIs that stand at three or more records of unlike titles: of an issue, a book, a supplement, or a default."""
    order = np.argsort(columns.doi, kind="stable")
    numbers, begins, counts = np.unique(columns.doi[order], return_index=True, return_counts=True)
    out = []
    for number, begin, count in zip(numbers.tolist(), begins.tolist(), counts.tolist(), strict=True):
        if number and count >= 3:
            names = {columns.titles[k] for k in order[begin : begin + min(count, 50)].tolist()} - {""}
            if len(names) >= 3 and _unlike(sorted(names)) >= 3:
                out.append(columns.dois[number])
    return out


def _unlike(titles: list[str]) -> int:
    """How many titles of some are unlike all before them."""
    kinds: list[str] = []
    for title in titles:
        if not any(Indel.normalized_similarity(title, kind) >= 0.7 or one_is_cut(title, kind) for kind in kinds):
            kinds.append(title)
    return len(kinds)


_SEEN = 4
"""So many titles whose copies name a journal otherwise show that both names are of one."""
_MOSTLY = 2 / 3


def renamed_venues(columns: Columns, compared: Compared) -> list[tuple[str, str]]:
    """Pairs of names that one journal goes by, as sources translate or call it; names that abbreviate each other count together.

    Taken from pairs that agree on title and authors (leave out those that only look the same): most of them must
    agree on the year too, and on volume and page if those are said, and be most of what is found of the rarer name under
    any other. So a journal in which what was a conference's paper appears later is not taken for the conference.
    """
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    i, j, size = compared.left, compared.right, len(columns.venues)
    a, b = columns.venue[i], columns.venue[j]
    strong = compared.is_at("title", "same rare", "same", "close", "cut rare") & compared.is_at("authors", "all", "one", "most", "close")
    strong |= compared.is_at("title", "same common") & compared.is_at("authors", "all")
    bare = compared.level("place") == 0  # where no place is said, a venue that calls itself a conference is one name more
    strong &= (a != b) & ((columns.meeting[i] == columns.meeting[j]) | bare)
    alike = strong & compared.is_at("journal", "same")
    graph = coo_matrix((np.ones(int(alike.sum())), (a[alike], b[alike])), shape=(size, size))
    journal = connected_components(graph, directed=False)[1].astype(np.int64)
    one, two = np.minimum(journal[a], journal[b]), np.maximum(journal[a], journal[b])
    otherwise = strong & compared.is_at("journal", "unlike", "partly") & (one != two)
    good = (
        (compared.level("year") == 1)
        & ~compared.is_at("place", "neither", "no page", "volume", "no volume")
        & ~compared.is_at("doi", "other")
    )
    titled = np.stack((one * size + two, columns.title[i]), axis=1)
    codes, counts = np.unique(np.unique(titled[otherwise], axis=0)[:, 0], return_counts=True)
    agreed, times = np.unique(np.unique(titled[otherwise & good], axis=0)[:, 0], return_counts=True)
    agreeing = np.zeros(len(codes))
    agreeing[np.searchsorted(codes, agreed)] = times
    x, y = codes // size, codes % size
    found = np.bincount(x, weights=counts, minlength=size) + np.bincount(y, weights=counts, minlength=size)
    same = (agreeing >= _SEEN) & (agreeing >= _MOSTLY * counts) & (2 * counts >= np.minimum(found[x], found[y]))
    names: dict[int, list[str]] = {}
    for (name, _), number in zip(columns.venues, journal.tolist(), strict=True):
        if name:
            names.setdefault(number, []).append(name)
    pairs = zip(x[same].tolist(), y[same].tolist(), strict=True)
    return sorted({pair for k, m in pairs for pair in itertools.product(names.get(k, ()), names.get(m, ()))})
