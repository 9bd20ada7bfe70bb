"""What looks the same and is not: recognised, named, and left apart or asked as the team says."""

from __future__ import annotations

from collections import Counter
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from rapidfuzz.distance import OSA, Indel

from kettlesort.core.matching.columns import Array, Columns
from kettlesort.core.matching.compare import Compared
from kettlesort.core.matching.fields import CODE
from kettlesort.core.matching.folding import ARTICLES
from kettlesort.core.matching.marks import REPLY, contrasted, numbers_said


class Alike(NamedTuple):
    """A kind of reports that look the same: its name, what it says of a pair, and what is done with it unless a team says otherwise.

    ``related`` ones may be reports of one study.
    """

    name: str
    says: str
    then: str
    related: bool = False


ALIKE = (
    Alike("notice", "one is an erratum, a correction or a retraction", "apart"),
    Alike("reply", "one is a letter, a comment or a reply", "apart"),
    Alike("yearly", "the titles name different years", "apart"),
    Alike("part", "the titles have different numbers, as of parts or phases", "apart"),
    Alike("contrast", "the titles differ in a word that makes them opposites", "apart"),
    Alike("edition", "different editions", "apart", True),
    Alike("update", "one updates the other", "apart", True),
    Alike("protocol", "one is a protocol or a registration", "apart", True),
    Alike("preprint", "one is a preprint", "ask", True),
    Alike("translation", "published in different languages", "ask", True),
    Alike("abstract", "one may be a conference abstract", "ask", True),
    Alike("thesis", "one is a thesis, the other appeared elsewhere", "ask", True),
    Alike("namesake", "the same title by other people", "apart"),
    Alike("untitled", "a title that many pieces have", "apart"),
    Alike("word", "the titles differ in a word", "ask"),
    Alike("elsewhere", "the same title and authors, published elsewhere or years later", "ask", True),
    Alike("recurring", "a title that may come again, as that of a column, by one person or in one year", "ask"),
)
THEN = ("apart", "ask", "weigh")
"""What can be done with a kind: left apart, asked, or weighed like any other pair."""
NUMBER = {alike.name: k for k, alike in enumerate(ALIKE, 1)}
RELATED = np.array([False, *(alike.related for alike in ALIKE)])

_AGREES = ("same rare", "same", "same common", "same untitled", "cut rare", "cut", "close", "near")
_ALIKE_ENOUGH = 0.72


def lookalikes(columns: Columns, compared: Compared) -> Array:
    """The kind of each pair, as its number in `ALIKE`, from 1; 0 for a pair that is of none. Who comes first has a pair."""
    kinds = _Kinds(columns, compared)
    kinds.marked()
    kinds.numbered_and_worded()
    kinds.cut()
    kinds.versions()
    kinds.namesakes()
    kinds.elsewhere()
    return kinds.out


