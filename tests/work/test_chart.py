"""The codebook and the evidence table: values that fit, nothing overwritten or lost, out as a table that no spreadsheet runs."""

from __future__ import annotations

import io
import math
from datetime import datetime
from typing import Any

import openpyxl
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from kettlesort.core.charting.codebook import read_toml
from kettlesort.store.base import session
from kettlesort.store.sql import run
from kettlesort.work import chart, codebook, evidence_out, report, studies
from kettlesort.work.codebook import Book, ConceptWording, ItemWording, LevelWording
from kettlesort.work.errors import Conflict, Invalid, NotFound
from tests.conftest import Room, make_room

ITEMS = [
    ItemWording(None, "Colonies", "quantity", "hives", [], "Those at the start"),
    ItemWording(None, "Design", "choice", "", ["Trial", "Cohort"]),
    ItemWording(None, "Lost", "counts"),
    ItemWording(None, "Remark", "text"),
]
ARMS = [LevelWording(None, "arm", "Wrapped", ["foam"]), LevelWording(None, "arm", "Plain")]


@pytest.fixture
def charted(room: Room) -> Room:
    """A review with two included studies and a codebook."""
    room.include("Wraps in winter", "Lids in winter", more=["Honey in summer"])
    codebook.set_codebook(room.review, room.lead, Book(ITEMS))
    return room


def cells(room: Room) -> dict[str, dict[str, str]]:
    """Values by study and item, those of levels as "Item · level"."""
    it = chart.evidence_table(room.review)
    names = {one.id: one.name for one in [*it.book.items]}
    levels = {one.id: one.name for one in it.levels}
    return {
        study.label: {
            " · ".join([names[v.item], *(levels[level] for level in v.levels if level)]): v.shown or v.text for v in it.values if v.study == study.id
        }
        for study in it.studies
    }  # fmt: skip


def at(room: Room, row: int, item: str, level: str = "") -> tuple[int, int, chart.Levels]:
    it = chart.evidence_table(room.review)
    number = next(one.id for one in it.book.items if one.name == item) or 0
    arm = next(one.id for one in it.levels if one.name == level) if level else None
    return it.studies[row].id, number, (arm, None, None)


def write(room: Room, row: int, item: str, text: str, level: str = "", **more: Any) -> list[chart.NotTaken]:
    study, number, levels = at(room, row, item, level)
    return chart.set_values(room.review, room.reviewer, [chart.Typed(study, number, text, levels=levels, **more)])


def book(room: Room) -> Book:
    return codebook.codebook(room.review)[0]


def test_values_take_the_form_of_their_item_and_keep_who_and_when(charted: Room) -> None:
    record = chart.evidence_table(charted.review).studies[0].reports[0]["record_id"]
    assert write(charted, 0, "Colonies", " 1 250 ", quote="We began with 1250 colonies.", page="4", record=record, how="marked") == []
    assert write(charted, 0, "Lost", "12 of 40") == []
    assert write(charted, 1, "Design", "trial") == []
    assert list(cells(charted).values()) == [{"Colonies": "1250", "Lost": "12 / 40"}, {"Design": "Trial"}]
    write(charted, 0, "Colonies", "1300")
    history = chart.value_history(charted.review, *at(charted, 0, "Colonies"))
    assert [(it["text"], it["quote"], it["page"], it["how"], it["record"]) for it in history] == [
        ("1300 hives", "We began with 1250 colonies.", "4", "typed", record),
        ("1250 hives", "We began with 1250 colonies.", "4", "marked", record),
    ]
    assert report.history(charted.review, None, 1)[1][0]["before"] == "1250 hives"


