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
    """The kind of each pair, as its number in `ALIKE`, from 1; 0 for a pair that is of none."""
    i, j = compared.left, compared.right
    out = np.zeros(len(i), np.int8)
    same = compared.is_at("title", "same rare", "same", "same common", "same untitled")
    cut = compared.is_at("title", "cut rare", "cut")
    agrees = compared.is_at("title", *_AGREES)
    like = agrees | (np.nan_to_num(compared.alike) >= _ALIKE_ENOUGH)
    doi = compared.is_at("doi", "same")
    other_doi = compared.is_at("doi", "other", "near")
    placed = compared.is_at("place", "both", "only page")
    displaced = compared.is_at("place", "neither", "no page", "volume", "no volume")
    elsewhere = displaced | other_doi | compared.is_at("journal", "unlike")
    people = compared.is_at("authors", "all", "one", "most", "close")
    strangers = compared.is_at("authors", "none")
    years = compared.level("year")
    other_year = years > 1

    def differ(name: str) -> Array:
        values = columns.numbers[name]
        return np.asarray(values[i] != values[j])

    def both(name: str) -> Array:
        values = columns.numbers[name]
        return np.asarray((values[i] != 0) & (values[j] != 0))

    def mark(which: Array, name: str) -> None:
        out[which & (out == 0)] = NUMBER[name]

    notices = differ("notice") & ~placed
    mark(like & notices & ((columns.notice[i] == REPLY) | (columns.notice[j] == REPLY)), "reply")
    mark(like & notices, "notice")
    mark(like & both("edition") & differ("edition"), "edition")
    mark(like & differ("protocol") & ~doi & ~placed, "protocol")
    counted = like & ~same & ~cut & differ("counted") & ~doi
    cut_numbers = cut & both("counted") & differ("counted") & ~doi & ~placed
    for k in np.flatnonzero(counted | cut_numbers).tolist():
        out[k] = out[k] or _by_number(columns.titles[i[k]], columns.titles[j[k]], bool(cut[k]))
    worded = like & ~same & ~cut & ~doi & (out == 0)
    for k in np.flatnonzero(worded).tolist():
        found = by_word(columns.titles[i[k]], columns.titles[j[k]])
        there = placed[k] and not other_doi[k]
        if found and not (there and (found == "word" or (years[k] == 1 and not columns.meeting[i[k]]))):
            out[k] = NUMBER[found]
    mark(cut & differ("counted") & displaced & ~doi & ~placed, "part")
    one_counts = cut & differ("counted") & ~both("counted") & (compared.level("place") == 0) & ~doi
    for k in np.flatnonzero(one_counts & (out == 0)).tolist():
        if _is_a_part(columns.titles[i[k]], columns.titles[j[k]]):
            out[k] = NUMBER["word"]  # which of its parts the shorter one is, nothing says
    fronted = cut & (columns.among_others[i] != columns.among_others[j])  # the beginning is missing, not the end
    mark((fronted | (cut & displaced)) & ~doi & ~placed, "word")
    mark(agrees & ~both("edition") & differ("edition") & other_year & ~doi & ~placed, "edition")
    at_once = compared.is_at("place", "volume") & (years == 1)  # a wrong page, more likely
    mark(agrees & differ("update") & ~doi & ~placed & (other_year | (elsewhere & ~at_once) | both("update")), "update")
    mark(agrees & (compared.level("doi") == CODE["doi"]["version"]) & both("update") & differ("update"), "update")
    mark(agrees & differ("preprint") & ~placed, "preprint")
    languages = compared.is_at("language", "other")
    mark(agrees & languages & people & elsewhere & ~doi & ~placed, "translation")
    renamed = compared.is_at("journal", "renamed")  # one venue then, whatever it calls itself
    mark(agrees & differ("meeting") & ~renamed & ~strangers & ~doi & ~placed & (elsewhere | other_year), "abstract")
    mark(agrees & differ("thesis") & ~strangers & ~doi & ~placed & (elsewhere | (other_year & ~people)), "thesis")
    mark(agrees & strangers & ~doi & ~placed, "namesake")
    recurs = same & columns.recurs[i] & ~doi & ~placed
    once = recurs & people & (years == 1) & ~displaced & ~other_doi & ~(columns.crowded[i] | columns.crowded[j])
    single = compared.is_at("title", "same", "same common") & compared.is_at("authors", "one") & compared.is_at("place", "volume")
    mark(once | (single & ~doi & ~compared.is_at("abstract", "same", "alike")), "recurring")
    mark(recurs, "untitled")
    mark(same & (columns.info[i] < 6.5) & ~doi & (displaced | other_doi | (other_year & ~placed)), "untitled")
    telling = compared.is_at("title", "same rare", "close", "cut rare")
    rare = telling | compared.is_at("title", "same")
    mark(rare & people & ~doi & ((displaced & other_doi) | compared.is_at("place", "neither")), "elsewhere")
    mark(rare & people & compared.is_at("journal", "unlike") & ~doi & ~placed, "elsewhere")
    mark((telling | same) & people & (years > 2) & ~doi & ~placed, "elsewhere")
    return out


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
