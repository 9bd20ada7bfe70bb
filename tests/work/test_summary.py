"""The summary table: what an effect means for a thousand, certainty with its reasons, nobody's word overwritten, out as text."""

from __future__ import annotations

import io
import math

import docx
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.documents import docx_file
from kettlesort.core.pooling.models import interval
from kettlesort.core.pooling.summary import absolute
from kettlesort.store.base import session
from kettlesort.store.sql import scalar
from kettlesort.work import pooling, summary
from kettlesort.work.errors import Conflict, Invalid
from kettlesort.work.summary import WORDS, Doubt, RowWording, SummaryWording
from tests.conftest import Room
from tests.work.test_pooling import Pool


@pytest.fixture
def pool(room: Room) -> Pool:
    return Pool(room)


def test_a_row_tells_what_its_analysis_comes_to_now(pool: Pool) -> None:
    number = pooling.keep(pool.review, pool.lead, pool.said())
    said = SummaryWording(
        WORDS, ("Exactness",), (RowWording(number, 200.0, (Doubt("Exactness", "some", "Few took part."),), "unsure", "<b>"),)
    )
    version = summary.keep(pool.review, pool.lead, said, 0)
    (row,) = summary.summary(pool.review).rows
    result = pooling.opened(pool.review, number).result
    assert result.pooled
    assert (row.k, row.people, row.led_to) == (3, 40 + 41 + 30 + 28 + 50 + 52, "rather sure")
    assert row.absolute
    ratio = math.exp(result.pooled.pooled.estimate)
    assert (row.absolute.risk, row.absolute.more) == pytest.approx((200 * ratio, 200 * ratio - 200))
    assert row.usual == pytest.approx(1000 * sorted((20 / 41, 9 / 28, 18 / 52))[1])
    assert summary.keep(pool.review, pool.lead, said, version) == version
    pool.write(pool.studies[0], "Survived", "30 / 41", "Plain")
    again = summary.summary(pool.review).rows[0]
    assert again.absolute
    assert again.absolute.risk < row.absolute.risk
    text = summary.table_rows(pool.review)[1]
    assert text[0] == "Survival"
    assert text[-2:] == ["unsure", "Exactness: some doubt, Few took part.; <b>"]
    assert text[6].startswith("−")
    document = docx.Document(io.BytesIO(docx_file(summary.blocks(pool.review))))
    assert [cell.text for cell in document.tables[0].rows[1].cells] == text[:-1]
    assert any("Few took part." in paragraph.text for paragraph in document.paragraphs)


def test_what_cannot_be_is_refused_and_what_is_gone_is_said(pool: Pool) -> None:
    number = pooling.keep(pool.review, pool.lead, pool.said())
    row = RowWording(number)
    for rows, words, why in (
        ((row._replace(analysis=10**9),), WORDS, "no such analysis"), ((row, row), WORDS, "in one row"), ((row._replace(baseline=1000.0),), WORDS, "above 0 and below"),
        ((row._replace(certainty="sure"),), ("yes", "no"), "none of the words"), ((row,), ("alone",), "At least two words"),
        ((row._replace(doubts=(Doubt("Exactness", "some"),)),), WORDS, "Say why Exactness"),
    ):  # fmt: skip
        with pytest.raises(Invalid, match=why):
            summary.keep(pool.review, pool.lead, SummaryWording(words, ("Exactness",), rows), 0)
    version = summary.keep(pool.review, pool.lead, SummaryWording(WORDS, (), (row,)), 0)
    with pytest.raises(Conflict, match="changed the summary table meanwhile"):
        summary.keep(pool.review, pool.reviewer, SummaryWording(WORDS, ("Mine",), ()), 0)
    pooling.remove(pool.review, pool.lead, number)
    gone = summary.summary(pool.review)
    assert gone.rows[0].problem == "This analysis was removed."
    summary.keep(pool.review, pool.lead, gone.said._replace(domains=("Exactness",)), version)  # its row stays until somebody takes it out
    assert summary.table_rows(pool.review)[1][0] == "An analysis that is gone"
    with session() as db:
        assert scalar(db, "SELECT count(*) FROM event WHERE review_id = :r AND kind = 'pool.summed_up'", r=pool.review) == 2


def test_an_analysis_that_became_a_network_is_told_in_no_row(pool: Pool) -> None:
    used = pool.said("MD", item=pool.items["Used"], outcome=pool.levels["Honey"])
    pool.write(pool.studies[0], "Used", "12.1 ± 2.5 (n 20)", "Foam wrap", "Honey")
    number = pooling.keep(pool.review, pool.lead, used)
    summary.keep(pool.review, pool.lead, SummaryWording(rows=(RowWording(number),)), 0)
    both = used._replace(kind="network", arms=(*used.against, *used.arms), against=())
    pooling.keep(pool.review, pool.lead, both, number, pooling.analyses(pool.review)[0].kept.version)
    (row,) = summary.summary(pool.review).rows
    assert row.problem == "This analysis compares several treatments; a row tells of two sides."
    assert summary.table_rows(pool.review)[1][3] == row.problem


@given(st.sampled_from(["OR", "RR", "RD"]), st.floats(-3, 3), st.floats(0.01, 1), st.floats(1, 999))
def test_risks_of_a_thousand_lie_between_none_and_all_and_keep_their_order(
    measure: str, estimate: float, se: float, baseline: float
) -> None:
    found = absolute(measure, interval(estimate / 4 if measure == "RD" else estimate, se, 0.95), baseline)
    assert found
    assert 0 <= found.risk <= 1000
    assert found.low <= found.more <= found.high
    assert absolute(measure, interval(0.0, se, 0.95), baseline)[2] == pytest.approx(0, abs=1e-6)  # type: ignore[index]


def test_an_odds_ratio_of_two_at_half_is_two_thirds() -> None:
    found = absolute("OR", interval(math.log(2), 0.1, 0.95), 500)
    assert found
    assert found.risk == pytest.approx(2000 / 3)
    assert absolute("MD", interval(1.0, 0.1, 0.95), 500) is None