def test_what_does_not_fit_is_told_and_the_rest_of_the_block_is_taken(charted: Room) -> None:
    (one, colonies, _none), (_, remark, _), (two, lost, _) = at(charted, 0, "Colonies"), at(charted, 0, "Remark"), at(charted, 1, "Lost")
    block = [chart.Typed(one, colonies, "many"), chart.Typed(one, remark, "fine"), chart.Typed(two, lost, "50/40")]
    refused = chart.set_values(charted.review, charted.reviewer, block)
    assert [(it.study, it.item, bool(it.message)) for it in refused] == [(one, colonies, True), (two, lost, True)]
    assert list(cells(charted).values()) == [{"Remark": "fine"}, {}]
    with pytest.raises(NotFound, match="table has changed"):
        chart.set_values(charted.review, charted.reviewer, [chart.Typed(one, 10**9, "x")])


def test_writing_the_same_again_leaves_no_trace(charted: Room) -> None:
    write(charted, 0, "Remark", "seen")
    told = report.history(charted.review, None, 1)[0]
    write(charted, 0, "Remark", "seen")
    assert report.history(charted.review, None, 1)[0] == told


def test_charted_counts_studies_with_a_value_for_every_item_and_level(charted: Room) -> None:
    for item, text in (("Colonies", "5"), ("Design", "Trial"), ("Lost", "1/5")):
        write(charted, 0, item, text)
    assert report.standing(charted.review).charted == 0
    write(charted, 0, "Remark", "NR")
    assert report.standing(charted.review).charted == 1
    now = book(charted)
    codebook.set_codebook(charted.review, charted.lead, now._replace(items=[*now.items, ItemWording(None, "Fed", "yesno", per=["arm"])]))
    assert report.standing(charted.review).charted == 0, "no arm is known of which it could be said"
    codebook.set_codebook(charted.review, charted.lead, book(charted)._replace(levels=ARMS))
    write(charted, 0, "Fed", "yes", "Wrapped")
    assert report.standing(charted.review).charted == 0
    write(charted, 0, "Fed", "no", "Plain")
    assert report.standing(charted.review).charted == 1
    extra = studies.add_level(charted.review, charted.lead, at(charted, 0, "Fed")[0], "arm", "Half wrapped")
    assert report.standing(charted.review).charted == 0
    write(charted, 0, "Fed", "yes", "Half wrapped")
    studies.remove_level(charted.review, charted.lead, extra)
    assert all(
        "Half wrapped" not in " ".join(row) for row in (*evidence_out.export_rows(charted.review), *evidence_out.long_rows(charted.review))
    )
    assert [v.text for v in chart.evidence_table(charted.review).values if extra in v.levels] == []
    assert report.standing(charted.review).charted == 1


@pytest.mark.parametrize(
    ("items", "said"),
    [
        ([ItemWording(None, " ", "text")], "needs a name"),
        ([ItemWording(None, "A", "guess")], "A data item is one of"),
        ([ItemWording(None, "A", "choice", "", ["one", " "])], "at least two choices"),
        ([ItemWording(None, "A", "text"), ItemWording(None, " a ", "date")], "same name"),
        ([ItemWording(None, "A", "text", concept="Nowhere")], "which is not there"),
    ],
)
def test_a_codebook_that_makes_no_sense_is_refused_whole(charted: Room, items: list[ItemWording], said: str) -> None:
    with pytest.raises(Invalid, match=said):
        codebook.set_codebook(charted.review, charted.lead, Book(items))
    assert [it.name for it in book(charted).items] == ["Colonies", "Design", "Lost", "Remark"]


