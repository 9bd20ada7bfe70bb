"""The team's own words to underline."""

from __future__ import annotations

from sqlmodel import Session

from kettlesort.store.base import Moment, Table, json_field, key, moment, reference
from kettlesort.store.sql import column


class Underlining(Table, table=True):
    """Words that a team wants underlined, for and against. Appended; the latest holds."""

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    for_words: list[str] = json_field([])
    against_words: list[str] = json_field([])
    account_id: int = reference("account.id")
    at: Moment | None = moment()


def underlining(db: Session, review: int) -> Underlining | None:
    """The words in force."""
    found = column(db, "SELECT id FROM underlining WHERE review_id = :review ORDER BY id DESC LIMIT 1", review=review)
    return db.get(Underlining, found[0]) if found else None
