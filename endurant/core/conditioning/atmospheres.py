"""Atmospheres, and whether a specimen has served its time in one."""

from __future__ import annotations

from dataclasses import dataclass

from endurant.core.messages import worded
from endurant.core.quantities import above
from endurant.core.refusals import Invalid


@dataclass(frozen=True)
class Atmosphere:
    """Set point with tolerances in °C and %RH (none for an oven), and the min time in minutes."""

    id: str
    title: str
    temperature_c: float
    temperature_tolerance_c: float
    humidity_percent: float | None
    humidity_tolerance_percent: float | None
    least_minutes: float

    def holds(self, temperature_c: float, humidity_percent: float | None) -> bool:
        """A reading is in tolerance; the ends are inside."""
        off_humidity = humidity_percent is not None and self.is_off_humidity(humidity_percent)
        return not (self.is_off_temperature(temperature_c) or off_humidity)

    def is_off_temperature(self, temperature_c: float) -> bool:
        """The temperature is out of tolerance."""
        return above(abs(temperature_c - self.temperature_c), self.temperature_tolerance_c)

    def is_off_humidity(self, humidity_percent: float) -> bool:
        """The humidity is out of tolerance, where the atmosphere has one."""
        if self.humidity_percent is None or self.humidity_tolerance_percent is None:
            return False
        off = abs(humidity_percent - self.humidity_percent)
        return above(off, self.humidity_tolerance_percent)

    def in_words(self) -> str:
        """Set point and tolerances as a person writes them: 20 ± 2 °C, 65 ± 4 %RH."""
        text = f"{self.temperature_c:g}\u00a0±\u00a0{self.temperature_tolerance_c:g}\u00a0°C"
        if self.humidity_percent is None:
            return text
        return (
            f"{text}, {self.humidity_percent:g}\u00a0±\u00a0"
            f"{self.humidity_tolerance_percent:g}\u00a0%RH"
        )


ATMOSPHERES = {
    atmosphere.id: atmosphere
    for atmosphere in (
        Atmosphere("textile-20-65", worded("atmosphere.textile-room"), 20, 2, 65, 4, 24 * 60),
        Atmosphere("geo-21-65", worded("atmosphere.geotextile-room"), 21, 2, 65, 5, 2 * 60),
        Atmosphere("plastics-23-50", worded("atmosphere.plastics-room"), 23, 2, 50, 10, 40 * 60),
        Atmosphere("film-23-50", worded("atmosphere.film-room"), 23, 2, 50, 5, 40 * 60),
        Atmosphere("paper-23-50", worded("atmosphere.paper-room"), 23, 1, 50, 2, 24 * 60),
        Atmosphere("rubber-23-50", worded("atmosphere.rubber-room"), 23, 2, 50, 10, 16 * 60),
        Atmosphere("oven-105", worded("atmosphere.drying-oven"), 105, 3, None, None, 30),
        Atmosphere("desiccator", "Desiccator", 23, 5, None, None, 15),
        Atmosphere(
            "pre-conditioning",
            worded("atmosphere.pre-conditioning-cabinet"),
            45,
            5,
            17.5,
            7.5,
            4 * 60,
        ),
        Atmosphere("chamber", worded("atmosphere.cold-or-hot-chamber"), 0, 2, None, None, 30),
        Atmosphere("water", worded("atmosphere.water-bath"), 20, 2, None, None, 60),
    )
}
PRE_CONDITIONING = "pre-conditioning"
WATER = "water"


def atmosphere_in_words(atmosphere: Atmosphere | None) -> str:
    """Return the atmosphere as a report names it, with its minimum in h (ISO 139, ISO 291)."""
    if atmosphere is None:
        return worded("atmosphere.none-required-tested-as-received")
    hours = atmosphere.least_minutes / 60
    return worded(
        "atmosphere.at-least-h", title=atmosphere.title, in_words=atmosphere.in_words(), hours=hours
    )


def find_atmosphere(atmosphere_id: str) -> Atmosphere:
    """Return the atmosphere with this id; raises Invalid that lists the known ones."""
    if atmosphere_id not in ATMOSPHERES:
        raise Invalid(
            "conditioning.atmosphere-unknown",
            atmosphere=atmosphere_id,
            known=list(ATMOSPHERES),
            field="atmosphere",
        )
    return ATMOSPHERES[atmosphere_id]


def serves_for(atmosphere_id: str, requested_id: str) -> bool:
    """Return True where a room is accepted for another atmosphere, being as tight or tighter."""
    if atmosphere_id == requested_id:
        return True
    specimen, other = find_atmosphere(atmosphere_id), find_atmosphere(requested_id)
    if specimen.humidity_percent is None or other.humidity_percent is None:
        return False
    off_c = abs(specimen.temperature_c - other.temperature_c)
    off_percent = abs(specimen.humidity_percent - other.humidity_percent)
    return not (
        above(off_c + specimen.temperature_tolerance_c, other.temperature_tolerance_c)
        or above(
            off_percent + (specimen.humidity_tolerance_percent or 0),
            other.humidity_tolerance_percent or 0,
        )
    )