def test_an_item_in_use_changes_only_once_what_becomes_of_its_values_was_looked_at(charted: Room) -> None:
    write(charted, 0, "Colonies", "5")
    write(charted, 1, "Remark", "12")
    write(charted, 0, "Remark", "a dozen")
    now = book(charted)
    colonies, design, lost, remark = now.items
    wanted = Book([colonies._replace(unit="colonies", name="Hives"), design, lost, remark._replace(kind="number")])
    told = codebook.preview(charted.review, wanted)
    assert [(it.name, it.reworded, [(one.text, one.why) for one in it.unfit]) for it in told.consequences] == [
        ("Hives", 0, [("5 hives", "“hives” cannot be converted to colonies")]), ("Remark", 0, [("a dozen", "“a dozen” is not a number")]),
    ]  # fmt: skip
    with pytest.raises(Conflict, match="touches values"):
        codebook.set_codebook(charted.review, charted.lead, wanted)
    assert book(charted) == now
    codebook.set_codebook(charted.review, charted.lead, wanted, agreed=True)
    it = chart.evidence_table(charted.review)
    assert sorted((v.text, v.unfit) for v in it.values) == [
        ("12", ""),
        ("5 hives", "“hives” cannot be converted to colonies"),
        ("a dozen", "“a dozen” is not a number"),
    ]
    write(charted, 0, "Remark", "12")
    assert not [v.unfit for v in chart.evidence_table(charted.review).values if v.text == "12" and v.unfit]
    codebook.set_codebook(charted.review, charted.lead, Book([it for it in book(charted).items if it.name != "Hives"]), agreed=True)
    assert all("5 hives" not in some.values() for some in cells(charted).values())
    assert [it.changes for it in codebook.versions(charted.review)][:2] == [
        ["Hives was removed"],
        ["Colonies: is called Hives", "Colonies: in colonies, was in hives", "Remark: is number, was text"],
    ]
    with pytest.raises(NotFound, match="removed meanwhile"):
        codebook.set_codebook(charted.review, charted.lead, Book([ItemWording(10**9, "A", "text")]), agreed=True)


KINDS = st.sampled_from(["text", "number", "quantity", "yesno", "counts", "mean_sd", "choices"])


@settings(max_examples=15, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    kinds=st.lists(KINDS, min_size=1, max_size=4),
    typed=st.lists(st.sampled_from(["12", "3 / 20", "yes", "4.5 ± 2", "0.5 g", "foam; lid"]), max_size=6),
    per=st.booleans(),
)
def test_no_value_is_lost_however_a_codebook_changes(database: str, kinds: list[str], typed: list[str], per: bool) -> None:
    room = make_room()
    room.include("Wraps in winter", "Lids in winter")
    codebook.set_codebook(room.review, room.lead, Book([ItemWording(None, "A", "text")], [], ARMS))
    for k, text in enumerate(typed):
        write(room, k % 2, "A", text)
    held = [{"A": it["A"]} for it in cells(room).values() if it]
    for k, kind in enumerate(kinds):
        (now,) = book(room).items
        wanted = now._replace(
            kind=kind, choices=["foam", "lid"] if kind == "choices" else [], unit="mg", per=["arm"] if per and k % 2 else []
        )
        codebook.set_codebook(room.review, room.lead, book(room)._replace(items=[wanted]), agreed=True)
    codebook.set_codebook(
        room.review,
        room.lead,
        book(room)._replace(items=[book(room).items[0]._replace(kind="text", unit="", choices=[], per=[])]),
        agreed=True,
    )
    figures = [[text.split(" mg")[0] for text in it.values()] for it in held]
    assert [[text.split(" mg")[0] for text in it.values()] for it in cells(room).values() if it] == figures
    assert not any(v.unfit for v in chart.evidence_table(room.review).values)


def test_a_codebook_goes_out_as_a_file_and_adds_to_another(charted: Room) -> None:
    now = book(charted)
    codebook.set_codebook(
        charted.review, charted.lead,
        Book([*now.items, ItemWording(None, "Fed", "yesno", per=["arm"], concept="Care")], [ConceptWording(None, "Husbandry"), ConceptWording(None, "Care", "Husbandry")], ARMS),
    )  # fmt: skip
    text = codebook.as_toml(charted.review)
    assert [it.name for it in read_toml(text).items] == ["Colonies", "Design", "Lost", "Remark", "Fed"]
    other = make_room()
    codebook.set_codebook(other.review, other.lead, Book([ItemWording(None, "colonies", "text")]))
    more = codebook.from_toml(other.review, text)
    assert [(it.name, it.kind) for it in more.items][:2] == [("colonies", "text"), ("Design", "choice")]
    codebook.set_codebook(other.review, other.lead, more)
    assert [(it.name, it.within) for it in book(other).concepts] == [("Husbandry", ""), ("Care", "Husbandry")]
    assert [it.name for it in book(other).levels] == ["Wrapped", "Plain"]
    with pytest.raises(Invalid, match="no TOML"):
        codebook.from_toml(other.review, "[[item")


