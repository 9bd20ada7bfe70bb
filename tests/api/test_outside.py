"""Questions to services outside wait in a place of their own, each review's apart."""

from __future__ import annotations

from threading import Event
from types import SimpleNamespace
from typing import Any

import anyio
import pytest

from kettlesort.api.outside import REVIEW, WAITING, asks_outside
from kettlesort.work.errors import Busy


def test_a_review_whose_questions_hang_is_told_so_and_holds_up_no_other() -> None:
    answers, asked, told = Event(), [], []

    @asks_outside
    def hangs(member: Any) -> None:
        asked.append(member.review)
        answers.wait(20)

    @asks_outside
    def answers_at_once(member: Any) -> int:
        return int(member.review)

    async def everybody() -> None:
        async with anyio.create_task_group() as group:
            for _ in range(REVIEW + WAITING):
                group.start_soon(lambda: hangs(member=SimpleNamespace(review=-1)))
            await anyio.wait_all_tasks_blocked()
            with pytest.raises(Busy, match="try again when some are answered"):
                await hangs(member=SimpleNamespace(review=-1))
            told.append(await answers_at_once(member=SimpleNamespace(review=-2)))
            told.append(len(asked))
            answers.set()

    anyio.run(everybody)
    assert told == [-2, REVIEW], "so many of one review are asked side by side"
    assert len(asked) == REVIEW + WAITING, "and those that waited are asked too"
