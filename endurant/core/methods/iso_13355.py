"""Vibration of packs: what the table does, and what the looks show."""

from __future__ import annotations

from math import pi
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from endurant.core.methods.checks import begin, too_few_valid
from endurant.core.methods.damaging import (
    DAMAGES,
    FAILED,
    DamageParameters,
    Look,
    give_damages,
    give_failed,
    summarise_failed,
)
from endurant.core.methods.method import (
    Flag,
    Guide,
    Method,
    Name,
    Positive,
    Property,
    Readings,
    ReadyCheck,
    Results,
    SpecimenResult,
)
from endurant.core.methods.safety import LOCAL, VIBRATION
from endurant.core.quantities import above, in_numbers

GRAVITY = 9.81


class TableParameters(DamageParameters):
    """What the table does."""

    motion: Literal["sinus-vertical", "sinus-rotary", "random"] = Field(
        "sinus-vertical", description="Motion of the table."
    )
    minutes: Positive = Field(description="Duration.")
    orientation: Name | None = Field(None, description="How the load stands.")
    frequency_hz: Positive | None = Field(None, description="Frequency of a sinus.")
    sweep_hz: Annotated[list[Positive], Field(min_length=2, max_length=2)] | None = Field(
        None, description="Low and high end of a sweep."
    )
    acceleration_g: Positive | None = Field(None, description="Acceleration, in g.")
    amplitude_mm: Positive | None = Field(None, description="Amplitude, zero to peak.")
    level_g_rms: Positive | None = Field(None, description="Level of a random motion.")

    @model_validator(mode="after")
    def _one_of_each_pair(self) -> Self:
        sinus = {
            "frequency_hz": self.frequency_hz,
            "sweep_hz": self.sweep_hz,
            "acceleration_g": self.acceleration_g,
            "amplitude_mm": self.amplitude_mm,
        }
        if self.motion == "random":
            given = [name for name, value in sinus.items() if value is not None]
            if given:
                raise ValueError(f"{given[0]} is given; a random motion has only level_g_rms")
            if self.level_g_rms is None:
                raise ValueError("level_g_rms is missing; a random motion needs it")
            return self
        if self.level_g_rms is not None:
            raise ValueError("level_g_rms is given; it belongs to a random motion")
        if (self.frequency_hz is None) == (self.sweep_hz is None):
            raise ValueError("frequency_hz or sweep_hz: expected one of the two")
        if (self.acceleration_g is None) == (self.amplitude_mm is None):
            raise ValueError("acceleration_g or amplitude_mm: expected one of the two")
        if self.sweep_hz is not None and self.sweep_hz[0] >= self.sweep_hz[1]:
            raise ValueError("sweep_hz must rise from its low to its high end")
        return self

    def acceleration_at(self, frequency_hz: float) -> float:
        """Acceleration in g at a frequency."""
        if self.amplitude_mm is None:
            return self.acceleration_g or 0.0
        return self.amplitude_mm * (2 * pi * frequency_hz) ** 2 / (1000 * GRAVITY)

    def amplitude_at(self, frequency_hz: float) -> float:
        """Amplitude in mm, zero to peak, at a frequency."""
        if self.acceleration_g is None:
            return self.amplitude_mm or 0.0
        return 1000 * GRAVITY * self.acceleration_g / (2 * pi * frequency_hz) ** 2


class Inspection(Look):
    """One look at a set time."""

    minutes: Positive


class TableReadings(Readings):
    """The looks at one pack."""

    inspections: Annotated[list[Inspection], Field(min_length=1, max_length=1000)] = Field(
        description="Looks, in order of time."
    )


GUIDE = Guide(
    purpose="Whether a pack and its contents stand the shaking of their journey.",
    specimen="Whole packs or a pallet layer, as they travel.",
    count_per_direction=2,
    cut=None,
    atmosphere="paper-23-50",
    bench="looks",
    ready_checks=(
        ReadyCheck(
            "fences", "Fences set, load free to move but not to fall", "a load that walks falls off"
        ),
        ReadyCheck("table", "Frequency and acceleration set", "both decide the amplitude"),
        ReadyCheck("clear", "Nobody at the table while it runs", "loads jump", hold=True),
    ),
    cautions=(VIBRATION, LOCAL),
    observations=(),
    steps=(
        "Set the load on the table as it travels, fences around it.",
        "Bring the table up to its motion, start the clock.",
        "Stop and look at the set times, outside and inside.",
    ),
    computes=(
        "Amplitude in mm, zero to peak = 1000 · 9.81 · g / (2π · f)².",
        "Cycles = f · 60 · minutes. Above 1 g vertical a load leaves the table.",
        "Failed: a leak, or damage inside above the limit agreed.",
    ),
    mistakes=(
        "Peak to peak taken for zero to peak.",
        "Stopped early without a failure: flagged.",
    ),
)


