"""What all bursting has in common: the peak pressure and the diaphragm's own."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import Annotated, ClassVar, Self

import numpy as np
from pydantic import Field, model_validator

from endurant.core.columns import Column
from endurant.core.complaints import complaint
from endurant.core.fields import NotNegative, Number, Positive
from endurant.core.methods.guide import Observation
from endurant.core.methods.parameters import Parameters
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import Mark, SpecimenResult
from endurant.core.quantities import above
from endurant.core.recordings import TraceColumns
from endurant.core.rounding import in_numbers

OBSERVATIONS = (
    Observation("jaw-burst", "Burst at the ring", "void", "it burst within 2 mm of the ring"),
    Observation("jaw-slip", "Slipped under the ring", "void", "it slipped under the ring"),
)

Row = Annotated[list[Number], Field(min_length=2, max_length=2)]


class PressureTrace(TraceColumns):
    """Pressure behind the diaphragm."""

    pressure_kpa: Column


class BurstParameters(Parameters):
    """The diaphragm's own pressure, as a table or as one number."""

    set_up: ClassVar[tuple[str, ...]] = (
        "diaphragm",
        "diaphragm_pressure_kpa",
    )

    diaphragm: Annotated[list[Row], Field(min_length=1, max_length=1000)] | None = Field(
        None, description="Rows of height in mm and the bare diaphragm's pressure in kPa."
    )
    diaphragm_pressure_kpa: NotNegative | None = Field(
        None, description="Pressure of the bare diaphragm; the table goes before it."
    )

    @model_validator(mode="after")
    def _heights_rise(self) -> Self:
        heights = [row[0] for row in self.diaphragm or []]
        if any(after <= before for before, after in pairwise(heights)):
            raise complaint("burst.heights-not-rising", field="diaphragm")
        return self

    def corrects(self) -> bool:
        """The diaphragm's pressure is taken off."""
        return self.diaphragm is not None or self.diaphragm_pressure_kpa is not None


class BurstReadings(Readings):
    """One burst: its trace, or what the instrument showed."""

    peak_pressure_kpa: Positive | None = Field(None, description="Pressure at burst.")
    height_at_burst_mm: Number | None = Field(None, description="Height of the bulge at burst.")


@dataclass(frozen=True)
class Burst:
    """Peak pressure in kPa, with height in mm and time in s where they are known."""

    peak_kpa: float
    height_mm: float | None
    time_s: float | None


def burst_of(trace: TraceColumns) -> Burst:
    """Return the burst on a trace: its first sample of the highest pressure in kPa."""
    pressure_kpa, time_s = np.asarray(trace.pressure_kpa), trace.time_s
    top = int(np.argmax(pressure_kpa))
    return Burst(
        float(pressure_kpa[top]),
        None if trace.height_mm is None else float(trace.height_mm[top]),
        None if time_s is None else float(time_s[top] - time_s[0]),
    )


def burst_mark(trace: TraceColumns) -> Mark:
    """The burst on its trace with its height, over time where that is known, else over samples."""
    pressure_kpa = np.asarray(trace.pressure_kpa)
    top = int(np.argmax(pressure_kpa))
    x = float(top) if trace.time_s is None else float(trace.time_s[top])
    height_mm = burst_of(trace).height_mm
    names = () if height_mm is None else (f"{in_numbers(round(height_mm, 1))} mm high",)
    return Mark("points", "burst", ((x, float(pressure_kpa[top])),), names)


def give_strength(
    result: SpecimenResult, readings: Readings, parameters: BurstParameters, burst: Burst
) -> float:
    """Give the bursting strength in kPa: the highest pressure less that of the diaphragm.

    Raises Invalid when a correction table is given and the height is not known.
    """
    own_kpa = 0.0
    if parameters.diaphragm is not None:
        if burst.height_mm is None:
            raise readings.refuse("height_at_burst_mm", "reading.burst-height-missing")
        heights, pressures = np.array(parameters.diaphragm).T
        own_kpa = float(np.interp(burst.height_mm, heights, pressures))
        if above(float(heights[0]), burst.height_mm) or above(burst.height_mm, float(heights[-1])):
            result.flag(
                "diaphragm-out-of-range",
                "warn",
                min=heights[0],
                max=heights[-1],
                height_mm=burst.height_mm,
            )
    elif parameters.diaphragm_pressure_kpa is not None:
        own_kpa = parameters.diaphragm_pressure_kpa
    strength_kpa = burst.peak_kpa - own_kpa
    result.give(
        "bursting_strength",
        strength_kpa,
        "kPa",
        "peak pressure minus the pressure of the bare diaphragm",
        "p_peak - p_diaphragm",
        f"{in_numbers(burst.peak_kpa)} - {in_numbers(own_kpa)}",
    )
    return strength_kpa
