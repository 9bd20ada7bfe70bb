"""What never happens to copies, whatever is done in whatever order: one lost, one in two groups, figures that do not add up."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule, run_state_machine_as_test

from kettlesort.core.matching import Groups
from kettlesort.store.base import session
from kettlesort.store.sql import rows
from kettlesort.work import gather, groups, questions, report, trials
from kettlesort.work.errors import Refused
from tests.conftest import Room, make_room, ris
from tests.work.matching import run_trial

TITLES = [
    "Straw skeps in hard winters of the north",
    "Cork hives and the moisture of clusters",
    "Felt wraps against losses of late colonies",
    "Reed lids over small wintering clusters",
]
LOOSE = '[[passes]]\nname = "titles"\nagree = { title = "closely" }\n'
STRICT = 'weights = false\n[[passes]]\nname = "DOI"\nagree = { doi = "exactly" }\n'


def state_of(review: int) -> dict[int, int]:
    """The record of each placed copy."""
    with session() as db:
        return {
            it["copy_id"]: it["record_id"] for it in rows(db, "SELECT copy_id, record_id FROM placement WHERE review_id = :r", r=review)
        }


def replayed(review: int) -> dict[int, int]:
    """The same worked out from nothing but the history of rulings, in the order in which they count."""
    copies = sorted(state_of(review))
    at = {copy: k for k, copy in enumerate(copies)}
    with session() as db:
        said = rows(
            db, "SELECT * FROM ruling WHERE review_id = :r AND withdrawn_at IS NULL ORDER BY by_rule, score DESC NULLS FIRST, id", r=review
        )
    held = [it for it in said if it["left_copy"] in at and it["right_copy"] in at]
    made = Groups(len(copies), [(at[it["left_copy"]], at[it["right_copy"]]) for it in held if not it["same"]])
    for it in held:
        if it["same"]:
            made.join(at[it["left_copy"]], at[it["right_copy"]])
    return {copy: copies[made.of(k)] for k, copy in enumerate(copies)}


class Review(RuleBasedStateMachine):
    """Two people who take in, set aside, answer, take back, split, try and undo."""

    room: Room
    batches: list[int]
    tried: list[int]

    @initialize()
    def begin(self) -> None:
        self.room, self.batches, self.tried = make_room(), [], []

    def _quietly(self, deed: Any, *arguments: Any) -> None:
        try:
            deed(*arguments)
        except Refused:
            pass  # refused with a word to the person; the invariants see that nothing came of it

    @rule(
        some=st.lists(st.integers(0, 3), min_size=1, max_size=4),
        doi=st.booleans(),
        shout=st.booleans(),
        source=st.sampled_from(["Agrarica", "Vitalis", "Letters"]),
    )
    def take_in_a_file(self, some: list[int], doi: bool, shout: bool, source: str) -> None:
        text = "".join(ris(TITLES[k].upper() if shout else TITLES[k], start=k + 1, doi="10.5555/x." if doi else "") for k in some)
        self.batches.append(self.room.gather(text.replace("ID  - R", f"ID  - {source[0]}{len(self.batches)}"), source=source))

    @rule()
    def let_the_worker_match(self) -> None:
        self.room.match()

    @rule(data=st.data(), again=st.booleans())
    def set_a_file_aside_or_take_it_in_again(self, data: st.DataObject, again: bool) -> None:
        if self.batches:
            batch = data.draw(st.sampled_from(self.batches))
            self._quietly(gather.take_in if again else gather.set_aside, self.room.review, self.room.lead, batch)

    @rule(data=st.data(), said=st.sampled_from(["same", "different", "related"]), lead=st.booleans())
    def answer(self, data: st.DataObject, said: str, lead: bool) -> None:
        waiting = questions.questions(self.room.review)
        if waiting:
            it = data.draw(st.sampled_from([one.row["id"] for one in waiting]))
            self._quietly(questions.decide_pair, self.room.review, self.room.lead if lead else self.room.reviewer, it, said)

    @rule(lead=st.booleans())
    def take_an_answer_back(self, lead: bool) -> None:
        self._quietly(questions.take_back, self.room.review, self.room.lead if lead else self.room.reviewer)

    @rule(data=st.data(), back=st.booleans())
    def take_a_copy_out_or_put_it_back(self, data: st.DataObject, back: bool) -> None:
        placed = state_of(self.room.review)
        if placed:
            it = data.draw(st.sampled_from(sorted(placed)))
            self._quietly(groups.unsplit if back else groups.split, self.room.review, self.room.lead, it)

    @rule(data=st.data())
    def join_by_hand(self, data: st.DataObject) -> None:
        records = sorted(set(state_of(self.room.review).values()))
        if len(records) > 1:
            one, other = data.draw(st.lists(st.sampled_from(records), min_size=2, max_size=2, unique=True))
            self._quietly(groups.join, self.room.review, self.room.reviewer, one, other)

    @rule(text=st.sampled_from([LOOSE, STRICT, 'name = "plain"']))
    def try_a_rule(self, text: str) -> None:
        if state_of(self.room.review):
            self.tried.append(run_trial(self.room, text))

    @rule(data=st.data(), undo=st.booleans())
    def apply_or_undo_a_trial(self, data: st.DataObject, undo: bool) -> None:
        if self.tried:
            self._quietly(trials.undo if undo else trials.apply, self.room.review, self.room.lead, data.draw(st.sampled_from(self.tried)))

    @invariant()
    def no_copy_is_lost_and_none_is_in_two_groups(self) -> None:
        if not hasattr(self, "room"):
            return
        with session() as db:
            taken = {
                it["id"]
                for it in rows(
                    db,
                    "SELECT c.id FROM copy c JOIN batch b ON b.id = c.batch_id WHERE b.review_id = :r AND b.state = 'taken'",
                    r=self.room.review,
                )
            }
            kept = {it["id"] for it in rows(db, "SELECT id FROM record WHERE review_id = :r", r=self.room.review)}
            apart = rows(
                db,
                "SELECT left_copy, right_copy FROM ruling WHERE review_id = :r AND NOT same AND NOT by_rule AND withdrawn_at IS NULL",
                r=self.room.review,
            )
        placed = state_of(self.room.review)
        assert set(placed) == taken
        assert kept == set(placed.values())
        assert all(placed[record] == record for record in kept), "a record is named by a copy of its own"
        assert not any(placed.get(it["left_copy"], -1) == placed.get(it["right_copy"], -2) for it in apart), (
            "what a person told apart is apart"
        )
        assert report.standing(self.room.review).figures.adds_up

    @invariant()
    def the_history_replayed_from_nothing_gives_the_same_groups(self) -> None:
        if hasattr(self, "room"):
            assert replayed(self.room.review) == state_of(self.room.review)


@pytest.mark.usefixtures("database")
def test_nothing_that_people_do_in_any_order_loses_a_copy() -> None:
    run_state_machine_as_test(  # type: ignore[no-untyped-call]
        Review,
        settings=settings(max_examples=12, stateful_step_count=14, deadline=None, suppress_health_check=list(HealthCheck), database=None),
    )
