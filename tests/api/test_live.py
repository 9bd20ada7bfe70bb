"""Word of changes: who works without a pause is still seen to be here, and who was removed hears nothing more."""

from __future__ import annotations

import asyncio
from typing import Any

import pytest

from kettlesort.api import live
from kettlesort.work.errors import NotSignedIn


async def heard(words: int) -> list[str]:
    """What a page hears while something changes every 50 ms."""
    out: list[str] = []
    stream = live._words(7, 1, None)

    async def busy() -> None:
        while True:
            for queue in live.exchange._waiting[7]:
                queue.put_nowait("screen")
            await asyncio.sleep(0.05)

    task = asyncio.create_task(busy())
    async for event in stream:
        out.append(str(event.data))
        if len(out) == words:
            break
    task.cancel()
    return out


def test_presence_is_told_however_much_goes_on(monkeypatch: pytest.MonkeyPatch) -> None:
    seen: list[int] = []
    monkeypatch.setattr(live, "SEEN_EVERY", 0.4)
    monkeypatch.setattr(live, "GATHERED", 0.1)
    monkeypatch.setattr(live.report, "be_seen", lambda review, account: seen.append(account))
    monkeypatch.setattr(live.people, "membership_of", lambda cookie, review: (1, "reviewer"))
    words = asyncio.run(heard(9))
    assert words[0] == "hello"
    assert "presence" in words
    assert "screen" in words
    assert len(seen) > words.count("presence") >= 1


def signed_out(cookie: str | None, review: int) -> tuple[int, None]:
    raise NotSignedIn("Please sign in.")


@pytest.mark.parametrize("membership", [lambda cookie, review: (1, None), signed_out])
def test_who_was_removed_or_signed_out_hears_nothing_more(monkeypatch: pytest.MonkeyPatch, membership: Any) -> None:
    monkeypatch.setattr(live, "SEEN_EVERY", 0.3)
    monkeypatch.setattr(live, "GATHERED", 0.1)
    monkeypatch.setattr(live.report, "be_seen", lambda review, account: None)
    monkeypatch.setattr(live.people, "membership_of", membership)
    assert set(asyncio.run(heard(50))) == {"hello", "screen"}


def test_pages_look_at_everything_again_when_the_word_of_changes_had_broken_off() -> None:
    async def told() -> str:
        with live.exchange.subscribed(8) as queue:
            live.exchange.tell_all("missed")
            return await queue.get()

    assert asyncio.run(told()) == "missed"