def test_a_value_names_the_levels_that_its_item_is_asked_for(charted: Room) -> None:
    now = book(charted)
    codebook.set_codebook(charted.review, charted.lead, Book([*now.items, ItemWording(None, "Fed", "yesno", per=["arm"])], [], ARMS))
    assert [it.message for it in write(charted, 0, "Fed", "yes")] == ["Fed is asked for each arm"]
    assert [it.message for it in write(charted, 0, "Remark", "so", "Plain")] == ["Remark is not asked for each arm"]
    own = studies.add_level(charted.review, charted.lead, at(charted, 0, "Fed")[0], "arm", "Half wrapped")
    assert write(charted, 0, "Fed", "yes", "Half wrapped") == []
    with pytest.raises(NotFound, match="table has changed"):
        write(charted, 1, "Fed", "yes", "Half wrapped")
    assert next(iter(cells(charted).values())) == {"Fed · Half wrapped": "yes"}
    with pytest.raises(Invalid, match="is there already"):
        studies.add_level(charted.review, charted.lead, at(charted, 0, "Fed")[0], "arm", "plain")
    head, first, _ = evidence_out.export_rows(charted.review)
    assert dict(zip(head, first, strict=True))["Fed · Half wrapped"] == "yes"
    assert own in {it.id for it in chart.evidence_table(charted.review).levels}


def test_reports_of_one_study_share_its_row_and_values_go_where_their_report_goes(charted: Room) -> None:
    one, two = chart.evidence_table(charted.review).studies
    second = two.reports[0]["record_id"]
    write(charted, 0, "Remark", "of the first")
    write(charted, 1, "Remark", "of the second")
    write(charted, 1, "Colonies", "5", quote="five", record=second)
    write(charted, 1, "Design", "trial")
    studies.link_report(charted.review, charted.lead, second, one.id)
    assert [len(it.reports) for it in chart.evidence_table(charted.review).studies] == [2]
    assert list(cells(charted).values()) == [{"Remark": "of the first", "Colonies": "5", "Design": "Trial"}]
    assert [it["text"] for it in chart.value_history(charted.review, *at(charted, 0, "Remark"))] == [
        "of the first",
        "of the second",
        "of the first",
    ]
    figures = report.standing(charted.review).figures
    assert (figures.studies, figures.total.included) == (1, 2)
    studies.link_report(charted.review, charted.lead, second, None)
    assert report.standing(charted.review).figures.studies == 2
    kept = {study.id: cells(charted)[study.label] for study in chart.evidence_table(charted.review).studies}
    assert kept.pop(one.id) == {"Remark": "of the first", "Design": "Trial"}, "what was typed for the study stays with it"
    assert list(kept.values()) == [{"Colonies": "5"}], "what was read from the report goes with it"
    with pytest.raises(NotFound, match="not among the included"):
        studies.link_report(charted.review, charted.lead, charted.records("open")[0], one.id)


