"""Sums, drawings and verdicts."""

from __future__ import annotations

import re
from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core import picture
from kettlesort.core.flow import drawing
from kettlesort.core.flow.diagram import ours, standard
from kettlesort.core.flow.figures import Cell, Figures, Source, figures

CELLS = [
    Cell(True, "open", "sought", "open", "", 318), Cell(True, "exclude", "sought", "open", "", 500), Cell(False, "exclude", "sought", "open", "", 15),
    Cell(True, "include", "missing", "open", "", 3), Cell(True, "include", "obtained", "exclude", "No comparison group", 9), Cell(True, "include", "obtained", "include", "", 29),
]  # fmt: skip


def counted(cells: list[Cell] = CELLS, found: int = 1306) -> Figures:
    records = sum(cell.n for cell in cells)
    other = sum(cell.n for cell in cells if not cell.main)
    sources = [Source("Agrarica", "database", found - other), Source("Chasing <b>", "citation", other)]
    return figures(
        sources,
        cells,
        copies_main=found - records,
        copies_other=0,
        kept=records,
        studies=26,
        seeds=6,
        questions=3,
        criteria=["No comparison group"],
    )


def test_the_figures_add_up_and_a_lost_record_does_not_go_unseen() -> None:
    it = counted()
    assert it.adds_up
    assert (it.total.records, it.total.decided, it.total.sought, it.total.assessed, it.total.included) == (874, 556, 41, 38, 29)
    broken = figures(it.sources, CELLS[1:], copies_main=432, copies_other=0, kept=874, studies=26, seeds=6, questions=3)
    assert not broken.adds_up
    assert next(check.name for check in broken.checks if not check.holds) == "To screen"


CELL = st.builds(
    Cell, st.booleans(), st.sampled_from(["open", "unsure", "include", "exclude"]), st.sampled_from(["sought", "obtained", "missing"]),
    st.sampled_from(["open", "unsure", "include", "exclude"]), st.sampled_from(["a", "b"]), st.integers(1, 50),
)  # fmt: skip


@given(st.lists(CELL, max_size=30))
def test_whatever_stands_where_the_sums_hold(cells: list[Cell]) -> None:
    main = sum(cell.n for cell in cells if cell.main)
    other = sum(cell.n for cell in cells if not cell.main)
    sources = [Source("A", "database", main + 7), Source("C", "citation", other + 2)]
    it = figures(sources, cells, copies_main=7, copies_other=2, kept=main + other, studies=0, seeds=0, questions=0)
    assert it.adds_up


@pytest.mark.parametrize("draw", [ours, standard])
def test_drawings_show_every_figure_escape_names_and_leave_out_what_is_zero(draw) -> None:  # type: ignore[no-untyped-def]
    text = drawing.svg(draw(counted()), link=lambda key: f"/x?list={key}")
    ElementTree.fromstring(text)
    assert "Chasing &lt;b&gt;" in text
    for number in ("1,306" if draw is ours else "1,291", "318", "29", "26"):
        assert number in text
    nothing_missing = [cell for cell in CELLS if cell.fulltext != "missing"]
    words = "Not obtained" if draw is ours else "Reports not retrieved"
    assert words in text
    assert words not in drawing.svg(draw(counted(nothing_missing, 1303)))


def test_every_figure_of_a_diagram_opens_a_list_and_boxes_do_not_overlap() -> None:
    for diagram in (ours(counted()), standard(counted())):
        assert all(line.list for box in diagram.boxes for line in box.lines)
        text = drawing.svg(diagram)
        boxes = [
            tuple(map(int, found))
            for found in re.findall(r'<rect x="(\d+)" y="(\d+)" width="(\d+)" height="(\d+)" rx="3" fill="#FFF', text)
        ]
        for k, (x, y, w, h) in enumerate(boxes):
            for x2, y2, w2, h2 in boxes[k + 1 :]:
                assert x + w <= x2 or x2 + w2 <= x or y + h <= y2 or y2 + h2 <= y


def test_pictures_and_table_come_from_the_same_drawing() -> None:
    diagram = ours(counted())
    assert picture.png(drawing.svg(diagram)).startswith(b"\x89PNG")
    assert picture.pdf(drawing.svg(diagram)).startswith(b"%PDF")
    rows = drawing.rows(counted(), diagram)
    assert ("Records found", "Sum", 1306) in rows
