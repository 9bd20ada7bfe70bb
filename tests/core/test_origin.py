"""Where a file comes from, by its records and its name."""

from __future__ import annotations

import pytest

from kettlesort.core.formats.origin import Origin, origin_of
from kettlesort.core.record import Record


@pytest.mark.parametrize(
    ("filename", "origin"),
    [
        ("agrarica-2026-02-04-part-1.ris", Origin("Agrarica", "database", "2026-02-04", "agrarica", 1)),
        ("C:\\downloads\\Agrarica_2.ris", Origin("Agrarica", "database", "", "agrarica", 2)),
        ("vitalis index (3 of 4).nbib", Origin("Vitalis Index", "database", "", "vitalis index", 3)),
        ("citation-chasing.ris", Origin("Citation Chasing", "citation", "", "citation chasing", 0)),
        ("export.ris", Origin("", "database", "", "export", 0)),
        ("export (2).txt", Origin("", "database", "", "export", 2)),
        ("20260204 Northern Theses.bib", Origin("Northern Theses", "database", "2026-02-04", "northern theses", 0)),
        ("…", Origin("", "database", "", "…", 0)),
    ],
)
def test_a_name_says_source_date_and_part(filename: str, origin: Origin) -> None:
    assert origin_of(filename, []) == origin


def test_records_know_better_than_the_name_of_their_file() -> None:
    of = [Record(title=f"Lids {k}", extra=(("DB", "Agrarica"), ("M9", "x"))) for k in range(9)]
    assert origin_of("export(1).ris", of).source == "Agrarica"
    assert origin_of("export.ris", [*of[:4], *[Record(title="Lids")] * 6]).source == ""
    assert origin_of("list.xlsx", [Record(kind="registration")] * 3).kind == "register"


def test_a_source_that_the_review_has_is_meant() -> None:
    assert origin_of("agrarica-part-1.ris", [], ["AGRARICA"]).source == "AGRARICA"
    assert origin_of("vitalis-index-winter.nbib", [], ["Vitalis Index"]).source == "Vitalis Index"
