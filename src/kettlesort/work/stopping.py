"""What the first pass has not found yet, a random sample that settles it, and stopping, which can be undone."""

from __future__ import annotations

import random
import secrets
from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any, NamedTuple

import numpy as np
from sqlmodel import Session

from kettlesort.core.screening.stopping import Remaining, remaining
from kettlesort.store import stopping as store
from kettlesort.store.base import Row, snapshot
from kettlesort.store.narrow import Narrowing
from kettlesort.store.report import last_event
from kettlesort.store.stopping import ScreenSample
from kettlesort.work import narrow
from kettlesort.work.change import changing
from kettlesort.work.errors import Conflict, Invalid, NotFound

POINTS, LOOKS = 300, 40
"""So many points of the curve, and so many of its band, are worked out."""


class Sample(NamedTuple):
    """The sample that was drawn last: how many of its records there are, and how many are settled."""

    id: int
    seed: int
    at: datetime
    by: str
    records: int
    settled: int

    @property
    def whole(self) -> bool:
        """Whether it tells something."""
        return self.settled == self.records > 0


class Look(NamedTuple):
    """After so many answers, how many had been found, and how many there are in all as far as could be told then."""

    answered: int
    found: int
    low: float
    high: float


class Stopped(NamedTuple):
    """That the team stopped: who, when, what was set aside, and the figures of that moment."""

    narrowing: int
    at: datetime
    by: str
    figures: dict[str, Any]


class Outlook(NamedTuple):
    """What is left in the first pass. What was set aside by stopping is still left. ``unsettled`` are records that somebody has read and nobody has settled, as far as the viewer may know; ``unread`` the others."""

    records: int
    answered: int
    found: int
    unsettled: int
    unread: int
    told: Remaining
    sample: Sample | None
    curve: list[tuple[int, int]]
    looks: list[Look]
    stopped: Stopped | None


class _Answers(NamedTuple):
    """Answers in sequence, of which ``random`` before the last ``after`` ones are those of a sample."""

    records: int
    said: np.ndarray[Any, np.dtype[np.int8]]
    random: int
    after: int


def _answers(answered: Sequence[Row], records: int, drawn: Sequence[int], before: int) -> _Answers:
    """The answers with those of a whole sample put where it was drawn: after ``before`` answers. Without one they stand as they came."""
    said = {row["record_id"]: int(row["included"]) for row in answered}
    if not drawn:
        return _Answers(records, np.array(list(said.values()), np.int8), 0, 0)
    of_sample = set(drawn)
    others = [(row["record_id"], row["last"]) for row in answered if row["record_id"] not in of_sample]
    first = [said[record] for record, last in others if last <= before]
    later = [said[record] for record, last in others if last > before]
    return _Answers(records, np.array([*first, *(said[number] for number in drawn), *later], np.int8), len(drawn), len(later))


def outlook(review: int) -> Outlook:
    """What is left, how sure that is, and how it came to be known."""
    with snapshot() as db:
        return _outlook(db, review)


def _outlook(db: Session, review: int) -> Outlook:
    stopped = _stopped(db, review)
    answered = store.answered(db, review)
    open_, unread = store.how_many_undecided(db, review, stopped.narrowing if stopped else None)
    records = len(answered) + open_
    settled = {row["record_id"] for row in answered}
    held = store.latest_sample(db, review)
    drawn = store.sampled(db, held["id"]) if held else []
    sample = (
        Sample(held["id"], held["seed"], held["at"], held["by"], len(drawn), sum(number in settled for number in drawn)) if held else None
    )
    whole = drawn if sample and sample.whole else []
    answers = _answers(answered, records, whole, store.verdict_before(db, review, held["at"]) if held else 0)
    return Outlook(
        records, len(answered), int(answers.said.sum()), open_ - unread, unread, remaining(records, answers.said, answers.random, answers.after), sample,
        _curve(answers.said), _looks(answers), stopped,
    )  # fmt: skip


