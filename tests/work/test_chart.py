"""The codebook and the evidence table: values that fit, nothing overwritten, out as a table that no spreadsheet runs."""

from __future__ import annotations

import pytest

from kettlesort.work import chart, fulltexts, report
from kettlesort.work.chart import ItemWording, Typed
from kettlesort.work.errors import Invalid, NotFound
from tests.conftest import Room, ris

ITEMS = [
    ItemWording(None, "Colonies", "number", "colonies", [], "Those at the start"),
    ItemWording(None, "Design", "choice", "", ["Trial", "Cohort", ""], ""),
    ItemWording(None, "Lost", "events", "", [], ""),
    ItemWording(None, "Remark", "text", "", [], ""),
]


@pytest.fixture
def charted(room: Room) -> Room:
    """A review with two included studies and a codebook."""
    room.gather(ris("Wraps in winter", "Lids in winter", "Honey in summer"))
    for record in room.records()[:2]:
        room.decide(record, "include")
        fulltexts.set_full_text(room.review, room.reviewer, record, "obtained", "")
        room.decide(record, "include", 2)
    chart.set_codebook(room.review, room.lead, ITEMS)
    return room


def cells(room: Room) -> dict[str, dict[str, str]]:
    items, studies = chart.evidence_table(room.review)
    names = {item.id: item.name for item in items}
    return {study.label: {names[item]: value["text"] for item, value in study.values.items()} for study in studies}


def write(room: Room, row: int, item: str, text: str, **more: str) -> list[chart.NotTaken]:
    items, studies = chart.evidence_table(room.review)
    which = next(it.id for it in items if it.name == item)
    return chart.set_values(room.review, room.reviewer, [Typed(studies[row].id, which or 0, text, **more)])


def test_values_take_the_form_of_their_item_and_keep_who_and_when(charted: Room) -> None:
    assert write(charted, 0, "Colonies", " 1 250 ", quote="We began with 1250 colonies.", page="4") == []
    assert write(charted, 0, "Lost", "12 of 40") == []
    assert write(charted, 1, "Design", "trial") == []
    first, second = cells(charted).values()
    assert (first, second) == ({"Colonies": "1250", "Lost": "12 / 40"}, {"Design": "Trial"})
    items, studies = chart.evidence_table(charted.review)
    write(charted, 0, "Colonies", "1300")
    history = chart.value_history(charted.review, studies[0].id, items[0].id or 0)
    assert [(it["text"], it["quote"], it["page"]) for it in history] == [
        ("1300", "We began with 1250 colonies.", "4"),
        ("1250", "We began with 1250 colonies.", "4"),
    ]
    assert report.history(charted.review, None, 1)[1][0]["before"] == "1250"


def test_what_does_not_fit_is_told_and_the_rest_of_the_block_is_taken(charted: Room) -> None:
    items, studies = chart.evidence_table(charted.review)
    by_name = {it.name: it.id or 0 for it in items}
    refused = chart.set_values(
        charted.review, charted.reviewer,
        [Typed(studies[0].id, by_name["Colonies"], "many"), Typed(studies[0].id, by_name["Remark"], "fine"), Typed(studies[1].id, by_name["Lost"], "50/40")],
    )  # fmt: skip
    assert [(it.study, it.item) for it in refused] == [(studies[0].id, by_name["Colonies"]), (studies[1].id, by_name["Lost"])]
    assert all(it.message for it in refused)
    assert list(cells(charted).values()) == [{"Remark": "fine"}, {}]
    with pytest.raises(NotFound, match="table has changed"):
        chart.set_values(charted.review, charted.reviewer, [Typed(studies[0].id, 10**9, "x")])


def test_writing_the_same_again_leaves_no_trace(charted: Room) -> None:
    write(charted, 0, "Remark", "seen")
    told = report.history(charted.review, None, 1)[0]
    write(charted, 0, "Remark", "seen")
    assert report.history(charted.review, None, 1)[0] == told