def test_a_report_that_is_moved_back_finds_its_study_as_it_was(charted: Room) -> None:
    codebook.set_codebook(
        charted.review, charted.lead, book(charted)._replace(items=[*book(charted).items, ItemWording(None, "Fed", "yesno", per=["arm"])])
    )
    one, two = chart.evidence_table(charted.review).studies
    second = two.reports[0]["record_id"]
    studies.add_level(charted.review, charted.lead, two.id, "arm", "Half wrapped")
    for row, item, text in (
        (0, "Remark", "same"),
        (1, "Remark", "same"),
        (0, "Design", "trial"),
        (1, "Design", "cohort"),
        (1, "Lost", "1/2"),
    ):
        write(charted, row, item, text)
    write(charted, 1, "Fed", "yes", "Half wrapped")
    write(charted, 1, "Colonies", "5", quote="five", record=second)
    before = chart.evidence_table(charted.review)
    studies.link_report(charted.review, charted.lead, second, one.id)
    joined = next(iter(cells(charted).values()))
    assert joined == {"Remark": "same", "Design": "Trial", "Lost": "1 / 2", "Fed · Half wrapped": "yes", "Colonies": "5"}
    studies.link_report(charted.review, charted.lead, second, two.id)
    after = chart.evidence_table(charted.review)
    assert set(after.values) == set(before.values)
    assert [(it.id, it.study_id) for it in after.levels] == [(it.id, it.study_id) for it in before.levels]


def test_what_was_written_into_a_joined_study_stays_there_when_a_report_leaves(charted: Room) -> None:
    one, two = chart.evidence_table(charted.review).studies
    write(charted, 1, "Remark", "of the second")
    studies.link_report(charted.review, charted.lead, two.reports[0]["record_id"], one.id)
    write(charted, 0, "Remark", "of both")
    studies.link_report(charted.review, charted.lead, two.reports[0]["record_id"], two.id)
    assert {v.study: v.text for v in chart.evidence_table(charted.review).values} == {one.id: "of both", two.id: "of the second"}


def test_reports_that_may_be_of_one_study_are_asked_once(room: Room) -> None:
    one, two = room.include("Foam wraps in the Kellombe uplands, trial AB12345", "Foam wraps in the Kellombe uplands, registered AB12345")
    assert studies.together(room.review) == []
    with session() as db:
        run(db, "UPDATE record SET abstract = 'Registered as ABCD-1234567.' WHERE review_id = :v", v=room.review)
    (pair,) = studies.together(room.review)
    assert ({pair.left["record_id"], pair.right["record_id"]}, pair.both_charted) == ({one, two}, False)
    assert "both name ABCD1234567" in pair.why
    studies.tell_apart(room.review, room.lead, one, two)
    assert studies.together(room.review) == []
    studies.tell_apart(room.review, room.lead, two, one, back=True)
    assert len(studies.together(room.review)) == 1
    studies.link_report(room.review, room.lead, two, pair.left["study_id"] if pair.left["record_id"] == one else pair.right["study_id"])
    assert studies.together(room.review) == []
    with pytest.raises(NotFound, match="not two of the included"):
        studies.tell_apart(room.review, room.lead, one, 10**9)


def test_the_table_goes_out_with_units_quotes_and_the_teams_own_names(charted: Room) -> None:
    study = chart.evidence_table(charted.review).studies[0]
    studies.rename_study(charted.review, charted.lead, study.id, "  Apiary   North ")
    write(charted, 0, "Colonies", "5", quote="five hives", page="2")
    write(
        charted,
        [it.label for it in chart.evidence_table(charted.review).studies].index("Apiary North"),
        "Colonies",
        "5",
        quote="five hives",
        page="2",
    )
    table = evidence_out.export_rows(charted.review)
    assert table[0] == [
        "Study",
        "Reports",
        "Colonies (hives)",
        "Colonies (hives): quote",
        "Colonies (hives): page",
        "Design",
        "Lost",
        "Remark",
        "Found by",
        "Versions of the query",
        "Labels",
    ]
    row = next(it for it in table if it[0] == "Apiary North")
    assert row[2:5] == ["5", "five hives", "2"]
    assert row[-3:] == ["Agrarica, search 1.1", "", ""]
    studies.rename_study(charted.review, charted.lead, study.id, "")
    assert "Apiary North" not in [it[0] for it in evidence_out.export_rows(charted.review)]
    with pytest.raises(NotFound):
        studies.rename_study(charted.review, charted.lead, 10**9, "x")


