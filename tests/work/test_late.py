"""Two people edit the same thing at once: what one of them changed stays, of what both changed the later one is told and chooses."""

from __future__ import annotations

from datetime import date
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.work import chart, codebook, recipes, searches, studies, syntax
from kettlesort.work.codebook import Book, ConceptWording, ItemWording, LevelWording
from kettlesort.work.errors import Conflict
from kettlesort.work.late import merged
from tests.conftest import Room

PARTS = st.dictionaries(st.sampled_from("abcdef"), st.integers(0, 3))


@given(PARTS, PARTS, PARTS)
def test_nothing_that_either_changed_is_lost(seen: dict[str, int], now: dict[str, int], mine: dict[str, int]) -> None:
    out, both = merged(seen, now, mine)
    for part in {*seen, *now, *mine}:
        then, theirs, yours = seen.get(part), now.get(part), mine.get(part)
        if yours == then:
            assert out.get(part) == theirs
        else:
            assert out.get(part) == yours
            assert (part in both) == (theirs not in (then, yours))


@given(PARTS, PARTS)
def test_who_is_alone_is_never_told_anything(seen: dict[str, int], mine: dict[str, int]) -> None:
    assert merged(seen, seen, mine) == (mine, [])


def item(name: str, kind: str = "text") -> ItemWording:
    return ItemWording(None, name, kind)


def book(room: Room) -> Book:
    return codebook.codebook(room.review)[0]


def test_items_and_arms_that_two_people_add_at_once_are_all_kept(room: Room) -> None:
    codebook.set_codebook(room.review, room.lead, Book([item("Colonies"), item("Winters")], [], [LevelWording(None, "arm", "Plain")]))
    seen = book(room)
    codebook.set_codebook(
        room.review,
        room.reviewer,
        seen._replace(items=[*seen.items, item("Wraps")], levels=[*seen.levels, LevelWording(None, "arm", "Foam")]),
        seen,
    )
    first = seen.items[0]._replace(instructions="Count at the first frost")
    mine = seen._replace(
        items=[item("Sites"), first, seen.items[1]],
        concepts=[ConceptWording(None, "Place")],
        levels=[LevelWording(None, "arm", "Straw"), *seen.levels],
    )
    codebook.set_codebook(room.review, room.lead, mine, seen)
    now = book(room)
    assert [(it.name, it.instructions) for it in now.items] == [
        ("Colonies", "Count at the first frost"),
        ("Winters", ""),
        ("Wraps", ""),
        ("Sites", ""),
    ]
    assert [it.name for it in now.levels] == ["Plain", "Foam", "Straw"]
    assert [it.name for it in now.concepts] == ["Place"]


def test_an_item_that_both_changed_is_shown_to_the_later_one_who_then_chooses(room: Room) -> None:
    codebook.set_codebook(room.review, room.lead, Book([item("Colonies"), item("Winters")]))
    seen = book(room)
    theirs = [seen.items[0]._replace(name="Colonies at start"), seen.items[1], item("Wraps")]
    codebook.set_codebook(room.review, room.reviewer, Book(theirs), seen)
    mine = Book([seen.items[0]._replace(name="Hives"), seen.items[1]])
    with pytest.raises(Conflict, match="Reviewer Ames changed the codebook meanwhile") as told:
        codebook.set_codebook(room.review, room.lead, mine, seen)
    details: dict[str, Any] = told.value.details
    assert [(it["theirs"], it["yours"]) for it in details["both"]] == [("Colonies at start; text", "Hives; text")]
    assert [it.name for it in book(room).items] == ["Colonies at start", "Winters", "Wraps"]
    again, now = (Book([ItemWording(**it) for it in details[name]["items"]]) for name in ("mine", "now"))
    codebook.set_codebook(room.review, room.lead, again, now)
    assert [it.name for it in book(room).items] == ["Hives", "Winters", "Wraps"]


