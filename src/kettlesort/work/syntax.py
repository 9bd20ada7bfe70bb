"""A query in other families of syntax, by the profiles that are shipped and those of the team."""

from __future__ import annotations

import re
from typing import NamedTuple

from sqlmodel import Session, col, select

from kettlesort.core.query import syntax
from kettlesort.core.query.syntax import Profile
from kettlesort.store.base import snapshot
from kettlesort.store.query import SyntaxProfile
from kettlesort.work.change import changing
from kettlesort.work.errors import Invalid, NotFound
from kettlesort.work.late import Both, conflict, in_words

MOST = 60
_KEY = re.compile(r"[a-z0-9]+(?:-[a-z0-9]+)*")


class Known(NamedTuple):
    """A syntax that can be written and read: ``own`` is declared by the team, ``shipped`` comes with the program too."""

    key: str
    text: str
    profile: Profile
    own: bool
    shipped: bool


def syntaxes(review: int) -> list[Known]:
    """The syntaxes of a review: the shipped ones, each perhaps with the team's codes, and the team's own."""
    with snapshot() as db:
        own = _own(db, review)
    texts = {**syntax.shipped(), **own}
    return [Known(key, text, syntax.profile_of(text), key in own, key in syntax.shipped()) for key, text in texts.items()]


def _own(db: Session, review: int) -> dict[str, str]:
    found = db.exec(select(SyntaxProfile).where(SyntaxProfile.review_id == review).order_by(col(SyntaxProfile.key)))
    return {one.key: one.text for one in found}


def syntax_of(review: int, key: str) -> Profile:
    """One of the syntaxes of a review."""
    for offered in syntaxes(review):
        if offered.key == key:
            return offered.profile
    raise NotFound("There is no such offered in this review; another member may have removed it.")


def declare(review: int, account: int, key: str, text: str, seen: str | None = None) -> None:
    """Keep a profile: a new one, or in place of one of the same key.

    ``seen`` is the profile on which the change was made, "" for none: who is later than another is told, and chooses.
    """
    if not _KEY.fullmatch(key) or len(key) > 40:
        raise Invalid("A syntax is kept under a short name of small letters, digits and hyphens.", field="key")
    try:
        profile = syntax.profile_of(text)
    except syntax.NotAProfile as error:
        raise Invalid(f"This cannot be used. {error}", field="text") from None
    with changing(review, account, "syntaxes") as change:
        found = change.db.get(SyntaxProfile, (review, key))
        before = found.text if found else syntax.shipped().get(key)
        if before == text:
            return
        if seen is not None and (before or "") != seen:
            both = [Both(profile.name, in_words(before), text)]
            raise conflict(change.db, review, "plan.syntax_declared", f"the syntax “{profile.name}”", both, before or "", text)
        if found is None:
            if len(_own(change.db, review)) >= MOST:
                raise Invalid(f"A review keeps at most {MOST} syntaxes of its own.", field="key")
            change.db.add(SyntaxProfile(review_id=review, key=key, text=text))
        else:
            found.text = text
        change.event("plan.syntax_declared", profile.name, before, text)


def forget(review: int, account: int, key: str) -> None:
    """Remove a syntax of the team's own; a shipped one is again as it was shipped."""
    with changing(review, account, "syntaxes") as change:
        found = change.db.get(SyntaxProfile, (review, key))
        if found is None:
            raise NotFound("The team has no such syntax of its own.")
        change.db.delete(found)
        change.event("plan.syntax_forgotten", syntax.profile_of(found.text).name, found.text, syntax.shipped().get(key))


EXAMPLES = (
    "honeybee",
    '"colony losses"',
    "insulat*",
    "wom?n",
    "wax AND comb",
    "wax OR comb",
    "wax NOT comb",
    "wax NEAR/3 moth",
    "title:wax",
    "title,abstract:(wax OR comb)",
    "keyword:wax",
    "author:orsel",
    "journal:apiculture",
    "descriptor:Bees",
    "descriptor:Bees+",
    "descriptor:Bees/physiology",
    "year:1980-2026",
    "year:1980-",
    "language:eng",
    "type:article",
    'doi:"10.5555/abc.1"',
)
"""What a guide shows of every syntax, as we write it."""
