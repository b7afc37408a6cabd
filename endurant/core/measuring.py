"""Sizes as they are read off a specimen: spread, an odd reading, a slip of the unit."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import isfinite, pi
from statistics import fmean, median
from typing import Literal

import numpy as np

from endurant.core.messages import worded
from endurant.core.methods.guide import Blank, Measure
from endurant.core.quantities import above
from endurant.core.refusals import Invalid
from endurant.core.rounding import in_numbers

ODD_PERCENT = 5.0
LARGEST_MM = 10_000.0
MAX_READINGS = 50
SLIP_WITHIN = 0.15
SLIPS = (
    (1 / 25.4, "inches"),
    (1 / 10, "centimetres"),
    (1 / 1000, "metres"),
    (1000.0, "micrometres"),
    (25.4, worded("measured.millimetres-multiplied-by-25-4")),
    (10.0, worded("measured.tenths-of-a-millimetre")),
)
NAMES = {
    "width_mm": "width",
    "thickness_mm": "thickness",
    "diameter_mm": "diameter",
    "length_mm": "length",
    "remaining_width_mm": worded("measured.remaining-width"),
}
GAUGES: dict[str, Literal["caliper", "thickness-gauge"]] = {"thickness_mm": "thickness-gauge"}
"""The gauge that a size is read with; a caliper for all others."""


@dataclass(frozen=True)
class Remark:
    """Something to look at: which reading (from 0; None for all), what kind, and in words."""

    place: int | None
    kind: Literal["odd", "unit-slip"]
    text: str


@dataclass(frozen=True)
class Looked:
    """Readings of one size, in mm: their mean, the least, the spread in %, and remarks."""

    mean_mm: float
    min_mm: float
    spread_percent: float
    remarks: tuple[Remark, ...]


@dataclass(frozen=True)
class Section:
    """The section of a specimen by both schools, in mm²."""

    mean_mm2: float
    min_mm2: float


def check_readings(readings: Sequence[float], label: str, field: str) -> None:
    """Raises Invalid for a reading that no gauge gives."""
    if len(readings) > MAX_READINGS:
        raise Invalid(
            "measuring.too-many-readings",
            label=label,
            dimension=NAMES[field],
            count=len(readings),
            max=MAX_READINGS,
            field=field,
            specimen=label,
        )
    for place, reading in enumerate(readings, start=1):
        if not isfinite(reading) or not 0 < reading <= LARGEST_MM:
            raise Invalid(
                "measuring.reading-out-of-range",
                label=label,
                dimension=NAMES[field],
                place=place,
                reading=reading,
                max=LARGEST_MM,
                field=field,
                specimen=label,
            )


def look_at(readings: Sequence[float], usual_mm: float | None = None) -> Looked:
    """Return mean, minimum and spread of readings in mm, and what is odd about them.

    `usual_mm` is the size of the other specimens or of the die; it reveals a slip of the unit
    that the readings alone cannot. The spread is the largest less the smallest, in % of the mean.
    """
    mean = fmean(readings)
    remarks = _slips(readings, usual_mm)
    slipped = {remark.place for remark in remarks}
    rest = {place: reading for place, reading in enumerate(readings) if place not in slipped}
    if len(rest) == 2 and len(readings) == 2:
        away = 100 * (max(readings) - min(readings)) / mean
        if above(away, ODD_PERCENT):
            text = worded(
                "measured.the-two-differ-by-repeat-the-reading", away=in_numbers(round(away, 1))
            )
            remarks.append(Remark(None, "odd", text))
        rest = {}
    # The farthest first, and the others without it: one slip does not make all of them odd.
    while len(rest) > 2:
        place, away = max(
            ((at, _away_percent(rest, at)) for at in rest), key=lambda remark: remark[1]
        )
        if not above(away, ODD_PERCENT):
            break
        reading = rest.pop(place)
        remarks.append(Remark(place, "odd", _odd(reading, list(rest.values()), away)))
    return Looked(
        mean_mm=mean,
        min_mm=min(readings),
        spread_percent=100 * (max(readings) - min(readings)) / mean,
        remarks=tuple(
            sorted(remarks, key=lambda remark: -1 if remark.place is None else remark.place)
        ),
    )


def _slips(readings: Sequence[float], usual_mm: float | None) -> list[Remark]:
    """Readings that are off by a unit, held against the others, or against the usual of a few."""
    slips = []
    for place, reading in enumerate(readings):
        others = [reading for at, reading in enumerate(readings) if at != place]
        usual = median(others) if len(others) > 1 else usual_mm
        slip = None if usual is None else _slip(reading, usual)
        if slip is not None:
            slips.append(Remark(place, "unit-slip", slip))
    return slips


def _away_percent(readings: Mapping[int, float], place: int) -> float:
    """How far one reading lies from the mean of the others, in % of that."""
    others = fmean(reading for at, reading in readings.items() if at != place)
    return 100 * abs(readings[place] - others) / others


def _odd(reading: float, others: Sequence[float], away: float) -> str:
    mean = fmean(others)
    shown = in_numbers(round(mean, 4))
    return worded(
        "measured.mm-is-from-the-mean-of-the-others-mm-a",
        reading=in_numbers(reading),
        away=in_numbers(round(away, 1)),
        shown=shown,
    )


def _slip(reading: float, usual_mm: float) -> str | None:
    """The slip of the unit that explains how far a reading lies from the usual; None for none."""
    for factor, unit in SLIPS:
        if abs(reading / usual_mm / factor - 1) <= SLIP_WITHIN:
            return worded(
                "measured.looks-like-where-the-others-say-mm",
                reading=in_numbers(reading),
                unit=unit,
                usual_mm=in_numbers(round(usual_mm, 3)),
            )
    return None


def places_mm(measure: Measure) -> list[float]:
    """Return where along the long side each reading is taken, in mm from the middle."""
    if measure.count == 1:
        return [0.0]
    step = measure.span_mm / (measure.count - 1)
    return [measure.span_mm / 2 - place * step for place in range(measure.count)]


def section_of(
    widths: Sequence[float], thicknesses: Sequence[float], diameters: Sequence[float]
) -> Section | None:
    """Return the cross-section in mm² from readings in mm; None where one size is missing.

    Widths and thicknesses of equal number are sections in pairs; otherwise the means are
    multiplied.
    """
    if diameters:
        areas = pi * np.asarray(diameters, dtype=np.float64) ** 2 / 4
        return Section(float(areas.mean()), float(areas.min()))
    if not widths or not thicknesses:
        return None
    wide, thick = np.asarray(widths, dtype=np.float64), np.asarray(thicknesses, dtype=np.float64)
    if wide.size == thick.size:
        areas = wide * thick
        return Section(float(areas.mean()), float(areas.min()))
    return Section(float(wide.mean() * thick.mean()), float(wide.min() * thick.min()))


def grammage_g_m2(masses_g: Sequence[float], blank: Blank) -> float:
    """Return the mass per area in g/m² of pieces of one blank, from masses in g (ISO 536).

    Raises Invalid for a mass of 0.
    """
    for mass in masses_g:
        if not isfinite(mass) or not 0 < mass < 1e6:
            raise Invalid("measuring.mass-not-positive", mass=mass, field="masses_g")
    return fmean(masses_g) / blank_area_mm2(blank) * 1e6


def blank_area_mm2(blank: Blank) -> float:
    """Return the area of a blank in mm²: a disc, or the rectangle of its long and short side."""
    if blank.outline == "disc":
        return pi * blank.long_mm**2 / 4
    return blank.long_mm * blank.short_mm
