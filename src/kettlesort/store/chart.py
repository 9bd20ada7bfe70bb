"""The codebook, studies with their reports, and charted values."""

from __future__ import annotations

from kettlesort.store.base import Moment, Table, json_field, key, moment, reference


class Item(Table, table=True):
    """A data item of the codebook."""

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    position: int
    name: str
    kind: str
    unit: str = ""
    choices: list[str] = json_field([])
    instructions: str = ""
    removed_at: Moment | None = moment(null=True)


class Study(Table, table=True):
    """An investigation; its name is that of its first report unless the team gave it one."""

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    label: str = ""


class StudyReport(Table, table=True):
    """Which study a report, named by a copy of its record, belongs to."""

    __tablename__ = "study_report"

    copy_id: int = reference("copy.id", primary=True)
    review_id: int = reference("review.id", index=True)
    study_id: int = reference("study.id", index=True)


class Value(Table, table=True):
    """A charted value with its quote. Appended; the latest holds, an empty one clears."""

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    study_id: int = reference("study.id", index=True)
    item_id: int = reference("item.id")
    text: str
    quote: str = ""
    page: str = ""
    account_id: int = reference("account.id")
    at: Moment | None = moment()
