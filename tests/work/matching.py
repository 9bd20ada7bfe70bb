"""Shortcuts for tests of matching."""

from __future__ import annotations

from kettlesort.store.base import session
from kettlesort.store.sql import scalar
from kettlesort.work import trials
from tests.conftest import Room


def run_trial(room: Room, text: str) -> int:
    """Try a rule, as the worker would."""
    trial = trials.begin(room.review, room.lead, text)
    with session() as db:
        job = scalar(db, "SELECT max(id) FROM job WHERE review_id = :r AND kind = 'try_rule'", r=room.review)
    trials.try_rule(job)
    return trial