class _Kinds:
    """Pairs on their way to their kinds, with what their fields come to."""

    def __init__(self, columns: Columns, compared: Compared) -> None:
        self.out = np.zeros(len(compared.left), np.int8)
        self._columns, self._compared, self._i, self._j = columns, compared, compared.left, compared.right
        at = compared.is_at
        self._same = at("title", "same rare", "same", "same common", "same untitled")
        self._cut = at("title", "cut rare", "cut")
        self._agrees = at("title", *_AGREES)
        self._like = self._agrees | (np.nan_to_num(compared.alike) >= _ALIKE_ENOUGH)
        self._other_doi = at("doi", "other", "near")
        self._placed = at("place", "both", "only page")
        self._displaced = at("place", "neither", "no page", "volume", "no volume")
        self._elsewhere = self._displaced | self._other_doi | at("journal", "unlike")
        self._people = at("authors", "all", "one", "most", "close")
        self._strangers = at("authors", "none")
        self._years = compared.level("year")
        self._other_year = self._years > 1
        self._not_doi = ~at("doi", "same")
        self._free = self._not_doi & ~self._placed
        """Neither their DOI nor their place says that they are the same."""

    def _differ(self, name: str) -> Array:
        values = self._columns.numbers[name]
        return np.asarray(values[self._i] != values[self._j])

    def _both(self, name: str) -> Array:
        values = self._columns.numbers[name]
        return np.asarray((values[self._i] != 0) & (values[self._j] != 0))

    def _mark(self, which: Array, name: str) -> None:
        self.out[which & (self.out == 0)] = NUMBER[name]

    def _titles(self, k: int) -> tuple[str, str]:
        return self._columns.titles[self._i[k]], self._columns.titles[self._j[k]]

    def marked(self) -> None:
        """Notices, replies, editions, protocols: by what a title says that it is."""
        notices = self._differ("notice") & ~self._placed
        replies = (self._columns.notice[self._i] == REPLY) | (self._columns.notice[self._j] == REPLY)
        self._mark(self._like & notices & replies, "reply")
        self._mark(self._like & notices, "notice")
        self._mark(self._like & self._both("edition") & self._differ("edition"), "edition")
        self._mark(self._like & self._differ("protocol") & self._free, "protocol")

    def numbered_and_worded(self) -> None:
        """Titles that differ in a number or in a word that counts."""
        counted = self._like & ~self._same & ~self._cut & self._differ("counted") & self._not_doi
        cut_numbers = self._cut & self._both("counted") & self._differ("counted") & self._free
        for k in np.flatnonzero(counted | cut_numbers).tolist():
            self.out[k] = self.out[k] or _by_number(*self._titles(k), bool(self._cut[k]))
        worded = self._like & ~self._same & ~self._cut & self._not_doi & (self.out == 0)
        for k in np.flatnonzero(worded).tolist():
            found = by_word(*self._titles(k))
            there = self._placed[k] and not self._other_doi[k]
            if found and not (there and (found == "word" or (self._years[k] == 1 and not self._columns.meeting[self._i[k]]))):
                self.out[k] = NUMBER[found]

    def cut(self) -> None:
        """Titles one of which begins, or ends, as the other does."""
        self._mark(self._cut & self._differ("counted") & self._displaced & self._free, "part")
        no_place = self._compared.level("place") == 0
        one_counts = self._cut & self._differ("counted") & ~self._both("counted") & no_place & self._not_doi
        for k in np.flatnonzero(one_counts & (self.out == 0)).tolist():
            if _is_a_part(*self._titles(k)):
                self.out[k] = NUMBER["word"]  # which of its parts the shorter one is, nothing says
        among = self._columns.among_others
        fronted = self._cut & (among[self._i] != among[self._j])  # the beginning is missing, not the end
        self._mark((fronted | (self._cut & self._displaced)) & self._free, "word")

    def versions(self) -> None:
        """Reports of one piece of work that came out twice."""
        agrees, free, elsewhere = self._agrees, self._free, self._elsewhere
        self._mark(agrees & ~self._both("edition") & self._differ("edition") & self._other_year & free, "edition")
        at_once = self._compared.is_at("place", "volume") & (self._years == 1)  # a wrong page, more likely
        updates = self._both("update")
        self._mark(agrees & self._differ("update") & free & (self._other_year | (elsewhere & ~at_once) | updates), "update")
        version = self._compared.level("doi") == CODE["doi"]["version"]
        self._mark(agrees & version & updates & self._differ("update"), "update")
        self._mark(agrees & self._differ("preprint") & ~self._placed, "preprint")
        self._mark(agrees & self._compared.is_at("language", "other") & self._people & elsewhere & free, "translation")
        renamed = self._compared.is_at("journal", "renamed")  # one venue then, whatever it calls itself
        known = ~self._strangers & free
        self._mark(agrees & self._differ("meeting") & ~renamed & known & (elsewhere | self._other_year), "abstract")
        self._mark(agrees & self._differ("thesis") & known & (elsewhere | (self._other_year & ~self._people)), "thesis")

    def namesakes(self) -> None:
        """One title for many pieces: by other people, or as that of a column."""
        same, at = self._same, self._compared.is_at
        self._mark(self._agrees & self._strangers & self._free, "namesake")
        recurs = same & self._columns.recurs[self._i] & self._free
        crowded = self._columns.crowded[self._i] | self._columns.crowded[self._j]
        once = recurs & self._people & (self._years == 1) & ~self._displaced & ~self._other_doi & ~crowded
        single = at("title", "same", "same common") & at("authors", "one") & at("place", "volume")
        self._mark(once | (single & self._not_doi & ~at("abstract", "same", "alike")), "recurring")
        self._mark(recurs, "untitled")
        otherwise = self._displaced | self._other_doi | (self._other_year & ~self._placed)
        self._mark(same & (self._columns.info[self._i] < 6.5) & self._not_doi & otherwise, "untitled")

    def elsewhere(self) -> None:
        """A telling title by the same people in another place or after years."""
        at, people = self._compared.is_at, self._people
        telling = at("title", "same rare", "close", "cut rare")
        rare = telling | at("title", "same")
        self._mark(rare & people & self._not_doi & ((self._displaced & self._other_doi) | at("place", "neither")), "elsewhere")
        self._mark(rare & people & at("journal", "unlike") & self._free, "elsewhere")
        self._mark((telling | self._same) & people & (self._years > 2) & self._free, "elsewhere")


