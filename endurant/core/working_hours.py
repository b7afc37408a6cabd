"""Who is in when: the working hours of a person or a lab, its holidays, and what lies in them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import date, datetime, time, timedelta
from typing import Annotated, Self

from pydantic import Field, model_validator

from endurant.core.complaints import complaint
from endurant.core.fields import Name, Strict

Stretch = tuple[datetime, datetime]
ClockTime = Annotated[str, Field(strict=True, pattern=r"^([01]\d|2[0-3]):[0-5]\d$")]
"""Hours and minutes by the clock of the laboratory: 08:00."""
Weekday = Annotated[int, Field(strict=True, ge=0, le=6)]


class WorkingHours(Strict):
    """The days of a week, Monday being 0, and from when until when."""

    days: Annotated[list[Weekday], Field(max_length=7)] = [0, 1, 2, 3, 4]
    start: ClockTime = "08:00"
    end: ClockTime = "16:30"

    @model_validator(mode="after")
    def _forwards(self) -> Self:
        if self.end <= self.start:
            raise complaint("hours.backwards", end=self.end)
        return self


class AwayRow(Strict):
    """Days on which somebody is away, or the laboratory is shut, the last one included."""

    since: date
    until: date
    why: Name = "away"

    @model_validator(mode="after")
    def _forwards(self) -> Self:
        if self.until < self.since:
            raise complaint("hours.absence-backwards", reason=self.why, until=self.until)
        return self

    def holds(self, day: date) -> bool:
        """One of them is this day."""
        return self.since <= day <= self.until


def stretches(
    hours: WorkingHours, away: Iterable[AwayRow], first: date, days: int
) -> list[Stretch]:
    """When somebody is in over so many days from the first, by the clock of this laboratory."""
    gone = list(away)
    worked = []
    for number in range(days):
        day = first + timedelta(days=number)
        if day.weekday() not in hours.days or any(row.holds(day) for row in gone):
            continue
        start, end = time.fromisoformat(hours.start), time.fromisoformat(hours.end)
        worked.append(
            (datetime.combine(day, start).astimezone(), datetime.combine(day, end).astimezone())
        )
    return worked


def worked_on(within: Sequence[Stretch], since: datetime, minutes: int) -> datetime | None:
    """When so many minutes of work that begin then are done; None beyond the last stretch."""
    left = timedelta(minutes=minutes)
    for start, end in sorted(within):
        begins = max(start, since)
        if begins >= end:
            continue
        if end - begins >= left:
            return begins + left
        left -= end - begins
    return None
