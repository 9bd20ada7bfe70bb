"""Two people who edit the same thing: what only one of them changed is taken from both; of what both changed, the later one is told and chooses."""

from __future__ import annotations

from collections.abc import Hashable, Mapping
from typing import NamedTuple, TypeVar

from sqlmodel import Session

from kettlesort.store.report import last_event
from kettlesort.work.errors import Conflict

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class Both(NamedTuple):
    """Something that both changed: its name, and what each made of it, as a person reads it."""

    what: str
    theirs: str
    yours: str


def merged(seen: Mapping[K, V], now: Mapping[K, V], mine: Mapping[K, V]) -> tuple[dict[K, V], list[K]]:
    """What two people made of what both had ``seen``, part by part, and the parts that both changed, in which ``mine`` stands.

    A part that is missing was removed.

    >>> merged({"a": 1, "b": 1, "c": 1}, {"a": 2, "b": 1, "d": 3}, {"a": 1, "b": 5, "c": 1})
    ({'a': 2, 'b': 5, 'd': 3}, [])
    >>> merged({"a": 1}, {"a": 2}, {"a": 3})
    ({'a': 3}, ['a'])
    """
    out: dict[K, V] = {}
    both: list[K] = []
    for part in dict.fromkeys([*mine, *now, *seen]):
        then, theirs, yours = (of.get(part) for of in (seen, now, mine))
        kept = theirs if yours == then else yours
        if kept is not None:
            out[part] = kept
        if yours != then and theirs not in (then, yours):
            both.append(part)
    return out, both


def conflict(db: Session, review: int, kind: str, what: str, both: list[Both], now: object, mine: object) -> Conflict:
    """What the later one is told: who was faster, what each says, what stands now, and what would stand with their own words."""
    last = last_event(db, review, kind)
    who = last["by"] if last else "Somebody"
    return Conflict(
        f"{who} changed {what} meanwhile. Nothing of yours is lost: look at both, and choose.",
        by=who, at=last["at"].isoformat() if last else None, both=[one._asdict() for one in both], now=now, mine=mine,
    )  # fmt: skip


def in_words(value: object) -> str:
    """A value as a person reads it."""
    return "nothing" if value is None or value == "" else ", ".join(map(str, value)) if isinstance(value, (list, tuple)) else str(value)
