"""What a registry proposes for what records lack, beside what stands."""

from __future__ import annotations

from typing import Any

from kettlesort.store.base import Moment, Table, json_field, key, moment, one_of, reference


class Gap(Table, table=True):
    """A value that a source proposes for a field of a record. State: proposed, taken or left."""

    __table_args__ = (one_of("state", "proposed", "taken", "left"),)

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    copy_id: int = reference("copy.id", index=True)
    field: str
    before: Any = json_field()
    value: Any = json_field()
    source: str
    state: str = "proposed"
    account_id: int | None = reference("account.id", null=True)
    at: Moment | None = moment()
