"""The team's own words to underline at the desk."""

from __future__ import annotations

from typing import NamedTuple

from sqlmodel import Session

from kettlesort.core.screening.underline import NotAWord, words_of_lines
from kettlesort.store import underline as store
from kettlesort.store.base import snapshot
from kettlesort.store.underline import Underlining
from kettlesort.work.change import changing
from kettlesort.work.errors import Conflict, Invalid


class Words(NamedTuple):
    """Words that speak for and against, and the number of this version; 0 if there is none yet."""

    number: int
    supports: list[str]
    opposes: list[str]


def words_in(db: Session, review: int) -> Words:
    """The words in force, within a transaction."""
    held = store.underlining(db, review)
    return Words(held.id or 0, held.for_words, held.against_words) if held else Words(0, [], [])


def words(review: int) -> Words:
    """The words in force."""
    with snapshot() as db:
        return words_in(db, review)


def set_words(review: int, account: int, supports: str, opposes: str, seen: int) -> Words:
    """Change the words to underline, given one a line; ``seen`` is the version that was changed."""
    found: dict[str, list[str]] = {}
    for field, text in (("supports", supports), ("opposes", opposes)):
        try:
            found[field] = words_of_lines(text)
        except NotAWord as error:
            raise Invalid(f"{error}.", field=field) from error
    both = {word.casefold() for word in found["supports"]} & {word.casefold() for word in found["opposes"]}
    if both:
        raise Invalid(f"“{sorted(both)[0]}” speaks for and against; leave it on one side.", field="opposes")
    with changing(review, account, "underlining") as change:
        now = words_in(change.db, review)
        if now.number != seen:
            raise Conflict(
                "A colleague changed the words meanwhile. Yours are still here; look at theirs, and save again.", number=now.number
            )
        if (now.supports, now.opposes) == (found["supports"], found["opposes"]):
            return now
        change.db.add(Underlining(review_id=review, for_words=found["supports"], against_words=found["opposes"], account_id=account))
        change.db.flush()
        change.event(
            "screen.underlining", "", {"for": now.supports, "against": now.opposes}, {"for": found["supports"], "against": found["opposes"]}
        )
        return words_in(change.db, review)