def analyse(readings: TableReadings, parameters: TableParameters) -> SpecimenResult:
    """What the table did and the looks show; raises Invalid for looks out of order."""
    result = begin(readings, GUIDE)
    before = 0.0
    for look in readings.inspections:
        if look.minutes <= before:
            raise readings.refuse(
                "inspections", f"{look.minutes:g} min follows {before:g}; looks rise in time"
            )
        before = look.minutes
    give_motion(result, parameters)
    failed = give_failed(result, readings.inspections, parameters.max_damage_inside)
    give_damages(result, readings.inspections)
    if above(parameters.minutes, before) and not failed:
        text = f"the last look was at {before:g} min of {parameters.minutes:g}"
        result.flag("ended-early", "warn", text)
    return result


def give_motion(result: SpecimenResult, parameters: TableParameters) -> None:
    """Amplitude, acceleration and cycles; a random motion has none of them."""
    frequency_hz = parameters.sweep_hz[0] if parameters.sweep_hz else parameters.frequency_hz
    if frequency_hz is None:
        for name, unit in (("amplitude", "mm"), ("acceleration", "m/s²"), ("cycles", "")):
            result.lacks(name, unit)
        return
    in_g = parameters.acceleration_at(frequency_hz)
    at = f"at {in_numbers(frequency_hz)} Hz"
    result.give(
        "amplitude",
        parameters.amplitude_at(frequency_hz),
        "mm",
        "zero to peak" + (", at the low end of the sweep" if parameters.sweep_hz else ""),
        "1000 · 9.81 · g / (2π · f)²",
        f"{in_numbers(in_g)} g {at}",
    )
    result.give(
        "acceleration", in_g * GRAVITY, "m/s²", "of the table", "g · 9.81", f"{in_numbers(in_g)} g"
    )
    if parameters.sweep_hz is not None:
        result.lacks("cycles", "")
        return
    result.give(
        "cycles",
        frequency_hz * 60 * parameters.minutes,
        "",
        "cycles of the whole run",
        "f · 60 · minutes",
        f"{in_numbers(frequency_hz)} · 60 · {in_numbers(parameters.minutes)}",
    )


def review(results: Results, parameters: TableParameters) -> list[Flag]:
    """Too few valid, and what the motion means."""
    flags = too_few_valid(results, parameters.specimens_wanted)
    if parameters.motion == "random":
        text = "a random motion has no one amplitude, acceleration or count of cycles"
        flags.append(Flag("random", "note", text))
        return flags
    if parameters.sweep_hz is not None:
        text = "a sweep is taken at its low end, and has no one count of cycles"
        flags.append(Flag("sweep", "note", text))
    ends = parameters.sweep_hz or [parameters.frequency_hz or 0.0]
    in_g = max(parameters.acceleration_at(one) for one in ends)
    if parameters.motion == "sinus-vertical" and above(in_g, 1):
        text = f"at {in_numbers(in_g)} g the load leaves the table"
        flags.append(Flag("leaves-table", "note", text))
    return flags


METHOD = Method(
    id="iso-13355",
    title="Vibration of packs",
    family="Packaging",
    properties=(
        Property("amplitude", "Amplitude", "mm", significant=3, summed=False),
        Property("acceleration", "Acceleration", "m/s²", significant=3, summed=False),
        Property("cycles", "Cycles", "", decimals=0, summed=False),
        FAILED,
        *DAMAGES,
    ),
    parameters=TableParameters,
    readings=TableReadings,
    guide=GUIDE,
    analyse=analyse,
    summarise=summarise_failed,
    review=review,
)
METHODS = {METHOD.id: METHOD}
