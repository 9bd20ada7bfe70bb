"""A language model that proposes values: what it is asked, and what of its answer is taken. A quote that does not stand in the report is refused.

The question is JSON: ``{"item": {"name", "kind", "instructions", "unit", "choices", "arms": [{"id", "name", "words"}]}, "passages": [{"number", "page",
"heading", "text"}]}``. The answer is ``{"values": [{"value", "quote", "arm"}]}``, an empty list where the passages do not say; ``arm`` is an id of the
question's, for items that ask by arm. Values are as `kettlesort.core.charting.values.parsed` gives them, or texts as a person would type them.
"""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterator, Sequence
from typing import Any, NamedTuple

from kettlesort.core.charting.asking import Passage, ask
from kettlesort.core.charting.items import Item
from kettlesort.core.charting.proposals.items import Asked
from kettlesort.core.charting.proposals.numbers import numbers
from kettlesort.core.charting.values import NotAValue, absent, understood, worded
from kettlesort.core.fulltext.article import normal

MOST_PASSAGES = 16
MOST_VALUES = 5
"""So many of an answer's values are looked at for an item, and for each of its arms."""
_SHORTEST = 20
"""A quote of fewer signs is taken with all of its passage."""
_LONGEST = 4_000

NONSENSE = "the answer was none that can be read"
NO_QUOTE = "the quote does not stand in the report"
NO_FIGURE = "a figure of the value does not stand in its quote"
NO_VALUE = "the value does not fit the item"
NO_ARM = "the arm was none of those asked for"


class Said(NamedTuple):
    """A value in its normal form, with its quote as it stands on ``page`` (None for an abstract); ``arm`` by its id, if the item asks by arm."""

    arm: str | None
    text: str
    quote: str
    page: int | None


class Answer(NamedTuple):
    """What is taken of an answer, and how much is not, by reason."""

    said: list[Said]
    refused: Counter[str]


def passages_for(asked: Asked, passages: Sequence[Passage], quotes: Sequence[str] = ()) -> list[Passage]:
    """The passages of a report that are sent along with a question: those that the reader found its own ``quotes`` in, and those that speak most to the
    item, as they follow each other in the report; at most 16."""
    held = [normal(quote) for quote in quotes]
    own = [k for k, passage in enumerate(passages) if any(quote and (quote in passage.text or passage.text in quote) for quote in held)]
    arms = " ".join(word for arm in asked.arms for word in arm.phrases)
    best = [one.passage for one in ask(" ".join((asked.name, asked.instructions, arms)), passages, MOST_PASSAGES)]
    return [passages[k] for k in sorted(list(dict.fromkeys([*own, *best]))[:MOST_PASSAGES])]


def question(asked: Asked, passages: Sequence[Passage]) -> dict[str, Any]:
    """What is asked of an item, as data for JSON."""
    return {
        "item": {
            "name": asked.name, "kind": asked.kind, "instructions": asked.instructions, "unit": asked.unit, "choices": list(asked.options),
            "arms": [{"id": arm.id, "name": arm.name, "words": list(arm.words)} for arm in asked.arms],
        },
        "passages": [{"number": k, "page": one.page, "heading": one.heading, "text": one.text} for k, one in enumerate(passages, 1)],
    }  # fmt: skip


def answered(body: bytes | str, asked: Asked, item: Item, passages: Sequence[Passage]) -> Answer:
    """What of an answer can be taken: values that fit the item and whose quote stands word for word in one of the passages, with every figure of the value.

    Differences of white space and of hyphens at line ends are no differences of words; others are, those of case too.
    """
    answer = Answer([], Counter())
    try:
        values = list(_values(json.loads(body)))
    except (ValueError, RecursionError, TypeError):
        answer.refused[NONSENSE] += 1
        return answer
    given = Counter[str | None]()
    for value in values:
        said = _taken(value, asked, item, passages)
        if isinstance(said, str):
            answer.refused[said] += 1
        elif said and said not in answer.said and given[said.arm] < MOST_VALUES:
            given[said.arm] += 1
            answer.said.append(said)
    return answer


def _values(told: Any) -> Iterator[dict[str, Any]]:
    """The values of an answer. Raises TypeError where it is built otherwise."""
    listed = told.get("values", [told] if "value" in told else None) if isinstance(told, dict) else told
    if not isinstance(listed, list):
        raise TypeError
    for one in listed[:200]:
        if not isinstance(one, dict):
            raise TypeError
        yield one


def _taken(value: dict[str, Any], asked: Asked, item: Item, passages: Sequence[Passage]) -> Said | str | None:
    """What is taken of one value, or why it is not; None where it says that there is none."""
    told, arm, quote = value.get("value"), value.get("arm"), value.get("quote")
    if told is None or told == "":
        return None
    arm = None if arm in (None, "") else str(arm)
    if (arm is None) == bool(asked.arms) or (arm is not None and arm not in {one.id for one in asked.arms}):
        return NO_ARM
    words = normal(quote) if isinstance(quote, str) else ""
    found = next((one for one in passages if words and words in normal(one.text)), None)
    if found is None or len(words) > _LONGEST:
        return NO_QUOTE
    try:
        text = understood(item, told) if isinstance(told, str) else worded(item, told)
    except (NotAValue, KeyError, TypeError, AttributeError, OverflowError, ValueError):
        return NO_VALUE
    if not text or absent(text):
        return None
    quote = words if len(words) >= _SHORTEST else normal(found.text)
    if not _figures_of(item, text) <= _figures_in(words):
        return NO_FIGURE
    return Said(arm, text, quote, found.page)


def _figures_of(item: Item, text: str) -> set[float]:
    """The figures of a value; names of choices, days and words for yes and no have none to compare."""
    if item.kind in ("choice", "choices", "yesno", "date"):
        return set()
    return {number.value for number in numbers(text, False, spaces=False) if not number.in_words}


def _figures_in(quote: str) -> set[float]:
    """Every figure that a quote may be read to state."""
    return {number.value for commas in (False, True) for spaces in (False, True) for number in numbers(quote, commas, spaces)}
