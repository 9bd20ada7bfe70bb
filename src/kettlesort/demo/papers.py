"""Invented full texts as PDF, with a table of survivors."""

from __future__ import annotations

from datetime import UTC, datetime

from fpdf import FPDF

from kettlesort.demo.document import Document


def _latin(text: str) -> str:
    return text.encode("latin-1", "replace").decode("latin-1")


def paper(it: Document) -> bytes:
    """The full text of a document, two pages. The same every time."""
    alive1, total1, alive2, total2 = it.arms
    pdf = FPDF(format="A4")
    pdf.set_creation_date(datetime(2026, 2, 4, tzinfo=UTC))
    pdf.set_title(it.full_title)
    pdf.add_page()
    pdf.set_font("Times", "B", 16)
    pdf.multi_cell(0, 8, _latin(it.full_title), new_x="LMARGIN", new_y="NEXT")
    pdf.set_font("Times", "", 11)
    pdf.multi_cell(0, 6, _latin("; ".join(it.authors)), new_x="LMARGIN", new_y="NEXT")
    pdf.multi_cell(
        0,
        6,
        _latin(f"{it.venue.name} {it.year};{it.volume}({it.issue}):{it.page}-{it.page + it.length}. doi:{it.doi}"),
        new_x="LMARGIN",
        new_y="NEXT",
    )
    pdf.ln(4)
    pdf.multi_cell(0, 6, _latin("Abstract. " + it.abstract), new_x="LMARGIN", new_y="NEXT")
    pdf.ln(4)
    pdf.multi_cell(
        0,
        6,
        _latin(f"Methods. The {it.place.lower()} apiaries took part. Wrapped hives had a cover of foam; the others were left plain."),
        new_x="LMARGIN",
        new_y="NEXT",
    )
    pdf.add_page()
    said = f"Results. At the first spring inspection {alive1} of the {total1} wrapped colonies were alive, against {alive2} of the {total2} left plain."
    pdf.multi_cell(0, 6, said, new_x="LMARGIN", new_y="NEXT")
    pdf.ln(4)
    for cells in (("Arm", "Alive in spring", "Colonies"), ("Wrapped", str(alive1), str(total1)), ("Plain", str(alive2), str(total2))):
        for cell in cells:
            pdf.cell(50, 8, cell, border=1)
        pdf.ln(8)
    return bytes(pdf.output())


def correction(it: Document) -> bytes:
    """A notice that corrects a report: its title holds the report's, it is not the report."""
    return _page(
        f"Correction to: {it.full_title}",
        [
            f"{it.venue.name} {it.year + 1}. doi:{it.doi}.corrected",
            "In Table 2 the headings of the second and third column had been exchanged. The conclusions stand.",
        ],
    )


def leaflet() -> bytes:
    """A page that belongs to no record."""
    return _page(
        "Wintering hives: ten hints for beginners",
        ["Keep the entrance free of snow.", "Do not open hives in frost.", "Weigh them in October and in March."],
    )


def _page(title: str, lines: list[str]) -> bytes:
    pdf = FPDF(format="A4")
    pdf.set_creation_date(datetime(2026, 2, 4, tzinfo=UTC))
    pdf.add_page()
    pdf.set_font("Times", "B", 16)
    pdf.multi_cell(0, 8, _latin(title), new_x="LMARGIN", new_y="NEXT")
    pdf.set_font("Times", "", 11)
    for line in lines:
        pdf.multi_cell(0, 6, _latin(line), new_x="LMARGIN", new_y="NEXT")
    return bytes(pdf.output())
