"""Verdicts and what follows from them."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal, NamedTuple

Verdict = Literal["include", "exclude", "unsure"]
State = Literal["open", "include", "exclude", "unsure"]

FIRST, SECOND = 1, 2
"""The passes: titles and abstracts, kindly; full texts, strictly."""


class Decision(NamedTuple):
    """One person's verdict; later ones have a higher ``number``."""

    number: int
    verdict: Verdict
    criterion: int | None
    withdrawn: bool


def in_force(decisions: Iterable[Decision]) -> Decision | None:
    """The decision that holds: the latest that is not withdrawn."""
    return max((it for it in decisions if not it.withdrawn), key=lambda it: it.number, default=None)


def state_of(decisions: Iterable[Decision]) -> State:
    """Where a record stands in a pass; unsure is seen but not settled, so it still has to be decided."""
    holding = in_force(decisions)
    return holding.verdict if holding else "open"


def mark(first: str, fulltext: str, second: str) -> str:
    """The verdict that a record shows: that of the second pass once its full text was obtained and judged, else that of the first."""
    return second if first == "include" and fulltext == "obtained" and second != "open" else first


def in_words(first: str, fulltext: str, second: str, reason: str = "") -> str:
    """Where a record stands in words; ``reason`` is the criterion that it failed."""
    why = f": {reason}" if reason else ""
    if first != "include":
        return {"open": "not decided", "unsure": "unsure", "exclude": f"excluded{why}", "aside": "set aside"}[first]
    if fulltext != "obtained":
        return {"sought": "full text sought", "missing": "full text not obtained"}[fulltext]
    return {"include": "included", "exclude": f"full text excluded{why}"}.get(second, "full text to be decided")
