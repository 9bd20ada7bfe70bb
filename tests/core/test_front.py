"""Which record a PDF belongs to: sure where DOI and title agree, asked where they do not."""

from __future__ import annotations

import io

import pytest
from fpdf import FPDF

from kettlesort.core.fulltext.front import Found, Front, Sought, front_of, match

FOAM = Sought(1, "Foam wraps for overwintering honey bee colonies", ("Orsel, Ada", "Brask, Tom"), 2014, "10.5555/foam.2014.7", "MB0012345")
FOAM_AGAIN = Sought(2, "Foam wraps for overwintering honey bee colonies: two years later", ("Orsel, Ada",), 2016, "10.5555/foam.2016.9")
SUGAR = Sought(3, "Sugar feeding in autumn", ("Ames, Rudd",), 2014, "10.5555/sugar")
ALL = [
    FOAM,
    FOAM_AGAIN,
    SUGAR,
    *(Sought(k, f"Colony number {k} of a long list of colonies", ("Marsh, Odile",), 1990 + k) for k in range(10, 40)),
]


def pdf(*lines: str, title: str = "") -> io.BytesIO:
    made = FPDF(format="A4")
    made.add_page()
    if title:
        made.set_font("Helvetica", "B", 18)
        made.multi_cell(0, 9, title, new_x="LMARGIN", new_y="NEXT")
    made.set_font("Helvetica", "", 10)
    for line in lines:
        made.multi_cell(0, 6, line, new_x="LMARGIN", new_y="NEXT")
    return io.BytesIO(bytes(made.output()))


def found(file: io.BytesIO, name: str = "scan.pdf") -> list[Found]:
    return match(front_of(file, name), ALL)


def test_its_doi_and_its_title_are_sure() -> None:
    first = found(pdf("Ada Orsel, Tom Brask", "J Made Up 2014. doi:10.5555/foam.2014.7", title=FOAM.title))[0]
    assert (first.id, first.sure, first.why[:2]) == (1, True, ("its DOI", "its title"))


def test_a_title_broken_over_lines_with_an_author_is_sure() -> None:
    first = found(pdf("Rudd Ames", "Autumn 2014", title="Sugar feeding\nin autumn"))[0]
    assert (first.id, first.sure) == (3, True)


@pytest.mark.parametrize(
    ("lines", "title"),
    [
        (["Ada Orsel", "doi:10.5555/corrected.1"], f"Correction to: {FOAM.title}"),
        (["Rudd Ames", "We answer Orsel (doi:10.5555/foam.2014.7)."], "A letter on the warmth of hives"),
        (["Ada Orsel"], "Foam wraps for overwintering colonies of the honey bee"),
    ],
)
def test_what_may_be_something_else_is_asked(lines: list[str], title: str) -> None:
    assert not any(it.sure for it in found(pdf(*lines, title=title)))


def test_of_two_reports_the_one_with_the_longer_title_is_taken() -> None:
    first = found(pdf("Ada Orsel", "2016", "doi:10.5555/foam.2016.9", title=FOAM_AGAIN.title))[0]
    assert (first.id, first.sure) == (2, True)


def test_a_title_in_other_words_is_offered_with_its_author_and_never_taken() -> None:
    first, *_ = found(pdf("A. Orsel, T. Brask", "Received in 2014", title="Wraps of foam in honey bee colonies"))
    assert (first.id, first.sure) == (1, False)
    assert first.why == ("a title of the same words", "its first author", "its year")
    assert found(pdf("T. Ulverley", "Received in 2014", title="Wraps of foam in honey bee colonies")) == []


def test_a_name_alone_is_asked_and_nothing_is_nothing() -> None:
    (first,) = found(pdf("Scanned by hand"), "Orsel 2014 MB0012345.pdf") or [None]
    assert first is None or not first.sure
    assert found(pdf("A menu of the week", title="Soup, bread and cheese for all")) == []


def test_two_thousand_records_are_no_obstacle() -> None:
    many = [Sought(k, f"Trial {k} of foam wraps and sugar for colonies in region {k % 7}", ("Marsh, O",), 2000) for k in range(2000)]
    front = Front("x.pdf", (), f"{many[1234].title} Marsh 2000", many[1234].title, 3)
    assert match(front, many)[0].id == 1234
