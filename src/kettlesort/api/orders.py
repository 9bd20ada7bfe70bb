"""Orders of records other than that by closeness."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.work import orders

router = APIRouter(prefix="/api/reviews/{review}/orders", tags=["screen"])
Kind = Literal["shuffled", "newest", "oldest", "unsure", "question", "alike", "cited"]


class NewOrder(BaseModel):
    kind: Kind
    seed: int = Field(0, ge=0, lt=2**31)
    question: str = Field("", max_length=orders.LONGEST)
    records: list[int] = Field([], max_length=orders.MOST_RECORDS)


class OtherOrder(BaseModel):
    id: int
    kind: Kind
    name: str
    state: Literal["waiting", "ready", "failed"]
    failure: str
    at: datetime
    by: str


class OrderMade(BaseModel):
    id: int


@router.get("")
def orders_made(member: AsMember) -> list[OtherOrder]:
    """The orders that were asked for last, the newest first."""
    return [OtherOrder.model_validate(order) for order in orders.orders(member.review)]


@router.post("")
def make_order(said: NewOrder, member: AsReviewer) -> OrderMade:
    """Ask for an order."""
    return OrderMade(
        id=orders.begin(member.review, member.account, said.kind, seed=said.seed, question=said.question, records=said.records)
    )
