"""Equilibrium by weighing: two masses far enough apart in time that agree."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from endurant.core.conditioning.periods import to_second
from endurant.core.quantities import at_least

MIN_HOURS = 2.0
MAX_PERCENT = 0.25


@dataclass(frozen=True)
class Equilibrium:
    """Whether two weighings agree, when, and against which; the change of mass in percent."""

    reached: bool
    at: datetime | None
    against: datetime | None
    change_percent: float | None


def equilibrium(
    weighings: Sequence[tuple[datetime, float]],
    min_hours: float = MIN_HOURS,
    max_percent: float = MAX_PERCENT,
) -> Equilibrium:
    """Return the first weighing that agrees with one at least `min_hours` before.

    Rows are (time, mass in g) and rise in time. Two masses agree when they differ by no more than
    `max_percent` (ISO 139).
    """
    apart = timedelta(hours=min_hours)
    against: datetime | None = None
    change: float | None = None
    earlier = -1
    for at, mass in weighings:
        while earlier + 1 < len(weighings) and weighings[earlier + 1][0] <= at - apart:
            earlier += 1
        if earlier < 0:
            continue
        against, before = weighings[earlier]
        change = 100 * abs(mass - before) / mass
        if at_least(max_percent, change):
            return Equilibrium(
                reached=True,
                at=to_second(at),
                against=to_second(against),
                change_percent=change,
            )
    return Equilibrium(reached=False, at=None, against=to_second(against), change_percent=change)
