"""Progress of a conditioning period: by its log, under both rules, or by the clock.

A log is folded into a tally reading by reading, so that a period of months is never counted from
its beginning again.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from typing import Literal

from endurant.core.conditioning.atmospheres import Atmosphere
from endurant.core.quantities import above, at_least

Policy = Literal["restart", "subtract"]
CountedBy = Literal["log", "clock", "weighing"]
StretchState = Literal["inside", "outside", "unproven"]
Reading = tuple[datetime, float, float | None]
"""A moment with its zone, the temperature in °C, and the relative humidity in % or None."""

MAX_GAP_MINUTES = 15.0
MAX_OUTSIDE_PERCENT = 5.0
MINUTE = timedelta(minutes=1)


@dataclass(frozen=True)
class LogRules:
    """What a log is held against.

    No reading for longer than `max_gap_min` proves nothing; under `subtract`, time outside
    restarts the clock once it reaches `max_outside_percent` of the min time.
    """

    atmosphere: Atmosphere
    max_gap_min: float = MAX_GAP_MINUTES
    max_outside_percent: float = MAX_OUTSIDE_PERCENT

    @property
    def outside_limit_min(self) -> float:
        """Minutes outside that restart the clock under `subtract`."""
        return self.max_outside_percent / 100 * self.atmosphere.least_minutes


@dataclass(frozen=True)
class PeriodStretch:
    """A stretch of a period: in tolerance, outside, or unproven; with the reading that stands.

    `gap`: no reading came for longer than the log may be silent.
    """

    start: datetime
    end: datetime
    state: StretchState
    reading: tuple[float, float | None] | None
    gap: bool = False

    @property
    def minutes(self) -> float:
        """Its length."""
        return (self.end - self.start) / MINUTE


def stretch_before(placed_at: datetime, first: datetime, rules: LogRules) -> PeriodStretch:
    """Return the stretch before the first reading of a log, which proves nothing."""
    silent = above((first - placed_at) / MINUTE, rules.max_gap_min)
    return PeriodStretch(placed_at, first, "unproven", None, gap=silent)


def stretch_of(
    reading: Reading, until: datetime, period: tuple[datetime, datetime], rules: LogRules
) -> PeriodStretch:
    """Return the stretch of a reading, clipped to the period; `until` is the next reading."""
    at, temperature, humidity = reading
    start, end = max(at, period[0]), min(until, period[1])
    silent = above((until - at) / MINUTE, rules.max_gap_min) and end > start
    shown = (temperature, humidity)
    if not rules.atmosphere.holds(temperature, humidity):
        return PeriodStretch(start, end, "outside", shown, gap=silent)
    if above((until - at) / MINUTE, rules.max_gap_min):
        return PeriodStretch(start, end, "unproven", shown, gap=silent)
    return PeriodStretch(start, end, "inside", shown)


def stretches_of(
    log: Sequence[Reading], period: tuple[datetime, datetime], rules: LogRules
) -> list[PeriodStretch]:
    """Return the period up to now, parted at the readings; each reading stands until the next."""
    placed_at, now = period
    stretches: list[PeriodStretch] = []
    first = log[0][0] if log else now
    if first > placed_at:
        stretches.append(stretch_before(placed_at, min(first, now), rules))
    for place, reading in enumerate(log):
        is_last = place + 1 == len(log)
        until = max(now, reading[0]) if is_last else log[place + 1][0]
        if reading[0] > now or until < placed_at or (until == placed_at and not is_last):
            continue
        stretches.append(stretch_of(reading, until, period, rules))
    return stretches


@dataclass(frozen=True)
class SchoolCount:
    """What one school has counted so far, in minutes; `restarts` after time outside."""

    minutes: float = 0.0
    outside: float = 0.0
    restarts: bool = False
    ready_at: datetime | None = None

    def after(
        self, stretch: PeriodStretch, lower: float, outside_limit: float | None
    ) -> SchoolCount:
        """Return the count with one stretch more.

        Without a limit every excursion restarts the clock; with one only when the total
        outside since the last restart reaches it.
        """
        if stretch.state == "outside":
            outside = self.outside + stretch.minutes
            restarts = outside_limit is None or at_least(outside, outside_limit)
            if restarts:
                return SchoolCount(0.0, outside, restarts=True)
            return replace(self, outside=outside, restarts=False)
        outside = 0.0 if self.restarts else self.outside
        if stretch.state != "inside":
            return replace(self, outside=outside, restarts=False)
        missing = lower - self.minutes
        minutes = self.minutes + stretch.minutes
        ready_at = self.ready_at
        if ready_at is None and at_least(minutes, lower):
            ready_at = stretch.start + timedelta(minutes=max(missing, 0.0))
        return SchoolCount(minutes, outside, restarts=False, ready_at=ready_at)


@dataclass(frozen=True)
class Tally:
    """A period counted up to its newest reading `last`, whose own stretch is still open.

    Totals are in minutes; `excursions` counts runs of stretches outside.
    """

    placed_at: datetime
    restart: SchoolCount = field(default_factory=SchoolCount)
    subtract: SchoolCount = field(default_factory=SchoolCount)
    inside_minutes: float = 0.0
    outside_minutes: float = 0.0
    unproven_minutes: float = 0.0
    excursions: int = 0
    state: StretchState | None = None
    last: Reading | None = None

    def with_stretch(self, stretch: PeriodStretch, rules: LogRules) -> Tally:
        """Return the tally with one closed stretch more."""
        lower = rules.atmosphere.least_minutes
        begins = stretch.state == "outside" and self.state != "outside"
        return replace(
            self,
            restart=self.restart.after(stretch, lower, None),
            subtract=self.subtract.after(stretch, lower, rules.outside_limit_min),
            inside_minutes=self.inside_minutes + (stretch.state == "inside") * stretch.minutes,
            outside_minutes=self.outside_minutes + (stretch.state == "outside") * stretch.minutes,
            unproven_minutes=self.unproven_minutes
            + (stretch.state == "unproven") * stretch.minutes,
            excursions=self.excursions + begins,
            state=stretch.state,
        )

    def with_reading(self, reading: Reading, rules: LogRules) -> Tally:
        """Return the tally with one reading more, which is later than the last."""
        return replace(self._closed_at(reading[0], reading[0], rules), last=reading)

    def _closed_at(self, until: datetime, now: datetime, rules: LogRules) -> Tally:
        """The tally with the open stretch closed where the next reading stands."""
        if self.last is None:
            if until <= self.placed_at:
                return self
            return self.with_stretch(stretch_before(self.placed_at, min(until, now), rules), rules)
        if until <= self.placed_at:
            return self
        return self.with_stretch(stretch_of(self.last, until, (self.placed_at, now), rules), rules)

    def at(self, now: datetime, rules: LogRules, after: datetime | None = None) -> Counted:
        """Return what is counted at `now`, which is not before the last reading.

        `after` is the moment of the first reading later than `now`, where there is one.
        """
        until = now if after is None else after
        if self.last is None:
            whole = self if until <= self.placed_at else self._closed_at(until, now, rules)
        elif until == self.placed_at:
            period = (self.placed_at, now)
            whole = self.with_stretch(stretch_of(self.last, until, period, rules), rules)
        else:
            whole = self._closed_at(until, now, rules)
        return Counted(whole, now, rules.atmosphere.least_minutes)


@dataclass(frozen=True)
class Counted:
    """A tally closed at one moment."""

    tally: Tally
    now: datetime
    least_minutes: float

    def school(self, policy: Policy) -> SchoolCount:
        """Return what a school counts."""
        return self.tally.restart if policy == "restart" else self.tally.subtract

    def is_ready(self, policy: Policy) -> bool:
        """The min time is complete."""
        return at_least(self.school(policy).minutes, self.least_minutes)

    def ready_at(self, policy: Policy) -> datetime | None:
        """When it was served, to the second."""
        return to_second(self.school(policy).ready_at) if self.is_ready(policy) else None

    def due_at(self, policy: Policy) -> datetime | None:
        """When it will be served; None once it is, and while the log proves nothing."""
        if self.is_ready(policy) or self.tally.state != "inside":
            return None
        missing = self.least_minutes - self.school(policy).minutes
        return to_second(self.now + timedelta(minutes=missing))

    def elapsed(self, policy: Policy) -> Elapsed:
        """Return the same under the school of a laboratory."""
        tally = self.tally
        return Elapsed(
            minutes=self.school(policy).minutes,
            least_minutes=self.least_minutes,
            ready=self.is_ready(policy),
            ready_at=self.ready_at(policy),
            due_at=self.due_at(policy),
            counted_by="log",
            restart_minutes=tally.restart.minutes,
            subtract_minutes=tally.subtract.minutes,
            outside_minutes=tally.outside_minutes,
            unproven_minutes=tally.unproven_minutes,
            excursions=tally.excursions,
        )


@dataclass(frozen=True)
class Elapsed:
    """How far a conditioning period has come at one moment.

    `ready_at` is the moment its time was complete; before that `due_at` says when it will be, None
    while the log proves nothing or is out of tolerance. Both rules are given: `restart_minutes`
    after the last excursion, `subtract_minutes` without those outside.
    """

    minutes: float
    least_minutes: float
    ready: bool
    ready_at: datetime | None
    due_at: datetime | None
    counted_by: CountedBy
    restart_minutes: float
    subtract_minutes: float
    outside_minutes: float = 0
    unproven_minutes: float = 0
    excursions: int = 0

    @property
    def runs_out_at(self) -> datetime | None:
        """When the min time was or will be complete, as far as that is known."""
        return self.ready_at or self.due_at


def elapsed_by_clock(placed_at: datetime, now: datetime, least_minutes: float) -> Elapsed:
    """Return the conditioning from `placed_at` to `now` without a log: every minute counts.

    Both times carry a time zone; `least_minutes` is the required duration.
    """
    end = placed_at + timedelta(minutes=least_minutes)
    minutes = max((now - placed_at) / MINUTE, 0.0)
    ready = now >= end
    return Elapsed(
        minutes=minutes,
        least_minutes=least_minutes,
        ready=ready,
        ready_at=end if ready else None,
        due_at=None if ready else end,
        counted_by="clock",
        restart_minutes=minutes,
        subtract_minutes=minutes,
    )


def tally_of(tally: Tally, log: Iterable[Reading], rules: LogRules) -> Tally:
    """Return the tally with more readings, which rise in time."""
    for reading in log:
        tally = tally.with_reading(reading, rules)
    return tally


def elapsed_by_log(
    log: Sequence[Reading],
    period: tuple[datetime, datetime],
    rules: LogRules,
    policy: Policy,
) -> Elapsed:
    """Return what a log proves of a period, from placing to `now` or to removal.

    `log` rises in time, begins with the last reading before the period, and may go on after it.
    """
    placed_at, now = period
    tally = tally_of(Tally(placed_at), (specimen for specimen in log if specimen[0] <= now), rules)
    after = next((specimen[0] for specimen in log if specimen[0] > now), None)
    return tally.at(now, rules, after).elapsed(policy)


def to_second(moment: datetime | None) -> datetime | None:
    """Return the moment rounded to the second, as documents carry it."""
    if moment is None:
        return None
    return (moment + timedelta(microseconds=500_000)).replace(microsecond=0)
