"""Who may do what: the one place where membership and role are checked, for every route."""

from __future__ import annotations

from typing import Annotated, NamedTuple

from fastapi import Depends, Request

from kettlesort.store.base import viewer
from kettlesort.store.people import Account
from kettlesort.work import people
from kettlesort.work.errors import NotAllowed, NotFound


def signed_in(request: Request) -> Account:
    """The account behind the cookie. Raises NotSignedIn."""
    return people.account_of(request.cookies.get(people.COOKIE))


SignedIn = Annotated[Account, Depends(signed_in)]


class Membership(NamedTuple):
    """An account within a review."""

    review: int
    account: int
    role: people.Role


def _membership(review: int, request: Request) -> Membership:
    account, role = people.membership_of(request.cookies.get(people.COOKIE), review)
    if role is None:  # an outsider learns nothing, not even that there is such a review
        raise NotFound("There is no such review, or you are not a member of it.")
    return Membership(review, account, role)


async def _viewing(member: Annotated[Membership, Depends(_membership)]) -> Membership:
    viewer.set(member.account)  # not in a thread: what is set here holds for the whole request
    return member


def _reviewer(member: Annotated[Membership, Depends(_viewing)]) -> Membership:
    if member.role not in ("lead", "reviewer"):
        raise NotAllowed("Observers can look at everything but change nothing. Ask a lead to make you a reviewer.")
    return member


def _lead(member: Annotated[Membership, Depends(_viewing)]) -> Membership:
    if member.role != "lead":
        raise NotAllowed("Only a lead can change this.")
    return member


AsMember = Annotated[Membership, Depends(_viewing)]
"""Any member may look."""
AsReviewer = Annotated[Membership, Depends(_reviewer)]
"""Leads and reviewers may change data."""
AsLead = Annotated[Membership, Depends(_lead)]
"""Leads may change the protocol and the team."""
