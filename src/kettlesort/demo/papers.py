"""Invented full texts as PDF, in four manners: one column or two, results in words, in a table of arms, or in a table of outcomes."""

from __future__ import annotations

import random
import re
from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from typing import NamedTuple

from fpdf import FPDF

from kettlesort.demo.document import Document

DESIGNS = ("Randomised", "Cohort", "Quasi-random")
MATERIALS = ("Foam", "Straw", "Tar paper", "Wood fibre")
_MADE = datetime(2026, 2, 4, tzinfo=UTC)
ALLOCATED = {
    "Randomised": "Within each apiary colonies were randomised to a wrap or none by drawing lots.",
    "Cohort": "Each beekeeper chose which colonies to wrap, and we followed this cohort until spring.",
    "Quasi-random": "Every second colony along the row was wrapped, a quasi-random allocation.",
}
_WRAPS = {
    "Foam": "a sleeve of foam, {mm} mm thick",
    "Straw": "a jacket of pressed straw, {mm} mm thick",
    "Tar paper": "tar paper over boards of {mm} mm",
    "Wood fibre": "panels of wood fibre with a thickness of {mm} mm",
}


class Arm(NamedTuple):
    """What a paper reports of an arm: colonies alive in spring of those in autumn, and the food that they used, in kilograms."""

    alive: int
    total: int
    used: float
    sd: float

    @property
    def share(self) -> float:
        """Alive, per cent."""
        return 100 * self.alive / self.total


class Facts(NamedTuple):
    """What the full text of a document states. ``indoors``: a third arm, that spent the winter in a cellar, where there was one."""

    wrapped: Arm
    plain: Arm
    design: str
    material: str
    thickness: int
    winter: int
    weighed: bool
    indoors: Arm | None = None

    @property
    def arms(self) -> list[tuple[str, Arm]]:
        """The arms by name."""
        return [("Wrapped", self.wrapped), ("Plain", self.plain), *([("Indoors", self.indoors)] if self.indoors else [])]


_APART = 7
"""The number of a document whose plain hives fared worse than any others: in a picture it lies apart."""


def _seen(document: Document) -> tuple[Arm, Arm]:
    """Who was alive: in small studies plain hives fare worse than in large ones, as where small studies without a difference stay unpublished."""
    alive1, total1, alive2, total2 = document.arms
    if document.number == _APART:
        alive1, alive2 = round(0.94 * total1), round(0.27 * total2)
    elif total1 + total2 < 90:
        alive2 = round(max(0.3 * total2, alive2 - 0.14 * total2))
    return Arm(alive1, total1, 0.0, 0.0), Arm(alive2, total2, 0.0, 0.0)


def facts(document: Document) -> Facts:
    """What the full text of a document states. The same every time."""
    rng = random.Random(900 + document.number)
    wrapped, plain = _seen(document)
    used = round(rng.uniform(8, 13), 1)
    more = round(used + rng.uniform(0.4, 3.2), 1)
    ratio = wrapped.share / plain.share
    design = (
        "Randomised" if ratio < 1.1 else "Quasi-random" if ratio < 1.28 else "Cohort"
    )  # where beekeepers chose, wraps seem to help more
    rng.choice(DESIGNS)
    material = rng.choice(MATERIALS)
    material = next((name for name in MATERIALS if name.lower() in document.title.lower()), material)
    period = re.search(r"\b((?:19|20)\d\d) to", document.title)
    sds = round(rng.uniform(1.2, 3.1), 1), round(rng.uniform(1.4, 3.6), 1)
    thickness, weighed = rng.choice((20, 30, 40, 50)), rng.random() < 0.7
    indoors = None
    if document.number % 3 == 1:
        total = rng.randint(24, 80)
        indoors = Arm(
            round(total * rng.uniform(0.78, 0.94)), total, round(used - rng.uniform(0.2, 1.6), 1), round(rng.uniform(1.0, 2.6), 1)
        )
    return Facts(
        wrapped._replace(used=used, sd=sds[0]),
        plain._replace(used=more, sd=sds[1]),
        design,
        material,
        thickness,
        int(period[1]) if period else document.year - 3,
        weighed,
        indoors,
    )


def paper(document: Document) -> bytes:
    """The full text of a document. The same every time."""
    said = facts(document)
    pdf = FPDF(format="A4")
    pdf.set_creation_date(_MADE)
    pdf.set_title(document.full_title)
    pdf.add_page()
    _front(pdf, document)
    (_in_words, _by_arm, _by_outcome, _in_columns)[document.number % 4](pdf, document, said)
    return bytes(pdf.output())


def _front(pdf: FPDF, document: Document) -> None:
    pdf.set_font("Times", "B", 16)
    _line(pdf, document.full_title, 8)
    pdf.set_font("Times", "", 11)
    _line(pdf, "; ".join(document.authors))
    _line(
        pdf,
        f"{document.venue.name} {document.year};{document.volume}({document.issue}):{document.page}-{document.page + document.length}. doi:{document.doi}",
    )
    pdf.ln(4)
    _line(pdf, "Abstract. " + document.abstract)
    pdf.ln(4)


def _line(pdf: FPDF, text: str, height: float = 6) -> None:
    pdf.multi_cell(0, height, _latin(text), new_x="LMARGIN", new_y="NEXT")


def _latin(text: str) -> str:
    return text.encode("latin-1", "replace").decode("latin-1")


def _background(document: Document) -> str:
    return (
        "Many beekeepers wrap their hives in autumn, and few count what it does. Earlier reports from other regions speak of losses between 5 and 30 %; "
        f"none of them compared wrapped with plain hives in a {document.place.lower()} landscape. We asked whether a wrap helps colonies through the winter."
    )


