"""Atmospheres, and whether a specimen has served its time in one."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from endurant.core.refusals import Invalid


@dataclass(frozen=True)
class Atmosphere:
    """Set point with tolerances in °C and %RH (none for an oven), and the least stay in minutes."""

    id: str
    title: str
    temperature_c: float
    temperature_tolerance_c: float
    humidity_percent: float | None
    humidity_tolerance_percent: float | None
    least_minutes: int

    def in_words(self) -> str:
        """Set point and tolerances as a person writes them: 20 ± 2 °C, 65 ± 4 %RH."""
        words = f"{self.temperature_c:g}\u00a0±\u00a0{self.temperature_tolerance_c:g}\u00a0°C"
        if self.humidity_percent is None:
            return words
        return (
            f"{words}, {self.humidity_percent:g}\u00a0±\u00a0"
            f"{self.humidity_tolerance_percent:g}\u00a0%RH"
        )


ATMOSPHERES = {
    atmosphere.id: atmosphere
    for atmosphere in (
        Atmosphere("textile-20-65", "Textile room", 20, 2, 65, 4, 24 * 60),
        Atmosphere("geo-21-65", "Geotextile room", 21, 2, 65, 5, 2 * 60),
        Atmosphere("plastics-23-50", "Plastics room", 23, 2, 50, 10, 40 * 60),
        Atmosphere("film-23-50", "Film room", 23, 2, 50, 5, 40 * 60),
        Atmosphere("paper-23-50", "Paper room", 23, 1, 50, 2, 24 * 60),
        Atmosphere("rubber-23-50", "Rubber room", 23, 2, 50, 10, 16 * 60),
        Atmosphere("oven-105", "Drying oven", 105, 3, None, None, 30),
    )
}


def atmosphere_in_words(atmosphere_id: str | None) -> str:
    """The atmosphere as a report names it; raises Invalid."""
    if atmosphere_id is None:
        return "none asked for: tested as received"
    atmosphere = find_atmosphere(atmosphere_id)
    hours = atmosphere.least_minutes / 60
    return f"{atmosphere.title}, {atmosphere.in_words()}, {hours:g} h at least"


def find_atmosphere(atmosphere_id: str) -> Atmosphere:
    """The atmosphere with this id; raises Invalid that names the known ones."""
    if atmosphere_id not in ATMOSPHERES:
        raise Invalid(
            f"atmosphere “{atmosphere_id}” is not known; expected one of {', '.join(ATMOSPHERES)}",
            field="atmosphere",
        )
    return ATMOSPHERES[atmosphere_id]


@dataclass(frozen=True)
class Served:
    """How far a specimen's stay has come at one moment."""

    minutes: float
    least_minutes: int
    ready_at: datetime
    ready: bool


def served(hung_at: datetime, now: datetime, least_minutes: int) -> Served:
    """The stay from `hung_at` to `now`; both carry a time zone.

    Counted by the clock alone: every minute since hanging counts.
    """
    ready_at = hung_at + timedelta(minutes=least_minutes)
    minutes = max((now - hung_at) / timedelta(minutes=1), 0.0)
    return Served(minutes, least_minutes, ready_at, now >= ready_at)
