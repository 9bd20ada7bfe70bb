"""Lines that name studies, in any mixture."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.identifiers import named


@pytest.mark.parametrize(
    ("text", "meant"),
    [
        ("10.5555/A.1", [("doi", "10.5555/a.1")]),
        (
            "https://doi.org/10.5555/A.1, doi:10.5555/b.2;10.5555/c.3",
            [("doi", "10.5555/a.1"), ("doi", "10.5555/b.2"), ("doi", "10.5555/c.3")],
        ),
        ("PMID: 7300001\n7300001 HU0000007", [("accession", "7300001"), ("accession", "hu0000007")]),
        ("1. Wraps in winter.\n- Wraps in Winter\n(3) Lids of 2 kinds", [("title", "Wraps in winter"), ("title", "Lids of 2 kinds")]),
        ("Orsel T. Wraps in winter. J Bees 2001;3:4. doi: 10.5555/a.1.", [("doi", "10.5555/a.1")]),
        ("Orsel T. Wraps in winter. J Bees 2001;3:4-9.", [("title", "Orsel T. Wraps in winter. J Bees 2001;3:4-9")]),
        ("\n  \n---\n;;", []),
    ],
)
def test_each_line_says_what_it_names(text: str, meant: list[tuple[str, str]]) -> None:
    assert [(it.kind, it.key) for it in named(text)] == meant


@given(st.text("10.5/aDOI:; \n-", max_size=80))
def test_whatever_is_pasted_names_each_study_once(text: str) -> None:
    keys = [(it.kind, it.key.casefold()) for it in named(text)]
    assert len(keys) == len(set(keys))
