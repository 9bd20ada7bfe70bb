"""Pace: pauses are no work, and a day is foretold only when there is something to foretell it from."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta

import pytest

from kettlesort.core.screening.pace import pace, until_done

NINE = datetime(2026, 3, 2, 9, tzinfo=UTC)


def sitting(begin: datetime, records: int, seconds: float) -> list[datetime]:
    return [begin + timedelta(seconds=seconds * k) for k in range(1, records + 1)]


def test_a_pause_is_no_work_but_the_record_before_it_is() -> None:
    it = pace([*sitting(NINE, 60, 30), *sitting(NINE + timedelta(hours=5), 60, 30)])
    assert (it.records, it.hours) == (120, pytest.approx(1.0))
    assert it.an_hour == pytest.approx(120)


@pytest.mark.parametrize("times", [[], [NINE], sitting(NINE, 20, 10)])
def test_too_little_time_tells_nothing(times: list[datetime]) -> None:
    assert pace(times).an_hour is None


def test_what_is_left_is_done_on_a_day_with_its_band() -> None:
    times = [at for day in range(10) for at in sitting(NINE + timedelta(days=day), 40 + 10 * (day % 3), 60)]
    it = until_done(500, times, date(2026, 3, 11))
    assert it is not None
    assert it.a_day == pytest.approx(49)
    assert it.early <= it.day == date(2026, 3, 22)
    assert it.late is not None
    assert it.day <= it.late <= date(2026, 3, 24)


def test_days_off_count_and_make_the_band_wide() -> None:
    busy = [at for day in (0, 1, 9) for at in sitting(NINE + timedelta(days=day), 90, 60)]
    it = until_done(270, busy, date(2026, 3, 11))
    assert it is not None
    assert it.a_day == pytest.approx(27)
    assert it.late is None, "as good as nothing a day cannot be ruled out"


def test_two_days_are_not_enough() -> None:
    assert until_done(100, [*sitting(NINE, 9, 60), *sitting(NINE + timedelta(days=1), 9, 60)], date(2026, 3, 3)) is None