def test_the_long_form_takes_values_apart_into_figures(charted: Room) -> None:
    now = book(charted)
    codebook.set_codebook(
        charted.review,
        charted.lead,
        Book([*now.items, ItemWording(None, "Weight", "mean_sd", per=["arm"]), ItemWording(None, "Dose", "quantity", "mg")], [], ARMS),
    )
    write(charted, 0, "Weight", "12.5 ± 3 (n 20)", "Plain")
    write(charted, 0, "Dose", "0.5 g")
    write(charted, 0, "Lost", "3 of 20")
    write(charted, 0, "Remark", "NR")
    head, *rows = evidence_out.long_rows(charted.review)
    told = [{name: cell for name, cell in zip(head, row, strict=True) if cell and name not in ("study", "kind", "how")} for row in rows]
    assert told == [
        {"item": "Lost", "value": "3 / 20", "number": "0.15", "events": "3", "total": "20"},
        {"item": "Remark", "value": "not reported"},
        {"item": "Weight", "arm": "Plain", "value": "12.5 ± 3 (n 20)", "number": "12.5", "mean": "12.5", "sd": "3.0", "n": "20"},
        {"item": "Dose", "value": "0.5 g", "number": "500", "unit": "mg"},
    ]


WEIGHT = Book(
    [
        ItemWording(None, "Weight", "mean_sd", per=["arm"]),
        ItemWording(None, "Lost", "counts", per=["arm"]),
        ItemWording(None, "Remark", "text"),
    ],
    [],
    [*ARMS, LevelWording(None, "arm", "Both")],
)


def work_out(room: Room, item: str, level: str, way: str, arms: list[int] | None = None, **givens: float) -> list[chart.NotTaken]:
    study, number, levels = at(room, 0, item, level)
    return chart.set_worked_out(
        room.review, room.lead, chart.Typed(study, number, "", levels=levels, derived={"way": way, "givens": givens, "arms": arms or []})
    )


def test_a_value_is_worked_out_from_other_numbers_which_stay_with_it(charted: Room) -> None:
    codebook.set_codebook(charted.review, charted.lead, WEIGHT)
    assert work_out(charted, "Weight", "Plain", "group", mean=12, se=0.5, n=36) == []
    assert work_out(charted, "Weight", "Wrapped", "change", mean1=20, sd1=4, mean2=15, sd2=3, correlation=0.5, n=30) == []
    assert next(iter(cells(charted).values())) == {"Weight · Plain": "12 ± 3 (n 36)", "Weight · Wrapped": "-5 ± 3.60555 (n 30)"}
    (told, *_) = chart.value_history(charted.review, *at(charted, 0, "Weight", "Plain"))
    assert (told["how"], told["derived"]["givens"], told["derived"]["by"]) == (
        "derived",
        {"mean": 12, "se": 0.5, "n": 36},
        "mean: as given; SD: SE × √n",
    )
    for way, givens, said in (
        ("group", {"mean": 12}, "no SD follows"), ("group", {"q1": 5, "median": 3, "q3": 9, "n": 20}, "q1 5 is above median 3"), ("change", {"mean1": 1}, "sd1 is missing"),
        ("change", {"mean1": 1, "sd1": 1, "mean2": 1, "sd2": 1, "correlation": 2}, "not between -1 and 1"), ("group", {"mean": 1, "se": 1e308, "n": 1e9}, "too large"),
    ):  # fmt: skip
        with pytest.raises(Invalid, match=f"(?i){said}"):
            work_out(charted, "Weight", "Plain", way, **givens)
    with pytest.raises(Invalid, match="Only a mean"):
        work_out(charted, "Remark", "", "group", mean=1, sd=1)


