"""Reading recipes of a team, and how files of a source were read the last time."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, reference, rows


class StoredRecipe(Table, table=True):
    """A version of a reading recipe. Appended; the newest of a name that is not removed holds."""

    __tablename__ = "recipe"

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    name: str
    version: int
    text: str
    account_id: int = reference("account.id")
    at: Moment | None = moment()
    removed_at: Moment | None = moment(null=True)


class Habit(Table, table=True):
    """How a person last wanted files of a source and a format read."""

    review_id: int = reference("review.id", primary=True)
    source: str = Field(primary_key=True)
    format: str = Field(primary_key=True)
    how: dict[str, Any] = json_field({})


def recipes(db: Session, review: int, all_versions: bool = False) -> Sequence[Row]:
    """The newest version of each recipe, or all versions, newest first."""
    return rows(
        db,
        f"""SELECT {"" if all_versions else "DISTINCT ON (r.name)"} r.id, r.name, r.version, r.text, r.at, a.full_name AS by FROM recipe r JOIN account a ON a.id = r.account_id
        WHERE r.review_id = :review AND r.removed_at IS NULL ORDER BY r.name, r.version DESC""",
        review=review,
    )