_SHUFFLED = frozenset("".join(sorted(word)) for word in ARTICLES if len(word) > 2)
"""The letters of small words: one that is mistyped is left in a title when the right one is left out."""


@lru_cache(maxsize=65536)
def _by_number(a: str, b: str, cut: bool) -> int:
    """The kind of two titles whose numbers differ, 0 if they differ only as one is cut off."""
    one, two = a.split(), b.split()
    if cut:
        n = min(len(one), len(two)) - 1
        if one[:n] == two[:n]:
            return 0
    if numbers_said(one) == numbers_said(two) != []:
        return 0  # in another order, or as words
    x, y = Counter(one) - Counter(two), Counter(two) - Counter(one)
    gone = [word for word in [*x, *y] if any(c.isdigit() for c in word)]
    if x and y and gone and all(len(word) == 4 and word[:2] in ("18", "19", "20") for word in gone):
        return NUMBER["yearly"]
    return NUMBER["part"]


def _is_a_part(a: str, b: str) -> bool:
    """Whether one title is the other but for the number of a part at its end."""
    short, long = sorted((a, b), key=len)
    rest = long.removeprefix(short).split()
    return len(rest) in (1, 2) and rest[-1].isdigit() and len(rest[-1]) < 3 and (len(rest) == 1 or rest[0].isalpha())


def _of_small_words(text: str) -> bool:
    """Whether letters are those of small words in a row, which were left out of the other title."""
    return not text or any(text.startswith(word) and _of_small_words(text[len(word) :]) for word in ARTICLES)


def _slip_of_a_space(one: list[str], two: list[str]) -> bool:
    """Whether words differ in where a blank stands beside a small word: "on soil" and "o nsoil"."""
    few, many = sorted(("".join(one), "".join(two)), key=len)
    return len(many) - len(few) < 8 and (
        (many.endswith(few) and _of_small_words(many[: len(many) - len(few)]))
        or (many.startswith(few) and _of_small_words(many[len(few) :]))
    )


def _cut_with_a_slip(a: list[str], b: list[str]) -> bool:
    """Whether one title is the beginning of the other, as without its subtitle, but for a slip in one word."""
    short, long = sorted((a, b), key=len)
    slips = [(x, y) for x, y in zip(short, long, strict=False) if x != y]
    return (
        4 <= len(short) < len(long) and len(slips) == 1 and min(map(len, slips[0])) > 3 and Indel.normalized_similarity(*slips[0]) >= 0.75
    )


def _misspelt(word: str, other: str) -> bool:
    """Whether two words may be spellings of one: *sulphur* and *sulfur*, not *upland* and *lowland*."""
    like = Indel.normalized_similarity(word, other)
    return min(len(word), len(other)) > 2 and (like >= 0.75 or (like >= 0.6 and OSA.distance(word, other) <= 2))


@lru_cache(maxsize=65536)
def by_word(a: str, b: str) -> str:
    """How two folded titles differ that are nearly the same: in a ``contrast``, in another ``word``, or ``""`` for spelling only.

    >>> by_word("losses before wintering", "losses after wintering"), by_word("tumour in hives", "tumor in hives")
    ('contrast', '')
    >>> by_word("wrapped hives in cold wintres", "wrapped hives in cold winters a trial"), by_word("wrapped hives", "wrapped hives and lids")
    ('', 'word')
    """
    x, y = Counter(a.split()), Counter(b.split())
    one, two = list((x - y).elements()), list((y - x).elements())
    if not one and not two:
        return ""
    if "".join(sorted("".join(one))) == "".join(sorted("".join(two))):
        return ""  # joined, taken apart or with letters swapped
    if any(contrasted(word, text) for word in one for text in two):
        return "contrast"
    if len(one) + len(two) > 1 and _slip_of_a_space(one, two):
        return ""
    if any(x in ("a" + y, "in" + y) or y in ("a" + x, "in" + x) for x in one for y in two):
        return "word"
    if one and two and not any(c.isdigit() for c in "".join(one + two)) and Indel.normalized_similarity("".join(one), "".join(two)) >= 0.82:
        return ""  # with slips, perhaps of a space
    if _cut_with_a_slip(a.split(), b.split()):
        return ""
    rest = list(two)
    unmatched = []
    for word in one:
        best = max(rest, key=lambda each: Indel.normalized_similarity(word, each), default="")
        if _misspelt(word, best):
            rest.remove(best)
        else:
            unmatched.append(word)
    left = [word for word in (*rest, *unmatched) if "".join(sorted(word)) not in _SHUFFLED]
    return "word" if left else ""
