"""Weighing the evidence that two copies are the same report.

Each field says for or against in one currency: the natural logarithm of a likelihood
ratio, how much more often such an agreement or difference occurs between copies of one
report than between different reports (Fellegi IP, Sunter AB. A theory for record linkage.
J Am Stat Assoc 1969;64:1183-1210). What a record does not say is no evidence.
"""

from __future__ import annotations

from typing import NamedTuple

from rapidfuzz.distance import Indel

from kettlesort.core.matching.features import Features
from kettlesort.core.record import folded

JOIN = 11.0
"""Pairs with at least this weight are joined without asking."""
ASK = 4.0
"""Pairs below this weight are left apart; between the two a person is asked."""

_EXACT_BY_WORDS = (0.0, 0.5, 1.0, 2.5, 4.0, 5.0, 6.0, 7.0, 7.5, 8.0)


class Evidence(NamedTuple):
    """What one field says: a positive weight speaks for the same report, a negative one against."""

    field: str
    weight: float


def _title(a: Features, b: Features) -> float:
    if not a.title or not b.title:
        return 0.0
    weight = _title_alike(a, b)
    if weight > 0 and a.parts != b.parts and not _one_is_cut(a, b):
        weight -= 8.0
    if a.notice != b.notice:
        weight -= 8.0
    return weight


def _title_alike(a: Features, b: Features) -> float:
    short = min(len(a.words), len(b.words))
    full = _EXACT_BY_WORDS[min(short, len(_EXACT_BY_WORDS) - 1)]
    if a.title == b.title:
        return full
    if _one_is_cut(a, b):
        return full * 0.7
    alike = Indel.normalized_similarity(a.title, b.title)
    if alike >= 0.95:
        return full * 0.85
    if alike >= 0.9:
        return full * 0.6
    if alike >= 0.8:
        return full * 0.2
    return -2.0 if alike >= 0.6 else -6.0


def _one_is_cut(a: Features, b: Features) -> bool:
    """Whether one title is the beginning of the other: cut off, or its subtitle dropped."""
    short, long = (a.title, b.title) if len(a.title) <= len(b.title) else (b.title, a.title)
    return len(short) >= 16 and short != long and long.startswith(short.rpartition(" ")[0]) and _ends_alike(short, long)


def _ends_alike(short: str, long: str) -> bool:
    at = short.rfind(" ") + 1
    return long.startswith(short[at:], at)


def _authors(a: Features, b: Features) -> float:
    if not a.families or not b.families:
        return 0.0
    one, two = set(a.families), set(b.families)
    shared = len(one & two)
    few = min(len(one), len(two))
    if shared == few:
        return 3.0 if few >= 2 or len(one) == len(two) else 2.0
    if shared:
        return 1.5 if 2 * shared >= few else 0.0
    close = Indel.normalized_similarity(a.families[0], b.families[0])
    return 0.5 if close >= 0.8 else -4.0


def _year(a: Features, b: Features) -> float:
    if a.year is None or b.year is None:
        return 0.0
    apart = abs(a.year - b.year)
    return 1.0 if apart == 0 else -0.6 if apart == 1 else -2.0 if apart == 2 else -4.0


def _journal(a: Features, b: Features) -> float:
    if not a.journal or not b.journal:
        return 0.0
    return 1.2 if a.journal == b.journal or _abbreviates(a.journal, b.journal) else -1.0


def _abbreviates(one: str, two: str) -> bool:
    """Whether one journal name abbreviates the other: each word begins a word of it, in order."""
    short, long = sorted((one.split(), two.split()), key=lambda words: sum(map(len, words)))
    long = [word for word in long if word not in ("of", "the", "and", "in", "for")]
    short = [word for word in short if word not in ("of", "the", "and", "in", "for")]
    return len(short) == len(long) and all(full.startswith(word) or word.startswith(full) for word, full in zip(short, long, strict=True))


def _place(a: Features, b: Features) -> float:
    """Volume and first page together, since one rarely agrees by chance when the other does not."""
    weight = 0.0
    if a.page and b.page:
        weight += 2.5 if a.page == b.page else -2.0
    if a.volume and b.volume:
        weight += 1.0 if a.volume == b.volume else -1.5
    return weight


def _published(a: Features, b: Features) -> float:
    """Journal and place; that they differ says nothing where the kinds differ, which has been counted already."""
    weight = _journal(a, b) + _place(a, b)
    return max(0.0, weight) if _kind(a, b) < 0 else weight


def _doi(a: Features, b: Features) -> float:
    if not a.doi or not b.doi:
        return 0.0
    if a.doi == b.doi:
        return 9.0
    return -2.0 if Indel.distance(a.doi, b.doi) <= 2 and a.title == b.title else -7.0


def _kind(a: Features, b: Features) -> float:
    if a.kind == b.kind or "other" in (a.kind, b.kind):
        return 0.0
    return -4.0


def _abstract(a: Features, b: Features) -> float:
    if len(a.abstract) < 80 or len(b.abstract) < 80:
        return 0.0
    if a.abstract == b.abstract:
        return 3.0
    alike = Indel.normalized_similarity(folded(a.abstract)[:250], folded(b.abstract)[:250])
    return 3.0 if alike >= 0.9 else 1.0 if alike >= 0.75 else -2.0 if alike < 0.5 else 0.0


def score(a: Features, b: Features) -> float:
    """The total weight of the evidence; the costly look at abstracts only where it can matter."""
    weight = _title(a, b) + _doi(a, b)
    if weight < -6.0:
        return weight
    weight += _authors(a, b) + _year(a, b) + _published(a, b) + _kind(a, b)
    if ASK - 3.0 <= weight < JOIN + 2.0:
        weight += _abstract(a, b)
    return weight


def evidence(a: Features, b: Features) -> list[Evidence]:
    """What each field says, in the order of a reference; the weights add up to the total that is shown."""
    place = _published(a, b) - _journal(a, b)
    return [
        Evidence("title", _title(a, b)),
        Evidence("authors", _authors(a, b)),
        Evidence("year", _year(a, b)),
        Evidence("journal", _journal(a, b)),
        Evidence("place", place),
        Evidence("doi", _doi(a, b)),
        Evidence("abstract", _abstract(a, b)),
        Evidence("kind", _kind(a, b)),
    ]
