"""The team's own rule of matching: its versions, and the one in force."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pydantic import ValidationError
from sqlmodel import Session

from kettlesort.core.matching import NotARule, Rule, rule_of
from kettlesort.core.matching.rule import told
from kettlesort.store import trial as store
from kettlesort.store.base import Row, snapshot
from kettlesort.store.trial import MatchRule, rule_in_force
from kettlesort.work.change import Change
from kettlesort.work.errors import Invalid


def in_force(db: Session, review: int) -> Rule:
    """The rule that decides what is joined; weights alone until a team says otherwise."""
    found = rule_in_force(db, review)
    return rule_of(found["text"]) if found else Rule()


def trust_of(db: Session, review: int) -> Sequence[str]:
    """The sources in the order in which the team trusts them."""
    return in_force(db, review).trust


def rule_from(text: str) -> Rule:
    """A rule that a person wrote."""
    try:
        return rule_of(text)
    except NotARule as error:
        raise Invalid(f"This rule cannot be used. {error}", field="rule") from None


def put_in_force(change: Change, rule: Rule) -> Rule:
    """Make a rule the one in force, as the next version, unless it is so already."""
    before = rule_in_force(change.db, change.review)
    number = before["version"] + 1 if before else 1
    if before and rule_of(before["text"]) == rule.model_copy(update={"version": before["version"]}):
        return rule
    rule = rule.model_copy(update={"version": number})
    change.db.add(MatchRule(review_id=change.review, version=number, text=rule.text(), account_id=change.account))
    change.event("match.rule", rule.name, {"version": before["version"]} if before else None, {"version": number})
    return rule


def versions(review: int) -> Sequence[Row]:
    """All versions of a review's rule, the latest first."""
    with snapshot() as db:
        return store.rules(db, review)


def current(review: int) -> tuple[Rule, bool]:
    """The rule in force, and whether the team has set one."""
    with snapshot() as db:
        return in_force(db, review), rule_in_force(db, review) is not None


def rule_of_parts(parts: dict[str, Any]) -> Rule:
    """A rule that was put together on a screen."""
    try:
        return Rule.model_validate(parts)
    except ValidationError as error:
        raise Invalid(f"This rule cannot be used. {told(error)}", field="rule") from None