def test_what_is_taken_back_comes_as_it_stood_with_its_words_and_how_it_came(charted: Room) -> None:
    def now() -> tuple[str, str, str, str]:
        told = chart.value_history(charted.review, *at(charted, 0, "Remark"))[0]
        return told["text"], told["quote"], told["page"], told["how"]

    write(charted, 0, "Remark", "Foam", quote="wrapped in foam", page="3", how="marked")
    write(charted, 0, "Remark", "Foam", quote="in foam of 3 cm", page="4")
    write(charted, 0, "Remark", "", how="pasted")
    assert now() == ("", "", "", "pasted")
    write(charted, 0, "Remark", "Foam", back=True, seen="")
    assert now() == ("Foam", "in foam of 3 cm", "4", "marked"), "the last that stood there"
    write(charted, 0, "Remark", "Foam", quote="wrapped in foam", page="3", back=True)
    assert now() == ("Foam", "wrapped in foam", "3", "marked")
    write(charted, 0, "Remark", "Straw", back=True)
    assert now() == ("Straw", "wrapped in foam", "3", "typed"), "what never stood there is typed"
    (told,) = write(charted, 0, "Remark", "Foam", back=True, seen="Reed")
    assert told.theirs == "Straw", "what a colleague wrote meanwhile is not taken back"


def test_a_logarithm_and_its_standard_error_are_worked_out_from_what_reports_print(charted: Room) -> None:
    numbers = [ItemWording(None, name, "number") for name in ("Log ratio", "Its SE", "SE of the difference")]
    codebook.set_codebook(charted.review, charted.lead, Book([*numbers, ItemWording(None, "Remark", "text")]))
    ratio = {"ratio": 0.61, "ci_low": 0.45, "ci_high": 0.83}
    assert work_out(charted, "Log ratio", "", "log_ratio", **ratio) == []
    assert work_out(charted, "Its SE", "", "log_se", **ratio) == []
    assert work_out(charted, "SE of the difference", "", "difference_se", difference=2.5, p=0.03, n1=20, n2=22) == []
    said = {name: float(text) for name, text in next(iter(cells(charted).values())).items()}
    assert said["Log ratio"] == pytest.approx(math.log(0.61), rel=1e-5)
    assert said["Its SE"] == pytest.approx((math.log(0.83) - math.log(0.45)) / (2 * 1.959964), rel=1e-5)
    assert said["SE of the difference"] == pytest.approx(2.5 / 2.249, rel=1e-3)  # t at p 0.03 on 40 degrees, as tables have it
    (told, *_) = chart.value_history(charted.review, *at(charted, 0, "Its SE"))
    assert told["derived"]["by"] == "SE of the logarithm, (ln high − ln low) / 2z at 95 %"
    for way, givens, why in (("log_se", {**ratio, "ratio": 0.9}, "lies outside its interval"), ("log_ratio", {"ratio": 0.6}, "ci low is missing"), ("difference_se", {"difference": 0, "p": 0.2, "n1": 9, "n2": 9}, "says nothing about its error")):  # fmt: skip
        with pytest.raises(Invalid, match=f"(?i){why}"):
            work_out(charted, "Log ratio", "", way, **givens)
    with pytest.raises(Invalid, match="Only a number"):
        work_out(charted, "Remark", "", "log_ratio", **ratio)


