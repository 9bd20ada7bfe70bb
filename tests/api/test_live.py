"""Word of changes: who works without a pause is still seen to be here, and who was removed hears nothing more."""

from __future__ import annotations

import asyncio

import pytest

from kettlesort.api import live


async def heard(words: int) -> list[str]:
    """What a page hears while something changes every 50 ms."""
    out: list[str] = []
    stream = live._words(7, 1)

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
    monkeypatch.setattr(live.report, "be_seen", lambda review, account: seen.append(account))
    monkeypatch.setattr(live.plan, "role_in", lambda review, account: "reviewer")
    words = asyncio.run(heard(9))
    assert words[0] == "hello"
    assert "presence" in words
    assert "screen" in words
    assert len(seen) > words.count("presence") >= 1


def test_a_removed_member_hears_nothing_more(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(live.report, "be_seen", lambda review, account: None)
    monkeypatch.setattr(live.plan, "role_in", lambda review, account: None)
    assert asyncio.run(heard(5)) == ["hello"]
