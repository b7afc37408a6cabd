"""Working hours: the days they fall on, who is away, and when work is done."""

from __future__ import annotations

from datetime import date, datetime, timedelta

import pytest
from pydantic import ValidationError

from endurant.core.working_hours import AwayRow, WorkingHours, stretches, worked_on

MONDAY = date(2026, 11, 30)


def at(day: int, hour: int, minute: int = 0) -> datetime:
    return datetime(2026, 11, 30, hour, minute).astimezone() + timedelta(days=day)


def test_a_week_has_its_days_and_leaves_out_who_is_away() -> None:
    own = WorkingHours(days=[0, 2, 5], start="06:00", end="14:00")
    away = [AwayRow(since=MONDAY + timedelta(days=2), until=MONDAY + timedelta(days=4))]
    assert stretches(own, away, MONDAY, 7) == [(at(0, 6), at(0, 14)), (at(5, 6), at(5, 14))]
    assert len(stretches(WorkingHours(), [], MONDAY, 14)) == 10
    assert stretches(WorkingHours(days=[]), [], MONDAY, 14) == []


@pytest.mark.parametrize(
    ("since", "minutes", "done"),
    [
        (at(0, 15), 60, at(0, 16)),
        (at(0, 16), 60, at(1, 8, 30)),
        (at(0, 7), 0, at(0, 8)),
        (at(1, 16, 30), 30, None),
    ],
)
def test_work_goes_on_where_the_day_ended(
    since: datetime, minutes: int, done: datetime | None
) -> None:
    within = stretches(WorkingHours(), [], MONDAY, 2)
    assert worked_on(within, since, minutes) == done


def test_hours_that_end_before_they_begin_are_refused() -> None:
    with pytest.raises(ValidationError, match="before they start"):
        WorkingHours(start="16:00", end="08:00")
    with pytest.raises(ValidationError, match="before it starts"):
        AwayRow(since=MONDAY, until=MONDAY - timedelta(days=1))


@pytest.mark.parametrize("odd", ["24:00", "8:00", "08:60", "08:00:00", ""])
def test_a_time_of_day_is_hours_and_minutes(odd: str) -> None:
    with pytest.raises(ValidationError):
        WorkingHours(start=odd)
