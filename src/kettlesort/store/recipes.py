"""Reading recipes of a team, and how files of a source were read the last time."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, reference
from kettlesort.store.sql import row, rows, run, scalar


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


def newest(db: Session, review: int, name: str) -> Row | None:
    """The newest version of a recipe that is not removed."""
    return row(
        db,
        "SELECT * FROM recipe WHERE review_id = :review AND name = :name AND removed_at IS NULL ORDER BY version DESC LIMIT 1",
        review=review, name=name,
    )  # fmt: skip


def next_version(db: Session, review: int, name: str) -> int:
    """The number of a recipe's next version; those of removed ones are not used again."""
    return int(
        scalar(db, "SELECT coalesce(max(version), 0) + 1 FROM recipe WHERE review_id = :review AND name = :name", review=review, name=name)
    )


def count(db: Session, review: int) -> int:
    """How many recipes a review keeps."""
    return int(scalar(db, "SELECT count(DISTINCT name) FROM recipe WHERE review_id = :review AND removed_at IS NULL", review=review))


def remove(db: Session, review: int, name: str) -> bool:
    """Remove a recipe with all its versions; whether there was one."""
    return bool(
        run(
            db,
            "UPDATE recipe SET removed_at = clock_timestamp() WHERE review_id = :review AND name = :name AND removed_at IS NULL",
            review=review,
            name=name,
        )
    )


def bring_back(db: Session, review: int, name: str) -> bool:
    """Bring a removed recipe back with all its versions; whether there was one."""
    return bool(
        run(
            db,
            "UPDATE recipe SET removed_at = NULL WHERE review_id = :review AND name = :name AND removed_at IS NOT NULL",
            review=review,
            name=name,
        )
    )
