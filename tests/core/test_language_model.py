"""What is taken of a language model's answer: only what stands, word for word and figure for figure, in what it was sent."""

from __future__ import annotations

import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.charting import language_model as model
from kettlesort.core.charting.asking import Passage
from kettlesort.core.charting.items import Item
from kettlesort.core.charting.language_model import NO_ARM, NO_FIGURE, NO_QUOTE, NO_VALUE, NONSENSE, Said
from kettlesort.core.charting.proposals import Arm, Asked

ALIVE = Passage("In spring 86 of 106 wrapped colonies and 72 of 104 control colo-\nnies were alive.", 3, "Results")
WRAP = Passage("Hives were wrapped in foam of 3 cm thickness (NR for two).", 2, "Methods")
BLIND = Passage("Assessors were not told which hive was which.", 2, "Methods")
PASSAGES = [WRAP, BLIND, ALIVE]
SURVIVED = Item("Survived", "counts", per=("arm",))
BY_ARM = Asked("1", "Survived", "counts", arms=(Arm("7", "Foam"), Arm("8", "Plain")))
THICKNESS = Item("Thickness", "quantity", "mm")


def told(item: Item, asked: Asked, *values: Any) -> tuple[list[Said], dict[str, int]]:
    found = model.answered(json.dumps({"values": values}), asked, item, PASSAGES)
    return found.said, dict(found.refused)


def once(item: Item, *values: Any) -> tuple[list[Said], dict[str, int]]:
    return told(item, Asked("1", item.name, item.kind), *values)


def test_a_value_is_taken_with_its_quote_and_page() -> None:
    quote = "86 of 106 wrapped colonies and 72 of 104 control colonies were alive"
    foam, plain = ({"value": value, "quote": quote, "arm": arm} for value, arm in (("86 of 106", "7"), ({"events": 72, "total": 104}, "8")))
    assert told(SURVIVED, BY_ARM, foam, plain, foam) == ([Said("7", "86 / 106", quote, 3), Said("8", "72 / 104", quote, 3)], {})


def test_a_unit_stays_as_the_report_has_it_and_a_short_quote_is_taken_with_its_passage() -> None:
    assert once(THICKNESS, {"value": "3 cm", "quote": "3 cm thickness"}) == ([Said(None, "3 cm", WRAP.text, 2)], {})


@pytest.mark.parametrize(
    ("item", "value", "why"),
    [
        (THICKNESS, {"value": "3 cm", "quote": "Hives were wrapped in foam of 3 cm."}, NO_QUOTE),
        (THICKNESS, {"value": "3 cm", "quote": "hives were wrapped in foam of 3 cm"}, NO_QUOTE),
        (THICKNESS, {"value": "3 cm", "quote": "   "}, NO_QUOTE),
        (THICKNESS, {"value": "3 cm"}, NO_QUOTE),
        (THICKNESS, {"value": "30 mm", "quote": "Hives were wrapped in foam of 3 cm thickness"}, NO_FIGURE),
        (THICKNESS, {"value": "thick", "quote": "Hives were wrapped in foam of 3 cm thickness"}, NO_VALUE),
        (THICKNESS, {"value": {"value": "x"}, "quote": "Hives were wrapped in foam of 3 cm thickness"}, NO_VALUE),
        (THICKNESS, {"value": "3 cm", "quote": "Hives were wrapped in foam of 3 cm thickness", "arm": "7"}, NO_ARM),
        (Item("Wrap", "choice", choices=("Foam", "Straw")), {"value": "Cork", "quote": "Hives were wrapped in foam"}, NO_VALUE),
        (Item("Note", "text"), {"value": "foam of 5 cm", "quote": "Hives were wrapped in foam of 3 cm thickness"}, NO_FIGURE),
    ],
)
def test_what_the_report_does_not_say_is_refused_with_the_reason(item: Item, value: dict[str, Any], why: str) -> None:
    assert once(item, value) == ([], {why: 1})


def test_an_arm_that_was_not_asked_for_is_refused() -> None:
    quote = "In spring 86 of 106 wrapped colonies"
    assert told(SURVIVED, BY_ARM, {"value": "86 / 106", "quote": quote, "arm": "9"}, {"value": "86 / 106", "quote": quote}) == (
        [],
        {NO_ARM: 2},
    )


def test_nothing_is_no_value_and_yes_is_one() -> None:
    quote = "Assessors were not told which hive was which."
    assert once(Item("Blinded", "yesno"), {"value": True, "quote": quote})[0] == [Said(None, "yes", quote, 2)]
    for nothing in (None, "", "not reported"):
        assert once(THICKNESS, {"value": nothing, "quote": "Hives were wrapped in foam of 3 cm thickness"}) == ([], {})
    assert once(THICKNESS) == ([], {})


@pytest.mark.parametrize(
    "body",
    ["", "Bees are insects.", "3", '"x"', "null", '{"answer": 3}', '[["x"]]', "[" * 100_000, b"\xff\xfe", '{"values": {"value": 1}}'],
)
def test_an_answer_that_is_none_is_counted_as_that(body: str | bytes) -> None:
    found = model.answered(body, Asked("1", "Thickness", "quantity"), THICKNESS, PASSAGES)
    assert (found.said, dict(found.refused)) == ([], {NONSENSE: 1})


@given(
    st.recursive(
        st.none() | st.booleans() | st.integers() | st.floats() | st.text(),
        lambda some: st.lists(some) | st.dictionaries(st.sampled_from(["value", "quote", "arm", "values", "unit"]), some),
        max_leaves=12,
    )
)
def test_whatever_is_answered_every_quote_stands_in_the_report(answer: Any) -> None:
    for item in (THICKNESS, SURVIVED, Item("Note", "text")):
        for said in model.answered(json.dumps(answer), Asked("1", item.name, item.kind), item, PASSAGES).said:
            assert any(said.quote in model.normal(one.text) for one in PASSAGES)


def test_the_question_holds_the_item_and_the_passages_that_speak_of_it() -> None:
    asked = Asked("1", "Thickness of the wrap", "quantity", "Without the cover.", "mm")
    sent = model.passages_for(
        asked,
        [*PASSAGES, *(Passage(f"Nothing of the kind, number {k}.", 9, "") for k in range(40))],
        ["In spring 86 of 106 wrapped colonies"],
    )
    assert ALIVE in sent  # the reader found a quote in it
    assert sent[0] == WRAP
    assert len(sent) <= model.MOST_PASSAGES
    question = model.question(asked, sent)
    assert question["item"] == {
        "name": asked.name,
        "kind": "quantity",
        "instructions": "Without the cover.",
        "unit": "mm",
        "choices": [],
        "arms": [],
    }
    assert question["passages"][0] == {"number": 1, "page": 2, "heading": "Methods", "text": WRAP.text}
    json.dumps(question)