def _methods(document: Document, said: Facts) -> str:
    food = (
        "Hives were weighed in October and in March to learn how much stored food was used."
        if said.weighed
        else "Stored food was not weighed; its use was judged by the number of full combs and is given in kilograms as beekeepers estimated it."
    )
    cellar = " A third arm was wintered indoors, in a dark cellar." if said.indoors else ""
    return (
        f"The {document.place.lower()} apiaries took part, with {sum(arm.total for _, arm in said.arms)} colonies in all, from October {said.winter} on. {ALLOCATED[said.design]} "
        f"Wrapped hives had {_WRAPS[said.material].format(mm=said.thickness)}; the others were left plain.{cellar} Colonies were counted as alive if a laying queen and "
        f"brood were seen at the first spring inspection. {food}"
    )


def _survival(said: Facts) -> str:
    one, two, cellar = said.wrapped, said.plain, said.indoors
    third = f" Of the {cellar.total} colonies indoors {cellar.alive} were alive." if cellar else ""
    return f"At the first spring inspection {one.alive} of the {one.total} wrapped colonies were alive, against {two.alive} of the {two.total} left plain.{third}"


def _food(said: Facts) -> str:
    one, two, cellar = said.wrapped, said.plain, said.indoors
    third = f", those indoors {cellar.used} ± {cellar.sd} kg" if cellar else ""
    return f"Wrapped colonies used {one.used} ± {one.sd} kg of stored food (mean ± SD), plain ones {two.used} ± {two.sd} kg{third}."


def _end() -> str:
    return "What a winter costs a colony depends on more than its wrap. Mites were not counted, and one region is not all regions; others should count as well."


def _sections(pdf: FPDF, parts: Sequence[tuple[str, str]]) -> None:
    for heading, text in parts:
        pdf.set_font("Times", "B", 12)
        _line(pdf, heading, 7)
        pdf.set_font("Times", "", 11)
        _line(pdf, text)
        pdf.ln(2)


def _table(pdf: FPDF, caption: str, rows: Sequence[Sequence[str]], widths: Sequence[int]) -> None:
    pdf.ln(3)
    pdf.set_font("Times", "I", 10)
    _line(pdf, caption, 5)
    pdf.set_font("Times", "", 10)
    pdf.ln(1)
    with pdf.table(borders_layout="SINGLE_TOP_LINE", col_widths=tuple(widths), width=sum(widths), align="LEFT", line_height=6) as made:
        for row in rows:
            made.row([_latin(cell) for cell in row])
    pdf.set_font("Times", "", 11)
    pdf.ln(2)


def _in_words(pdf: FPDF, document: Document, said: Facts) -> None:
    _sections(pdf, [("Background", _background(document)), ("Methods", _methods(document, said))])
    pdf.add_page()
    _sections(pdf, [("Results", f"{_survival(said)} {_food(said)}"), ("Discussion", _end())])


def _by_arm(pdf: FPDF, document: Document, said: Facts) -> None:
    _sections(pdf, [("Introduction", _background(document)), ("Methods", _methods(document, said))])
    pdf.add_page()
    _sections(pdf, [("Results", "Table 1 gives the colonies that were seen alive in spring and the food that they had used, by arm.")])
    rows = [("Arm", "Colonies", "Alive in spring", "Food used, kg (mean ± SD)")]
    for name, arm in said.arms:
        rows.append((name, str(arm.total), str(arm.alive), f"{arm.used} ± {arm.sd}"))
    _table(pdf, "Table 1. Survival and food used, by arm.", rows, (38, 30, 40, 55))
    _sections(pdf, [("Discussion", _end())])


def _by_outcome(pdf: FPDF, document: Document, said: Facts) -> None:
    arms = said.arms
    _sections(pdf, [("Background", _background(document)), ("Material and methods", _methods(document, said))])
    rows = [
        ("Outcome", *(f"{name} (n = {arm.total})" for name, arm in arms)),
        ("Survived until spring, n (%)", *(f"{arm.alive} ({arm.share:.1f})" for _, arm in arms)),
        ("Stored food used, kg, mean (SD)", *(f"{arm.used} ({arm.sd})" for _, arm in arms)),
    ]
    pdf.add_page()
    _sections(pdf, [("Results", "Both outcomes are shown in Table 2.")])
    _table(pdf, "Table 2. Outcomes at the first spring inspection.", rows, (62, *[40] * len(arms)))
    _sections(pdf, [("Discussion", _end())])


def _in_columns(pdf: FPDF, document: Document, said: Facts) -> None:
    pdf.set_font("Times", "", 10)
    parts: list[tuple[str, Callable[[], str]]] = [
        ("Introduction", lambda: _background(document)), ("Methods", lambda: _methods(document, said)), ("Results", lambda: f"{_survival(said)} {_food(said)}"),
        ("Discussion", _end),
    ]  # fmt: skip
    with pdf.text_columns(ncols=2, gutter=8, text_align="L", line_height=1.25) as columns:
        for heading, text in parts:
            with columns.paragraph(top_margin=2, bottom_margin=1) as made:
                made.write(f"**{heading}**".replace("**", ""))
            with columns.paragraph(bottom_margin=2) as made:
                made.write(_latin(text()))


def correction(document: Document) -> bytes:
    """A notice that corrects a report: its title holds the report's, it is not the report."""
    return _page(
        f"Correction to: {document.full_title}",
        [
            f"{document.venue.name} {document.year + 1}. doi:{document.doi}.corrected",
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
    pdf.set_creation_date(_MADE)
    pdf.add_page()
    pdf.set_font("Times", "B", 16)
    _line(pdf, title, 8)
    pdf.set_font("Times", "", 11)
    for line in lines:
        _line(pdf, line)
    return bytes(pdf.output())