def _curve(said: np.ndarray[Any, np.dtype[np.int8]]) -> list[tuple[int, int]]:
    found = np.concatenate(([0], np.cumsum(said)))
    at = np.unique(np.linspace(0, len(said), min(POINTS, len(said) + 1)).round().astype(int))
    return [(int(n), int(found[n])) for n in at]


def _looks(answers: _Answers) -> list[Look]:
    n = len(answers.said)
    out = []
    for at in np.unique(np.linspace(0, n, LOOKS + 1).round().astype(int))[1:]:
        cut, begin = int(at), n - answers.random - answers.after
        whole = answers.random > 0 and cut >= begin + answers.random
        told = remaining(answers.records, answers.said[:cut], answers.random if whole else 0, cut - begin - answers.random if whole else 0)
        found = int(answers.said[:cut].sum())
        out.append(Look(cut, found, found + told.left.low, found + told.left.high))
    return out


def _stopped(db: Session, review: int) -> Stopped | None:
    said = last_event(db, review, "screen.stopped")
    if said is None:
        return None
    held = db.get(Narrowing, said["after"]["narrowing"])
    return Stopped(held.id or 0, said["at"], said["by"], said["after"]) if held and held.withdrawn_at is None else None


def draw_sample(review: int, account: int, size: int, seed: int | None = None) -> int:
    """Draw records at random from all that the first pass has not settled; they come first at every desk. The sample's number."""
    with changing(review, account, "screen") as change:
        if _stopped(change.db, review):
            raise Conflict("The screening was stopped. Go on with it first; then a sample can be drawn.")
        open_ = [one["record_id"] for one in store.undecided(change.db, review)]
        held = store.latest_sample(change.db, review)
        if held and set(store.sampled(change.db, held["id"])) & set(open_):
            raise Conflict(
                "The last sample is not settled yet. Decide on its records, or take it back; two unfinished samples would tell nothing."
            )
        if not 1 <= size <= len(open_):
            raise Invalid(f"A sample has from 1 to {len(open_)} records: so many are undecided.", field="size")
        seed = secrets.randbelow(2**31) if seed is None else seed
        made = ScreenSample(review_id=review, seed=seed, account_id=account)
        change.db.add(made)
        change.db.flush()
        assert made.id is not None
        store.add_sampled(change.db, made.id, random.Random(seed).sample(open_, size))
        change.event("screen.sample_drawn", "", None, {"records": size, "among": len(open_), "seed": seed})
        return made.id


def withdraw_sample(review: int, account: int, sample: int, *, back: bool = False) -> None:
    """Take a sample back, as if it had not been drawn; or bring it ``back``."""
    with changing(review, account, "screen") as change:
        found = change.db.get(ScreenSample, sample)
        if found is None or found.review_id != review:
            raise NotFound("There is no such sample in this review.")
        found.withdrawn_at = None if back else datetime.now(UTC)
        change.event("screen.sample_brought_back" if back else "screen.sample_withdrawn")


def stop(review: int, account: int) -> tuple[int, int]:
    """Set aside what nobody has read, as automation, and keep the figures of this moment; the narrowing, by which it is undone, and how many records."""
    with changing(review, account, "screen", large=True) as change:
        now = _outlook(change.db, review)
        if not now.answered:
            raise Conflict("Nothing has been screened yet.")
        unread = [one["record_id"] for one in store.undecided(change.db, review, by_all=True) if not one["touched"]]
        if not unread:
            raise Conflict("There is nothing left that nobody has read.")
        made, n = narrow.hold(change, f"Not screened: stopped after {now.answered:,} records", unread, by_hand=False)
        told = now.told
        change.event(
            "screen.stopped", "", None,
            {
                "narrowing": made, "set_aside": n, "records": now.records, "answered": now.answered, "found": now.found, "unsettled": now.unsettled, "left": told.left._asdict(),
                "recall": told.recall._asdict() if told.recall else None, "p95": told.p95, "method": told.method, "assumptions": told.assumptions,
            },
        )  # fmt: skip
        return made, n
