"""Comparing pairs of records, field by field: at which level each field agrees."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from rapidfuzz.distance import Indel
from rapidfuzz.process import cpdist

from kettlesort.core.matching.columns import Array, Columns
from kettlesort.core.matching.fields import CODE, NAMES
from kettlesort.core.matching.folding import ARTICLES, family_name
from kettlesort.core.matching.keys import abstract_of

TELLING = 24.0
"""A title of at least this much information, in nats, is rare: four or more words that are."""
COMMON = 12.0
_CHUNK = 200_000


class Compared:
    """Pairs of positions (``left``, ``right``, each of m) and the ``levels`` of their fields, m × fields.

    ``alike`` is the likeness of the titles from 0 to 1, 1 where they are the same, nan where one is missing.
    """

    def __init__(self, left: Array, right: Array, levels: Array, alike: Array) -> None:
        self.left, self.right, self.levels, self.alike = left, right, levels, alike

    def __len__(self) -> int:
        return len(self.left)

    def level(self, field: str) -> Array:
        """The levels of one field."""
        return np.asarray(self.levels[:, NAMES.index(field)])

    def of(self, which: Array) -> Compared:
        """Some of the pairs."""
        return Compared(self.left[which], self.right[which], self.levels[which], self.alike[which])

    def is_at(self, field: str, *names: str) -> Array:
        """Which pairs agree in a field at one of the named levels."""
        return np.isin(self.level(field), [CODE[field][name] for name in names])


def together(parts: Sequence[Compared]) -> Compared:
    """Several lots of pairs as one."""
    if len(parts) == 1:
        return parts[0]
    return Compared(
        np.concatenate([part.left for part in parts]), np.concatenate([part.right for part in parts]),
        np.concatenate([part.levels for part in parts]), np.concatenate([part.alike for part in parts]),
    )  # fmt: skip


def compare(columns: Columns, pairs: Array) -> Compared:
    """Compare pairs (m × 2 positions).

    Journals and abstracts are looked at only where title, names, DOI or place leave it open that a pair is a copy: elsewhere they
    count as unsaid, so that what is learnt of them is learnt from pairs that could be taken for copies.
    """
    parts = [_compare(columns, pairs[at : at + _CHUNK]) for at in range(0, len(pairs), _CHUNK)]
    return together(parts) if parts else Compared(pairs[:, 0], pairs[:, 1], np.zeros((0, len(NAMES)), np.int8), np.zeros(0, np.float32))


def _compare(columns: Columns, pairs: Array) -> Compared:
    i, j = pairs[:, 0], pairs[:, 1]
    levels = np.zeros((len(pairs), len(NAMES)), np.int8)
    out = {name: levels[:, k] for k, name in enumerate(NAMES)}
    alike = _title(columns, i, j, out["title"])
    _authors(columns, i, j, out["authors"], out["title"] != CODE["title"]["unlike"])
    _year(columns, i, j, out["year"])
    _place(columns, i, j, out["place"])
    _equal(columns.issue[i], columns.issue[j], out["issue"])
    _doi(columns, i, j, out["doi"], out["title"] != CODE["title"]["unlike"])
    out["accession"][(columns.accession[i] == columns.accession[j]) & (columns.accession[i] != 0)] = 1  # another source has another number
    _equal(columns.kind[i], columns.kind[j], out["kind"])
    _equal(columns.language[i], columns.language[j], out["language"])
    _other_language(columns, i, j, out)
    people = (out["authors"] != CODE["authors"]["none"]) & (out["authors"] != CODE["authors"]["some"])
    worth = (
        (out["title"] != CODE["title"]["unlike"]) & (people | ~np.isin(out["title"], _BARELY))
        | (out["doi"] == 1)
        | ((out["place"] == 1) & people)
    )
    _journal(columns, i, j, out["journal"], worth)
    _abstract(columns, i, j, out, worth)
    return Compared(i, j, levels, alike)


def _equal(a: Array, b: Array, out: Array) -> None:
    said = (a != 0) & (b != 0)
    out[said] = np.where(a == b, 1, 2)[said]


def _title(columns: Columns, i: Array, j: Array, out: Array) -> Array:
    code = CODE["title"]
    a, b = columns.title[i], columns.title[j]
    said = (a != 0) & (b != 0)
    same = said & (a == b)
    info = np.minimum(columns.info[i], columns.info[j])
    rare, common = info >= TELLING, info < COMMON
    alike = np.full(len(i), np.nan, np.float32)
    alike[same] = 1.0
    grade = np.select([info <= 0, common, rare], [code["same untitled"], code["same common"], code["same rare"]], code["same"])
    out[same] = grade[same]
    rest = np.flatnonzero(said & ~same)
    if len(rest):
        titles = columns.titles
        one, two = [titles[k] for k in i[rest].tolist()], [titles[k] for k in j[rest].tolist()]
        lengths = columns.length[i[rest]], columns.length[j[rest]]
        out[rest], alike[rest] = _grade(one, two, lengths, rare[rest], common[rest])
        if columns.second:
            twice = np.fromiter(columns.second, np.int64)
            again = rest[np.isin(i[rest], twice) | np.isin(j[rest], twice)]
            for k in again.tolist():
                _second(columns, int(i[k]), int(j[k]), k, out, alike)
    return alike


def _second(columns: Columns, x: int, y: int, k: int, out: Array, alike: Array) -> None:
    """Compare the titles in another language too, and keep the best."""
    for one in (columns.titles[x], columns.second.get(x, "")):
        for two in (columns.titles[y], columns.second.get(y, "")):
            if one and two and (one, two) != (columns.titles[x], columns.titles[y]):
                info = np.array([min(len(set(one.split())), len(set(two.split()))) * 5.0])
                level, found = _grade([one], [two], (np.array([len(one)]), np.array([len(two)])), info >= TELLING, info < COMMON)
                if one == two:
                    level, found = np.array([CODE["title"]["same rare" if info[0] >= TELLING else "same"]]), np.array([1.0])
                if found[0] > alike[k]:
                    out[k], alike[k] = level[0], found[0]


def _grade(one: Sequence[str], two: Sequence[str], lengths: tuple[Array, Array], rare: Array, common: Array) -> tuple[Array, Array]:
    """The levels of titles that are not the same, of these lengths, and how alike they are."""
    code = CODE["title"]
    found = cpdist(one, two, scorer=Indel.normalized_similarity, dtype=np.float32, workers=-1)
    # of a short title, a few letters are much
    grade = np.select(
        [(found >= 0.93) & ~common, (found >= 0.85) & ~common, found >= 0.7], [code["close"], code["near"], code["partly"]], code["unlike"]
    )
    long, short = lengths
    swapped = (long == short) & (found >= 0.7) & (found < 0.93)
    for k in np.flatnonzero(swapped).tolist():
        if letters_are_swapped(one[k], two[k]):
            grade[k] = code["near"] if common[k] else code["close"]
    # of a title that is the beginning or end of the other, little but the rest has to be put in
    inside = found >= 1.0 - (np.abs(long - short) + 8) / np.maximum(1, long + short)
    for k in np.flatnonzero(inside).tolist():
        if one_is_cut(one[k], two[k]):
            grade[k] = code["cut rare"] if rare[k] else code["cut"]
    return grade, found


def letters_are_swapped(a: str, b: str) -> bool:
    """Whether two titles of one length differ in two neighbouring letters that changed places, and in nothing else."""
    at = [k for k, (x, y) in enumerate(zip(a, b, strict=True)) if x != y]
    return len(at) == 2 and at[1] == at[0] + 1 and a[at[0]] == b[at[1]] and a[at[1]] == b[at[0]]


def one_is_cut(a: str, b: str) -> bool:
    """Whether one title is the beginning or end of the other: cut off, perhaps in a word, or a title of a series dropped.

    >>> one_is_cut("overwintering losses wrapped hiv", "overwintering losses wrapped hives")
    True
    """
    short, long = (a, b) if len(a) <= len(b) else (b, a)
    if len(short) < 12 or short.count(" ") < 2:
        return False
    head, _, last = short.rpartition(" ")
    if long.startswith(head + " ") and len(short) >= 40 and last not in ("i", "v", "x") and any(word.startswith(last) for word in ARTICLES):
        return True  # cut off in a small word, which was left out of the other
    if long.startswith(head + " "):
        rest = long[len(head) + 1 :]
        whole = rest[len(last) : len(last) + 1] in ("", " ")
        return rest.startswith(last) and (
            whole or ((len(last) > 2 or len(short) >= 40) and last not in ("i", "ii", "v", "x") and not last.isdigit())
        )
    return len(short) >= 24 and short.count(" ") >= 3 and long.endswith(" " + short)


def _authors(columns: Columns, i: Array, j: Array, out: Array, worth: Array) -> None:
    """Names are looked at letter by letter only where it is ``worth`` it."""
    code = CODE["authors"]
    a, b = columns.families[i], columns.families[j]
    n, m = columns.authors[i], columns.authors[j]
    said = (n > 0) & (m > 0)
    shared = _shared(a, b)
    few = np.minimum(n, m)
    first = (a[:, 0] == b[:, 0]) & (a[:, 0] != 0)
    one, two = columns.initial[i], columns.initial[j]
    clash = first & (one != 0) & (two != 0) & (one != two)
    cut_short = (columns.several[i] | columns.several[j]) != 0
    alone = (n == 1) & (m == 1)
    full = shared >= few
    whole = full & (first | (few >= 2)) & ((few >= 2) | cut_short)
    level = np.select(
        [
            ~said,
            clash & (full | (2 * shared >= few)),
            whole,
            full & alone & first,
            full & first,
            full | (2 * shared >= few) | (first & (shared >= 2)),
            shared > 0,
        ],
        [0, code["initials"], code["all"], code["one"], code["one"], code["most"], code["some"]],
        code["none"],
    )
    careful = np.flatnonzero(said & worth & ((level == code["none"]) | (level == code["some"]) | (level == code["initials"])))
    names, people = columns.names, columns.people
    damaged = np.flatnonzero(worth & (level == code["most"]) & (shared >= 1) & (2 * shared >= few))
    for k, one_row, two_row in zip(damaged.tolist(), a[damaged].tolist(), b[damaged].tolist(), strict=True):
        if _spelled_alike({*one_row} - {*two_row, 0}, {*two_row} - {*one_row, 0}, people):
            level[k] = code["all"]
    for k in careful.tolist():
        x, y = names[i[k]], names[j[k]]
        if level[k] == code["initials"]:
            if _swapped(x, y):
                level[k] = code["close"]
        elif names_are_close(x, y):
            level[k] = code["close"]
    out[:] = level


def _spelled_alike(one: set[int], two: set[int], people: list[str]) -> bool:
    """Whether each of the fewer family names, given by their numbers, is one of the others with letters lost or mistaken."""
    few, many = sorted((one, two), key=len)
    return all(any(_family_is_close(people[x], people[y]) for y in many) for x in few)


def _family_is_close(family: str, other: str) -> bool:
    if min(len(family), len(other)) <= 3:
        return family[:1] == other[:1] and Indel.distance(family, other) <= 1
    return Indel.normalized_similarity(family, other) >= 0.8


def _shared(a: Array, b: Array) -> Array:
    """How many of the names in each row of ``a`` and ``b`` (m × 8, 0 for none) stand in the other too, the fewer of both."""
    equal = a[:, :, None] == np.where(b == 0, -1, b)[:, None, :]
    rows = equal.view(np.uint64)[:, :, 0]  # eight truths in one number
    columns = np.bitwise_count(np.bitwise_or.reduce(rows, axis=1))
    return np.asarray(np.minimum(np.bitwise_count((rows != 0).view(np.uint64)[:, 0]), columns))


@lru_cache(maxsize=65536)
def names_are_close(a: str, b: str) -> bool:
    """Whether the first authors ("family,given|…", folded) may be the same: spelled alike, swapped, doubled, or in another order."""
    if not a or not b:
        return False
    one, two = a.split("|"), b.split("|")
    hits = sum(any(_close(x, y) for y in two) for x in one)
    return hits >= min(len(one), len(two)) or (hits >= 2)


def _close(x: str, y: str) -> bool:
    family, _, given = x.partition(",")
    other, _, called = y.partition(",")
    if given and called:
        if _is_swapped(family, given, other, called) or _is_swapped(other, called, family, given):
            return True
        if given[0] != called[0]:
            return False
    if family == other:
        return True
    short, long = sorted((family, other), key=len)
    if len(short) >= 4 and (long.startswith(short) or long.endswith(short)):
        return True
    return min(len(family), len(other)) >= 3 and _family_is_close(family, other)


def _is_swapped(family: str, given: str, other: str, called: str) -> bool:
    """Whether what the second calls a given name is the family name of the first, and the other way round, perhaps as an initial."""
    return family_name(called) == family and other[:1] == given[:1]


def _swapped(a: str, b: str) -> bool:
    x, y = a.partition("|")[0], b.partition("|")[0]
    family, _, given = x.partition(",")
    other, _, called = y.partition(",")
    return bool(given and called) and _is_swapped(family, given, other, called)


def _year(columns: Columns, i: Array, j: Array, out: Array) -> None:
    a, b = columns.year[i], columns.year[j]
    said = (a != 0) & (b != 0)
    out[said] = np.minimum(np.abs(a - b), 3)[said] + 1


def _journal(columns: Columns, i: Array, j: Array, out: Array, worth: Array) -> None:
    code = CODE["journal"]
    a, b = columns.venue[i], columns.venue[j]
    said = (a != 0) & (b != 0) & worth
    out[said & (a == b)] = code["same"]
    rest = np.flatnonzero(said & (a != b))
    if len(rest):
        kinds, back = np.unique(np.stack((a[rest], b[rest]), axis=1), axis=0, return_inverse=True)
        venues = columns.venues
        found = np.array(
            [code["renamed" if (x, y) in columns.renamed else _venues(*venues[x], *venues[y])] for x, y in kinds.tolist()], np.int8
        )
        out[rest] = found[back.ravel()]


def rename(columns: Columns, compared: Compared) -> None:
    """Set the level of journals right in pairs that were compared before it was known that they were ``renamed``."""
    code, level = CODE["journal"], compared.level("journal")
    said = np.flatnonzero((level == code["unlike"]) | (level == code["partly"]))
    pairs = zip(columns.venue[compared.left[said]].tolist(), columns.venue[compared.right[said]].tolist(), strict=True)
    level[said[[pair in columns.renamed for pair in pairs]]] = code["renamed"]


_SMALL = frozenset(
    ["of", "the", "and", "in", "for", "on", "der", "die", "das", "fur", "und", "de", "la", "le", "du", "des", "et", "del", "y", "an", "a"]
)


@lru_cache(maxsize=262144)
def _venues(one: str, serials: frozenset[str], two: str, other: frozenset[str]) -> str:
    if serials & other:
        return "same"
    names, others = [word for word in one.split("|") if word], [word for word in two.split("|") if word]
    best = "unlike"
    for x in names:
        for y in others:
            found = journals_alike(x, y)
            if found == "same":
                return found
            best = found if found == "partly" else best
    return best


def journals_alike(one: str, two: str) -> str:
    """Whether two folded journal names are the ``same`` (one may abbreviate the other), ``partly`` alike, or ``unlike``.

    >>> journals_alike("ann made up apicult", "annals of made up apiculture")
    'same'
    """
    if one == two:
        return "same"
    a, b = [w for w in one.split() if w not in _SMALL], [w for w in two.split() if w not in _SMALL]
    if not a or not b:
        return "unlike"
    if len(a) == len(b) and all(_abbreviates(x, y) for x, y in zip(a, b, strict=True)):
        return "same"
    short, long = (a, b) if len(one) <= len(two) else (b, a)
    if len(short) == 1 and len(long) >= 3 and short[0] == "".join(w[0] for w in long):
        return "same"
    whole = set(short) <= set(long) or (len(short) >= 2 and all(any(_abbreviates(x, y) for y in long) for x in short))
    if whole and len(short) >= 2:
        return "partly"
    return "partly" if Indel.normalized_similarity(one, two) >= 0.8 else "unlike"


def _abbreviates(x: str, y: str) -> bool:
    short, long = (x, y) if len(x) <= len(y) else (y, x)
    if long.startswith(short):
        return True
    return len(short) >= 3 and short[0] == long[0] and short[-1] == long[-1] and _in_order(short, long)


def _in_order(short: str, long: str) -> bool:
    letters = iter(long)
    return all(letter in letters for letter in short)


def _place(columns: Columns, i: Array, j: Array, out: Array) -> None:
    code = CODE["place"]
    v, w = columns.volume[i], columns.volume[j]
    p, q = columns.page[i], columns.page[j]
    volumes = (v != 0) & (w != 0)
    # an article's number says nothing beside a first page
    pages = (p != 0) & (q != 0) & ((p == q) | (columns.lone[i] == columns.lone[j]))
    volume, page = v == w, p == q
    out[:] = np.select(
        [volumes & pages & volume & page, volumes & pages & volume, volumes & pages & page, volumes & pages, pages & page, pages, volumes & volume, volumes],
        [code["both"], code["volume"], code["page"], code["neither"], code["only page"], code["no page"], code["only volume"], code["no volume"]],
        0,
    )  # fmt: skip


def _doi(columns: Columns, i: Array, j: Array, out: Array, worth: Array) -> None:
    code = CODE["doi"]
    a, b = columns.doi[i], columns.doi[j]
    said = (a != 0) & (b != 0)
    same = said & (a == b)
    out[said] = code["other"]
    out[same] = code["same"]
    out[same & (columns.version[i] != columns.version[j])] = code["version"]
    out[same & columns.shared[a]] = code["shared"]
    texts = columns.dois
    for k in np.flatnonzero(said & ~same & worth).tolist():
        x, y = texts[a[k]], texts[b[k]]
        if abs(len(x) - len(y)) <= 2 and Indel.distance(x, y, score_cutoff=3) <= 3 and _mistyped(x, y):
            out[k] = code["near"]


def _mistyped(x: str, y: str) -> bool:
    """Whether two DOIs may be one with a typing error: a letter left out, doubled, changed, or two swapped; numbers that only count on are not."""
    distance = Indel.distance(x, y)
    if len(x) == len(y):
        return (distance == 2 and sum(a != b for a, b in zip(x, y, strict=True)) <= 2) and sorted(x) == sorted(y)
    return distance <= 1 or x.startswith(y) or y.startswith(x)


def _other_language(columns: Columns, i: Array, j: Array, out: dict[str, Array]) -> None:
    """Titles in different languages that differ are no evidence, nor are the abstracts that go with them."""
    differ = out["title"] >= CODE["title"]["partly"]
    bracketed = columns.bracketed[i] != columns.bracketed[j]
    languages = out["language"] == CODE["language"]["other"]
    out["title"][differ & (bracketed | languages)] = 0


_BARELY = [0, CODE["title"]["partly"]]
_TITLE_AGREES = [CODE["title"][name] for name in ("same rare", "same", "same common", "same untitled", "cut rare", "cut", "close", "near")]


def _abstract(columns: Columns, i: Array, j: Array, out: dict[str, Array], worth: Array) -> None:
    texts = columns.abstracts
    agrees = np.isin(out["title"], _TITLE_AGREES)
    which = np.flatnonzero(worth & (columns.abstracted[i] != 0) & (columns.abstracted[j] != 0))
    if not len(which):
        return
    begins = {k: abstract_of(texts[k]) for k in {*i[which].tolist(), *j[which].tolist()}}
    one, two = [begins[k] for k in i[which].tolist()], [begins[k] for k in j[which].tolist()]
    short = np.minimum([len(each) for each in one], [len(each) for each in two])
    # what one source cut off is not compared
    found = cpdist(
        [x[:n] for x, n in zip(one, short.tolist(), strict=True)], [y[:n] for y, n in zip(two, short.tolist(), strict=True)],
        scorer=Indel.normalized_similarity, dtype=np.float32, workers=-1,
    )  # fmt: skip
    level = np.select([found >= 0.9, found >= 0.75, found >= 0.6], [1, 2, 3], 4)
    level = level + np.where(agrees[which], 0, len(("same", "alike", "partly", "unlike")))
    level[short < 50] = 0
    languages = out["language"][which] == CODE["language"]["other"]
    level[languages & (found < 0.75)] = 0
    out["abstract"][which] = level
