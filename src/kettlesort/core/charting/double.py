"""Two extractors: whether what they read is the same, where it differs, and how far they agree."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence
from decimal import Decimal
from math import sqrt
from statistics import NormalDist
from typing import NamedTuple

from kettlesort.core.agreement import compare
from kettlesort.core.charting.items import Item
from kettlesort.core.charting.units import converted
from kettlesort.core.charting.values import absent

_FIGURE = re.compile(r"-?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?")
_NAMED = {"counts": ("events", "total"), "mean_sd": ("mean", "SD"), "median_range": ("median", "low end", "high end")}


class Rules(NamedTuple):
    """What counts as the same: with ``rounding``, a number that the other one becomes when it is rounded to as many places, and a date that the other one
    says more closely; without ``letters``, texts that differ in capitals, accents, spaces and punctuation alone."""

    rounding: bool = True
    letters: bool = False


def differences(item: Item, one: str, other: str, rules: Rules = Rules()) -> list[str]:
    """What two values of an item, in their normal form, say differently, in words; nothing where they count as the same.

    Numbers of a group are compared one by one. A size that only one of them gives is a difference, as is "not reported" beside a value.

    >>> weight = Item("Weight", "mean_sd")
    >>> differences(weight, "12.34 ± 4.5 (n 20)", "12.3 ± 5.4 (n 20)")
    ['SD 4.5 and 5.4']
    >>> differences(Item("Dose", "quantity", "mg"), "0.5 g", "500 mg")
    []
    """
    if one == other:
        return []
    if absent(one) or absent(other) or not one or not other:
        return [f"{one or 'nothing'} and {other or 'nothing'}"]
    match item.kind:
        case "text":
            return [] if not rules.letters and _bare(one) == _bare(other) else ["the words differ"]
        case "date":
            closer = rules.rounding and (one.startswith(other) or other.startswith(one))
            return [] if closer else [f"{one} and {other}"]
        case "choices":
            left, right = set(one.split("; ")), set(other.split("; "))
            only = [f"only one has {choice}" for choice in item.choices if (choice in left) != (choice in right)]
            return only or ([f"{one} and {other}"] if left != right else [])
        case "choice" | "yesno":
            return [f"{one} and {other}"]
        case _:
            return [
                f"{name} {a or 'not given'} and {b or 'not given'}".strip()
                for name, a, b in _side_by_side(item, one, other)
                if not _same_figure(item, a, b, rules)
            ]


def fuller(item: Item, one: str, other: str) -> str:
    """Which of two values that count as the same says more: the one with more decimal places, the longer date; the first where they say as much."""
    if item.kind in ("text", "choice", "choices", "yesno"):
        return one
    if item.kind == "date":
        return max(one, other, key=len)
    return max(one, other, key=lambda text: sum(_places(figure) for figure in _figures(item, text).values()))


def _bare(text: str) -> str:
    letters = unicodedata.normalize("NFKD", text).casefold()
    return re.sub(r"[\W_]+", " ", "".join(letter for letter in letters if not unicodedata.combining(letter))).strip()


def _figures(item: Item, text: str) -> dict[str, str]:
    """The figures of a value, by what each is."""
    if item.kind == "quantity":
        return {"": text}
    found = _FIGURE.findall(text)
    names = _NAMED.get(item.kind, ("",))
    return dict(zip((*names, "n"), found, strict=False))


def _side_by_side(item: Item, one: str, other: str) -> list[tuple[str, str, str]]:
    left, right = _figures(item, one), _figures(item, other)
    return [(name, left.get(name, ""), right.get(name, "")) for name in {**left, **right}]


def _places(figure: str) -> int:
    """Decimal places as they are written; fewer than none for 1.2e3."""
    found = _FIGURE.match(figure)
    exponent = Decimal(found[0]).as_tuple().exponent if found else 0
    return -exponent if isinstance(exponent, int) else 0


def _same_figure(item: Item, one: str, other: str, rules: Rules) -> bool:
    if not one or not other:
        return one == other
    (a, _, unit), (b, _, second) = one.partition(" "), other.partition(" ")
    size = converted(1, second, unit) if unit and second else 1.0 if unit == second else None
    if size is None:  # units that do not measure the same
        return False
    value = converted(float(b), second, unit) if unit and second else float(b)
    assert value is not None
    apart = abs(float(a) - value)
    if not rules.rounding or item.kind == "counts":
        return apart <= 1e-9 * max(abs(value), abs(float(a)))
    coarser = max(10.0 ** -_places(a), 10.0 ** -_places(b) * abs(size))
    return apart <= coarser / 2 * (1 + 1e-9) if _places(a) != _places(b) or size != 1 else apart <= 1e-9 * abs(value)


def _wilson(some: int, of: int) -> tuple[float, float]:
    z = NormalDist().inv_cdf(0.975)
    middle = (some + z * z / 2) / (of + z * z)
    half = z / (of + z * z) * sqrt(some * (of - some) / of + z * z / 4)
    return max(0.0, middle - half), min(1.0, middle + half)


class ItemAgreement(NamedTuple):
    """How far two extractors agree on an item: cells that both read, those that are the same, their share with Wilson's 95 % interval, and Cohen's kappa
    where the item is one of a few words; None where a figure is not defined."""

    read: int
    same: int
    share: float | None
    low: float | None
    high: float | None
    kappa: float | None


def agreement(item: Item, pairs: Sequence[tuple[str, str]], rules: Rules = Rules()) -> ItemAgreement:
    """How far what two extractors read of an item is the same, over the cells that both read (values in their normal form).

    Wilson EB. J Am Stat Assoc 1927;22:209-212. Cohen J. Educ Psychol Meas 1960;20:37-46.
    """
    same = sum(not differences(item, one, other, rules) for one, other in pairs)
    if not pairs:
        return ItemAgreement(0, 0, None, None, None, None)
    low, high = _wilson(same, len(pairs))
    kappa = compare(("one", "other"), pairs).pairs[0].kappa if item.kind in ("choice", "yesno") else None
    return ItemAgreement(len(pairs), same, same / len(pairs), low, high, kappa)