def test_charted_counts_studies_with_a_value_for_every_item(charted: Room) -> None:
    for item, text in (("Colonies", "5"), ("Design", "Trial"), ("Lost", "1/5")):
        write(charted, 0, item, text)
    assert report.standing(charted.review).charted == 0
    write(charted, 0, "Remark", "whole")
    assert report.standing(charted.review).charted == 1
    write(charted, 0, "Remark", "")
    assert report.standing(charted.review).charted == 0


@pytest.mark.parametrize(
    ("items", "said"),
    [
        ([ItemWording(None, " ", "text", "", [], "")], "needs a name"),
        ([ItemWording(None, "A", "guess", "", [], "")], "A data item is one of"),
        ([ItemWording(None, "A", "choice", "", ["one", " "], "")], "at least two choices"),
        ([ItemWording(None, "A", "text", "", [], ""), ItemWording(None, " a ", "date", "", [], "")], "same name"),
    ],
)
def test_a_codebook_that_makes_no_sense_is_refused_whole(charted: Room, items: list[ItemWording], said: str) -> None:
    with pytest.raises(Invalid, match=said):
        chart.set_codebook(charted.review, charted.lead, items)
    assert [it.name for it in chart.codebook(charted.review)] == ["Colonies", "Design", "Lost", "Remark"]


def test_an_item_with_values_keeps_its_kind_and_its_values_when_it_moves(charted: Room) -> None:
    write(charted, 0, "Colonies", "5")
    said = [ItemWording(it.id, it.name, it.kind, it.unit, it.choices, it.instructions) for it in chart.codebook(charted.review)]
    with pytest.raises(Invalid, match="has values, so it stays number"):
        chart.set_codebook(charted.review, charted.lead, [said[0]._replace(kind="text"), *said[1:]])
    chart.set_codebook(charted.review, charted.lead, [*said[1:], said[0]._replace(name="Hives")])
    assert [it.name for it in chart.codebook(charted.review)] == ["Design", "Lost", "Remark", "Hives"]
    assert next(iter(cells(charted).values())) == {"Hives": "5"}
    with pytest.raises(NotFound, match="removed meanwhile"):
        chart.set_codebook(charted.review, charted.lead, [said[0]._replace(id=10**9)])


def test_reports_of_one_study_share_its_row(charted: Room) -> None:
    one, two = chart.evidence_table(charted.review)[1]
    chart.link_report(charted.review, charted.lead, two.reports[0]["record_id"], one.id)
    table = chart.evidence_table(charted.review)[1]
    assert [len(it.reports) for it in table] == [2]
    figures = report.standing(charted.review).figures
    assert (figures.studies, figures.total.included) == (1, 2)
    chart.link_report(charted.review, charted.lead, two.reports[0]["record_id"], None)
    assert report.standing(charted.review).figures.studies == 2
    with pytest.raises(NotFound, match="not among the included"):
        chart.link_report(charted.review, charted.lead, charted.records("open")[0], one.id)


def test_the_table_goes_out_with_units_quotes_and_the_teams_own_names(charted: Room) -> None:
    study = chart.evidence_table(charted.review)[1][0]
    chart.rename_study(charted.review, charted.lead, study.id, "  Apiary   North ")
    write(charted, 0, "Colonies", "5", quote="five hives", page="2")
    table = chart.export_rows(charted.review)
    assert table[0] == [
        "Study",
        "Reports",
        "Colonies (colonies)",
        "Colonies: quote",
        "Colonies: page",
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
    chart.rename_study(charted.review, charted.lead, study.id, "")
    assert "Apiary North" not in [it[0] for it in chart.export_rows(charted.review)]
    with pytest.raises(NotFound):
        chart.rename_study(charted.review, charted.lead, 10**9, "x")


def test_a_study_that_is_excluded_after_all_keeps_its_values_for_its_return(charted: Room) -> None:
    write(charted, 0, "Remark", "kept")
    record = chart.evidence_table(charted.review)[1][0].reports[0]["record_id"]
    charted.decide(record, "exclude", 2)
    assert len(cells(charted)) == 1
    charted.decide(record, "include", 2)
    assert {"Remark": "kept"} in cells(charted).values()
