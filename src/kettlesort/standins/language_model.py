"""A language model that proposes values by a few rules, with the moods of a real one: late, wrong, with a quote of its own making, or talking nonsense.

Which of them it is in follows from the question, so that the same question has the same answer.
"""

from __future__ import annotations

import json
import re
import time
from dataclasses import dataclass, field
from hashlib import sha256
from itertools import count
from typing import Any, Literal

from starlette.applications import Starlette
from starlette.concurrency import run_in_threadpool
from starlette.requests import Request
from starlette.responses import JSONResponse, PlainTextResponse, Response
from starlette.routing import Route

Mood = Literal["right", "late", "wrong", "invented", "nonsense", "silent"]
MOODS: tuple[Mood, ...] = ("right", "right", "right", "right", "late", "wrong", "invented", "nonsense", "silent")
KEY = "hive-key"
_COUNTS = re.compile(r"\b(\d+)\s*(?:/|of|out of)\s*(\d+)\b")
_MEAN = re.compile(r"(\d+(?:\.\d+)?)\s*(?:±|\(SD\s*)\s*(\d+(?:\.\d+)?)")
_NUMBER = re.compile(r"(?<![\d.])\d+(?:\.\d+)?")
_YEAR = re.compile(r"\b(?:19|20)\d\d\b")


@dataclass(slots=True)
class Temper:
    """Its moods, how late it is in seconds, and how often it was asked."""

    moods: tuple[Mood, ...] = MOODS
    late: float = 1.5
    asked: count[int] = field(default_factory=lambda: count(1))


def language_model_app(temper: Temper | None = None) -> Starlette:
    """The model as an application; it answers who has its key."""
    temper = temper or Temper()

    def answer(request: Request, question: Any) -> Response:
        next(temper.asked)
        if request.headers.get("authorization") != f"Bearer {KEY}":
            return JSONResponse({"error": "no such key"}, 401)
        if not isinstance(question, dict) or not isinstance(question.get("item"), dict) or not isinstance(question.get("passages"), list):
            return JSONResponse({"error": "an item and passages are expected"}, 422)
        mood = temper.moods[sha256(json.dumps(question, sort_keys=True).encode()).digest()[0] % len(temper.moods)]
        if mood == "late":
            time.sleep(temper.late)
        if mood == "nonsense":
            return PlainTextResponse("Bees are winged insects that live in colonies, and there are many of them.")
        values = [] if mood == "silent" else _values(question)
        return JSONResponse({"values": [_spoilt(value, mood) for value in values]})

    async def ask(request: Request) -> Response:
        try:
            question = json.loads(await request.body())
        except ValueError:
            return JSONResponse({"error": "JSON is expected"}, 400)
        return await run_in_threadpool(answer, request, question)

    return Starlette(routes=[Route("/", ask, methods=["POST"])])


def _spoilt(value: dict[str, Any], mood: Mood) -> dict[str, Any]:
    if mood == "wrong":
        return {**value, "value": re.sub(r"\d+", lambda found: str(int(found[0]) + 7), str(value["value"]))}
    if mood == "invented":
        return {**value, "quote": f"As everybody knows, it was {value['value']}."}
    return value


def _values(question: dict[str, Any]) -> list[dict[str, Any]]:
    """What the passages say of the item: of each arm the first passage that names it."""
    item, passages = question["item"], [str(one.get("text", "")) for one in question["passages"] if isinstance(one, dict)]
    arms = [arm for arm in item.get("arms") or [] if isinstance(arm, dict)]
    if not arms:
        found = next((said for text in passages if (said := _value(item, text))), None)
        return [found] if found else []
    out = []
    for arm in arms:
        words = [str(word).lower() for word in [arm.get("name", ""), *(arm.get("words") or [])] if word]
        for text in passages:
            if any(word in text.lower() for word in words) and (found := _value(item, text)):
                out.append({**found, "arm": arm.get("id")})
                break
    return out


def _value(item: dict[str, Any], text: str) -> dict[str, Any] | None:
    """What one passage says of an item, with itself as the quote."""
    kind = item.get("kind")
    if kind in ("choice", "choices"):
        told = next((one for one in item.get("choices") or [] if str(one).lower() in text.lower()), None)
        return {"value": told, "quote": text} if told else None
    if kind == "yesno":
        name = str(item.get("name", "")).lower().split()
        return {"value": "not " not in text.lower(), "quote": text} if name and name[0][:6] in text.lower() else None
    if kind == "text":
        return {"value": text[:200], "quote": text}
    pattern = {"counts": _COUNTS, "mean_sd": _MEAN, "date": _YEAR}.get(str(kind), _NUMBER)
    found = pattern.search(text)
    if not found or kind == "median_range":
        return None
    if kind == "counts":
        return {"value": f"{found[1]} / {found[2]}", "quote": text} if int(found[1]) <= int(found[2]) else None
    if kind == "mean_sd":
        return {"value": f"{found[1]} ± {found[2]}", "quote": text}
    return {"value": found[0], "quote": text}
