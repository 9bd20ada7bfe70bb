"""Data items and the values that people type for them."""

from __future__ import annotations

import re
from datetime import date
from typing import Literal, NamedTuple, get_args

Kind = Literal["text", "number", "date", "choice", "yesno", "events"]
KINDS: tuple[Kind, ...] = get_args(Kind)
_GROUPED = re.compile(r"[\d]{1,3}(?:[ ,\u202f\u00a0]\d{3})+(?:\.\d+)?")
_NUMBER = re.compile(r"[+\-−]?(?:\d+(?:[.,]\d+)?|[.,]\d+)(?:[eE][+-]?\d+)?")
_EVENTS = re.compile(r"\s*(\d+)\s*(?:/|of|out of)\s*(\d+)\s*", re.I)
_DAY = re.compile(r"\s*(\d{4})-(\d{1,2})(?:-(\d{1,2}))?\s*")


class Item(NamedTuple):
    """One thing to extract. ``unit`` goes with numbers, ``choices`` with choices."""

    name: str
    kind: Kind
    unit: str = ""
    choices: tuple[str, ...] = ()


class NotAValue(ValueError):
    """What was typed does not fit the item; the message says what would."""


def understood(item: Item, typed: str) -> str:
    """The normal form of what was typed for ``item``; ``""`` clears the value.

    Numbers keep their precision as typed, with a decimal point; events of total are
    ``3 / 20``; dates ``2024-05-01`` (or year, or year and month); yes and no are words.
    Raises NotAValue with a message for the person.
    """
    typed = typed.strip()
    if not typed:
        return ""
    match item.kind:
        case "text":
            return typed
        case "number":
            return _number(item, typed)
        case "date":
            return _date(typed)
        case "choice":
            chosen = next((choice for choice in item.choices if choice.casefold() == typed.casefold()), None)
            if chosen is None:
                raise NotAValue(f"“{typed}” is none of the choices: {', '.join(item.choices)}")
            return chosen
        case "yesno":
            answer = {"y": "yes", "yes": "yes", "true": "yes", "1": "yes", "n": "no", "no": "no", "false": "no", "0": "no"}
            if typed.lower() not in answer:
                raise NotAValue(f"“{typed}” is neither yes nor no")
            return answer[typed.lower()]
        case "events":
            return _events(typed)


def _number(item: Item, typed: str) -> str:
    text = typed
    if item.unit and text.lower().endswith(item.unit.lower()):
        text = text[: -len(item.unit)].strip()
    if _GROUPED.fullmatch(text):
        text = re.sub(r"[ ,\u202f\u00a0]", "", text)
    if not _NUMBER.fullmatch(text):
        unit = f" in {item.unit}" if item.unit else ""
        raise NotAValue(f"“{typed}” is not a number{unit}")
    text = text.replace(",", ".").replace("−", "-").lstrip("+")
    return "0" + text if text.startswith(".") else text


def _events(typed: str) -> str:
    found = _EVENTS.fullmatch(typed)
    if not found:
        raise NotAValue(f"“{typed}” is not events of total; write 12 / 40 or 12 of 40")
    events, total = int(found[1]), int(found[2])
    if events > total:
        raise NotAValue(f"{events} events are more than the total of {total}")
    if total == 0:
        raise NotAValue("a total of 0 has no events to count")
    return f"{events} / {total}"


def _date(typed: str) -> str:
    if re.fullmatch(r"\d{4}", typed):
        return typed
    found = _DAY.fullmatch(typed)
    if not found:
        raise NotAValue(f"“{typed}” is not a date; write 2024-05-01, 2024-05 or 2024")
    try:
        day = date(int(found[1]), int(found[2]), int(found[3] or 1))
    except ValueError as error:
        raise NotAValue(f"“{typed}” is not a day of the calendar") from error
    return day.isoformat() if found[3] else day.isoformat()[:7]


def study_labels(citations: list[str]) -> list[str]:
    """Names for studies from short citations, told apart by a letter where they would be the same.

    >>> study_labels(["Orsel 2019", "Ames 2003", "Orsel 2019"])
    ['Orsel 2019a', 'Ames 2003', 'Orsel 2019b']
    """
    seen: dict[str, int] = {}
    out = []
    for citation in citations:
        if citations.count(citation) == 1:
            out.append(citation)
            continue
        seen[citation] = seen.get(citation, 0) + 1
        out.append(citation + _letters(seen[citation]))
    return out


def _letters(number: int) -> str:
    text = ""
    while number:
        number, rest = divmod(number - 1, 26)
        text = chr(97 + rest) + text
    return text