def test_a_cell_that_somebody_else_changed_is_not_overwritten_but_asked(room: Room) -> None:
    room.include("Wrapped hives")
    codebook.set_codebook(room.review, room.lead, Book([item("Colonies", "number")]))
    table = chart.evidence_table(room.review)
    study, number = table.studies[0].id, table.book.items[0].id or 0

    def write(by: int, text: str, seen: str | None) -> list[chart.NotTaken]:
        return chart.set_values(room.review, by, [chart.Typed(study, number, text, seen=seen)])

    assert write(room.reviewer, "12", "") == []
    (told,) = write(room.lead, "21", "")
    assert (told.theirs, told.message) == ("12", "Reviewer Ames changed this to 12 meanwhile.")
    assert write(room.lead, "12", "") == [], "both mean the same"
    assert write(room.lead, "21", "12") == [], "who has seen both may choose"
    assert [it["text"] for it in chart.value_history(room.review, study, number)] == ["21", "12"]
    studies.rename_study(room.review, room.reviewer, study, "Orsel’s farms", "")
    with pytest.raises(Conflict, match="changed this name meanwhile"):
        studies.rename_study(room.review, room.lead, study, "The farm trial", "")
    studies.rename_study(room.review, room.lead, study, "The farm trial", "Orsel’s farms")
    shown = chart.evidence_table(room.review).studies[0].label
    studies.rename_study(room.review, room.reviewer, study, "", shown)
    studies.rename_study(room.review, room.lead, study, "Farms", chart.evidence_table(room.review).studies[0].label)


def test_a_search_keeps_what_each_wrote_into_it(room: Room) -> None:
    entry = searches.SearchEntry("Agrarica", "database", "bees", date(2026, 2, 4), "OM", "", 120)
    search = searches.write_search(room.review, room.lead, entry)
    searches.write_search(room.review, room.reviewer, entry._replace(announced=121), search, entry)
    searches.write_search(room.review, room.lead, entry._replace(notes="Two parts"), search, entry)
    (logged,) = searches.search_log(room.review)
    assert (logged.latest["announced"], logged.notes) == (121, "Two parts")
    with pytest.raises(Conflict, match="Lead Orsel changed search 1 meanwhile") as told:
        searches.write_search(room.review, room.reviewer, entry._replace(notes="One part"), search, entry)
    assert told.value.details["both"] == [{"what": "Notes", "theirs": "Two parts", "yours": "One part"}]
    assert searches.search_log(room.review)[0].latest["run_on"] == date(2026, 2, 4)


RECIPE = 'name = "Shelf"\nabout = "{}"\nversion = 1\nshape = "sign"\nbegin = "blank"\n\n[fields]\n"%T" = "title"\n"%A" = "authors"\n'


def test_of_two_who_change_a_recipe_the_later_is_shown_both_and_no_version_is_lost(room: Room) -> None:
    first = recipes.keep(room.review, room.lead, RECIPE.format("Ours"), seen="").text()
    theirs = recipes.keep(room.review, room.reviewer, RECIPE.format("Theirs"), seen=first).text()
    for seen in (first, ""):  # changed meanwhile, or made by both under one name
        with pytest.raises(Conflict, match="Reviewer Ames changed the recipe “Shelf” meanwhile") as told:
            recipes.keep(room.review, room.lead, RECIPE.format("Mine"), seen=seen)
        assert told.value.details["now"] == theirs
        assert 'about = "Mine"' in told.value.details["mine"]
    assert recipes.keep(room.review, room.lead, RECIPE.format("Theirs"), seen=first).version == 2, "both mean the same"
    recipes.keep(room.review, room.lead, told.value.details["mine"], seen=told.value.details["now"])
    assert [it["version"] for it in recipes.recipes(room.review)[0].versions] == [3, 2, 1]


def test_of_two_who_change_a_syntax_the_later_is_shown_both(room: Room) -> None:
    key, shipped = next((it.key, it.text) for it in syntax.syntaxes(room.review))
    theirs, mine = shipped + "# theirs\n", shipped + "# mine\n"
    syntax.declare(room.review, room.reviewer, key, theirs, seen=shipped)
    with pytest.raises(Conflict, match="Reviewer Ames changed the syntax") as told:
        syntax.declare(room.review, room.lead, key, mine, seen=shipped)
    assert (told.value.details["now"], told.value.details["mine"]) == (theirs, mine)
    syntax.declare(room.review, room.lead, key, mine, seen=theirs)
    assert next(it.text for it in syntax.syntaxes(room.review) if it.key == key) == mine