def test_arms_that_are_joined_follow_their_arms(charted: Room) -> None:
    codebook.set_codebook(charted.review, charted.lead, WEIGHT)
    arms = [at(charted, 0, "Lost", name)[2][0] or 0 for name in ("Wrapped", "Plain")]
    write(charted, 0, "Lost", "3 / 20", "Wrapped")
    with pytest.raises(Invalid, match="One of the arms has no value"):
        work_out(charted, "Lost", "Both", "arms", arms)
    write(charted, 0, "Lost", "5 / 30", "Plain")
    work_out(charted, "Lost", "Both", "arms", arms)
    assert next(iter(cells(charted).values()))["Lost · Both"] == "8 / 50"
    write(charted, 0, "Lost", "6 / 30", "Plain")
    assert next(iter(cells(charted).values()))["Lost · Both"] == "9 / 50"
    write(charted, 0, "Lost", "", "Plain")
    assert [v.unfit for v in chart.evidence_table(charted.review).values if v.text == "9 / 50"] == [
        "one of the arms has no value to be joined"
    ]
    write(charted, 0, "Lost", "6 / 31", "Plain")
    assert next(iter(cells(charted).values()))["Lost · Both"] == "9 / 51"
    write(charted, 0, "Lost", "1 / 2", "Both")
    write(charted, 0, "Lost", "7 / 31", "Plain")
    assert next(iter(cells(charted).values()))["Lost · Both"] == "1 / 2", "what a person writes over it stays"
    with pytest.raises(Invalid, match="joined from itself"):
        work_out(charted, "Lost", "Plain", "arms", arms)
    for name, text in (("Wrapped", "10 ± 2 (n 20)"), ("Plain", "12 ± 3")):
        write(charted, 0, "Weight", text, name)
    with pytest.raises(Invalid, match="has no n"):
        work_out(charted, "Weight", "Both", "arms", arms)


def test_the_workbook_has_a_sheet_for_each_shape_with_types_and_quotes_as_comments(charted: Room) -> None:
    now = book(charted)
    items = [
        *now.items,
        ItemWording(None, "Weight", "mean_sd", per=["arm"]),
        ItemWording(None, "Dose", "quantity", "mg"),
        ItemWording(None, "Day", "date"),
    ]
    codebook.set_codebook(charted.review, charted.lead, Book(items, [], ARMS))
    write(charted, 0, "Weight", "12.5 ± 3", "Plain", quote="12.5 kg (SD 3)", page="4")
    write(charted, 0, "Dose", "0.5 g")
    write(charted, 0, "Day", "2024-05-01")
    write(charted, 0, "Remark", "=1+1")
    write(charted, 0, "Lost", "NR")
    out = io.BytesIO()
    evidence_out.write_workbook(charted.review, out)
    made = openpyxl.load_workbook(out)
    assert made.sheetnames == ["Studies", "Arms", "All values"]
    head, first = (list(row) for row in list(made["Studies"].iter_rows())[:2])
    at_ = {cell.value: first[k] for k, cell in enumerate(head)}
    assert (at_["Dose (mg)"].value, at_["Dose (mg)"].comment.text) == (500, "typed as 0.5 g")
    assert at_["Day"].value == datetime(2024, 5, 1)
    assert (at_["Remark"].value, at_["Remark"].data_type) == ("=1+1", "s")
    assert (at_["Lost: events"].value, at_["Lost: total"].value) == ("not reported", None)
    arms = [[cell.value for cell in row] for row in made["Arms"].iter_rows()]
    assert arms[0] == ["Study", "Arm", "Weight: mean", "Weight: sd", "Weight: n"]
    assert [row[1:] for row in arms[1:3]] == [["Wrapped", None, None, None], ["Plain", 12.5, 3, None]]
    assert made["Arms"]["C3"].comment.text == "“12.5 kg (SD 3)”\npage 4"


def test_what_was_written_since_is_told_and_what_was_cleared(charted: Room) -> None:
    write(charted, 0, "Remark", "one")
    write(charted, 0, "Lost", "1/2")
    upto = chart.evidence_table(charted.review).upto
    assert chart.evidence_table(charted.review, since=upto).values == []
    write(charted, 0, "Remark", "")
    write(charted, 1, "Design", "cohort")
    assert sorted(v.text for v in chart.evidence_table(charted.review, since=upto).values) == ["", "Cohort"]


def test_a_study_that_is_excluded_after_all_keeps_its_values_for_its_return(charted: Room) -> None:
    write(charted, 0, "Remark", "kept")
    record = chart.evidence_table(charted.review).studies[0].reports[0]["record_id"]
    charted.decide(record, "exclude", 2)
    assert len(cells(charted)) == 1
    charted.decide(record, "include", 2)
    assert {"Remark": "kept"} in cells(charted).values()
