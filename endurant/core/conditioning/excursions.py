"""Excursions: how long a room was out of tolerance, and how far."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from endurant.core.conditioning.atmospheres import Atmosphere
from endurant.core.conditioning.periods import PeriodStretch


@dataclass(frozen=True)
class Excursion:
    """A run of stretches outside; `end` is None while it goes on.

    The worst readings are those that were out, in °C and %RH; None where that one was in.
    """

    start: datetime
    end: datetime | None
    minutes: float
    worst_temperature_c: float | None
    worst_humidity_percent: float | None


def excursions(stretches: Sequence[PeriodStretch], atmosphere: Atmosphere) -> list[Excursion]:
    """Return each run of stretches outside tolerance, in min, with its worst readings."""
    runs: list[Excursion] = []
    members: list[PeriodStretch] = []
    for place, stretch in enumerate(stretches):
        if stretch.state != "outside":
            continue
        members.append(stretch)
        is_last = place + 1 == len(stretches)
        if not is_last and stretches[place + 1].state == "outside":
            continue
        runs.append(_excursion(members, atmosphere, goes_on=is_last))
        members = []
    return runs


def _excursion(
    members: Sequence[PeriodStretch], atmosphere: Atmosphere, *, goes_on: bool
) -> Excursion:
    readings = [stretch.reading for stretch in members if stretch.reading is not None]
    temperatures = [celsius for celsius, _ in readings if atmosphere.is_off_temperature(celsius)]
    humidities = [
        percent
        for _, percent in readings
        if percent is not None and atmosphere.is_off_humidity(percent)
    ]
    return Excursion(
        start=members[0].start,
        end=None if goes_on else members[-1].end,
        minutes=sum(stretch.minutes for stretch in members),
        worst_temperature_c=_worst(temperatures, atmosphere.temperature_c),
        worst_humidity_percent=_worst(humidities, atmosphere.humidity_percent),
    )


def _worst(readings: Sequence[float], set_point: float | None) -> float | None:
    if set_point is None:
        return None
    return max(readings, key=lambda reading: abs(reading - set_point), default=None)
