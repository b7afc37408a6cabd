"""Vibration of packs: what the table does, and what the looks show."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from math import pi
from typing import Annotated, Any, Literal, Self

from pydantic import Field, model_validator

from endurant.core.complaints import complaint
from endurant.core.fields import Name, Positive
from endurant.core.methods.checks import begin, too_few_valid
from endurant.core.methods.damaging import (
    DAMAGES,
    FAILED,
    DamageParameters,
    Look,
    damage_asks,
    give_damages,
    give_failed,
    summarise_failed,
)
from endurant.core.methods.guide import (
    Ask,
    Go,
    Guide,
    ReadyCheck,
    SeriesGuide,
    Turn,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.properties import Property
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import Flag, Results, SpecimenResult
from endurant.core.methods.safety import LOCAL, VIBRATION
from endurant.core.quantities import above
from endurant.core.rounding import in_numbers

GRAVITY = 9.81


class Motion(DamageParameters):
    """What the table does, whichever method sets it."""

    minutes: Positive = Field(description="Duration.")
    looks_at_min: Annotated[list[Positive], Field(max_length=50)] | None = Field(
        None, description="Minutes at which the pack is examined; none: at the end only."
    )
    orientation: Name | None = Field(None, description="How the load stands.")
    acceleration_g: Positive | None = Field(None, description="Acceleration, in g.")
    amplitude_mm: Positive | None = Field(None, description="Amplitude, zero to peak.")

    def ends_hz(self) -> tuple[float, ...]:
        """Return the frequency, or both ends of a sweep; none for a random motion."""
        return ()

    def acceleration_or_amplitude(self) -> None:
        """A sinus is told by one of the two; raises ValueError."""
        if (self.acceleration_g is None) == (self.amplitude_mm is None):
            raise complaint("vibration.level-form")

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


SinusMotion = Literal["sinus-vertical", "sinus-rotary"]
Sweep = Annotated[list[Positive], Field(min_length=2, max_length=2)]


def rising(sweep_hz: Sequence[float]) -> None:
    """A sweep rises from its low to its high end; raises ValueError."""
    if sweep_hz[0] >= sweep_hz[1]:
        raise complaint("vibration.sweep-order")


class FixedParameters(Motion):
    """One low frequency all the time."""

    motion: SinusMotion = Field("sinus-vertical", description="Motion of the table.")
    frequency_hz: Positive = Field(description="Frequency of the sinus.")

    def ends_hz(self) -> tuple[float, ...]:
        """Return the one frequency."""
        return (self.frequency_hz,)

    @model_validator(mode="after")
    def _one_of_the_pair(self) -> Self:
        self.acceleration_or_amplitude()
        return self


class SweepParameters(Motion):
    """A sinus that sweeps from a low frequency to a high one."""

    motion: SinusMotion = Field("sinus-vertical", description="Motion of the table.")
    sweep_hz: Sweep = Field(description="Low and high end of the sweep.")

    def ends_hz(self) -> tuple[float, ...]:
        """Low and high end."""
        return tuple(self.sweep_hz)

    @model_validator(mode="after")
    def _one_of_the_pair(self) -> Self:
        self.acceleration_or_amplitude()
        rising(self.sweep_hz)
        return self


class TableParameters(Motion):
    """Random by its own rule; a sinus is taken, and said to belong to another method."""

    motion: Literal["sinus-vertical", "sinus-rotary", "random"] = Field(
        "random", description="Motion of the table; this method's own is random."
    )
    frequency_hz: Positive | None = Field(None, description="Frequency of a sinus.")
    sweep_hz: Sweep | None = Field(None, description="Low and high end of a sweep.")
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
                raise complaint("vibration.random-part", part=given[0])
            if self.level_g_rms is None:
                raise complaint("vibration.random-level-missing")
            return self
        if self.level_g_rms is not None:
            raise complaint("vibration.level-not-random")
        if (self.frequency_hz is None) == (self.sweep_hz is None):
            raise complaint("vibration.frequency-form")
        self.acceleration_or_amplitude()
        if self.sweep_hz is not None:
            rising(self.sweep_hz)
        return self

    def ends_hz(self) -> tuple[float, ...]:
        """Return the frequency, or both ends of a sweep; none for a random motion."""
        if self.sweep_hz is not None:
            return tuple(self.sweep_hz)
        return () if self.frequency_hz is None else (self.frequency_hz,)


class Inspection(Look):
    """One look at a set time."""

    minutes: Positive


class TableReadings(Readings):
    """The looks at one pack."""

    inspections: Annotated[list[Inspection], Field(min_length=1, max_length=1000)] = Field(
        description="Looks, in order of time."
    )


def next_minutes(parameters: Mapping[str, Any], looks: Sequence[Any]) -> Turn | None:
    """A look at the end of the time that was asked for; earlier ones may be written down too."""
    total = float(parameters["minutes"])
    last = looks[-1]["minutes"] if looks else 0.0
    if last >= total:
        return None
    due = next((each for each in looks_at(parameters) if each > last), total)
    return Turn(
        title=f"Examine {{label}} after {in_numbers(due)} min",
        why=f"{in_numbers(last)} min so far. The table stands still before you touch the load.",
        button="Record look",
        asks=(
            Ask("minutes", "minutes so far", "min", preset=due, low=0.0, high=total),
            *damage_asks(inside=due >= total),
        ),
        goes=Go(
            title=f"Run the table to {in_numbers(due)} min",
            why="Fences set, everyone clear of the table. The table stops automatically.",
            button="Start table",
            seconds=60 * (due - last),
            caution="A shaken load walks: stand clear, and stop the table before you touch it.",
        ),
    )


def looks_at(parameters: Mapping[str, Any]) -> list[float]:
    """Return the minutes at which the pack is examined; the end is one of them."""
    return sorted({*(parameters.get("looks_at_min") or ()), float(parameters["minutes"])})


def _level_set(motion: str, why: str) -> tuple[ReadyCheck, ReadyCheck]:
    """The table set by its acceleration, or by its amplitude where that is what is given."""
    return (
        ReadyCheck(
            "table",
            f"{motion} set, {{acceleration_g}} g, for {{minutes}} min",
            why,
            when=lambda aims: aims.get("acceleration_g") is not None,
            set_up=True,
        ),
        ReadyCheck(
            "table-by-amplitude",
            f"{motion} set, {{amplitude_mm}} mm, for {{minutes}} min",
            why,
            when=lambda aims: aims.get("acceleration_g") is None,
        ),
    )


FENCES = (
    ReadyCheck(
        "fences",
        "Fences set, load {orientation}, free to move but not to fall",
        "a load that walks falls off",
        when=lambda aims: bool(aims.get("orientation")),
        set_up=True,
    ),
    ReadyCheck(
        "fences-as-it-travels",
        "Fences set, load as it travels, free to move but not to fall",
        "a load that walks falls off",
        when=lambda aims: not aims.get("orientation"),
    ),
)
CLEAR = ReadyCheck("clear", "Everyone clear of the table while it runs", "loads jump", hold=True)

GUIDE = Guide(
    **guide_texts("iso-2247"),
    count_per_direction=2,
    blank=None,
    atmosphere="paper-23-50",
    bench="looks",
    station="shaking-table",
    live=SeriesGuide("look", "inspections", next_minutes, may_end="End the test here"),
    ready_checks=(*FENCES, *_level_set("{frequency_hz} Hz", "both decide the dose"), CLEAR),
    cautions=(VIBRATION, LOCAL),
    observations=(),
)


RANDOM_GUIDE = replace(
    GUIDE,
    ready_checks=(
        *FENCES,
        ReadyCheck(
            "table",
            "Motion {motion} set, {level_g_rms} g rms, for {minutes} min",
            "the level is the dose",
            set_up=True,
        ),
        CLEAR,
    ),
    **guide_texts("iso-13355"),
)
FIXED_GUIDE = GUIDE
SWEEP_GUIDE = replace(
    GUIDE,
    ready_checks=(
        *FENCES,
        *_level_set("Sweep {sweep_hz} Hz", "a fixed amplitude throws the load at the high end"),
        CLEAR,
    ),
    **guide_texts("iso-8318"),
)


def analyse(readings: TableReadings, parameters: Motion) -> SpecimenResult:
    """Return whether one pack withstood the vibration, with the motion that it was given.

    Raises Invalid for inspections out of order.
    """
    result = begin(readings, GUIDE)
    before = 0.0
    for look in readings.inspections:
        if look.minutes <= before:
            raise readings.refuse(
                "inspections", "reading.inspection-not-later", minutes=look.minutes, before=before
            )
        before = look.minutes
    give_motion(result, parameters)
    failed = give_failed(result, readings.inspections, parameters.max_damage_inside)
    give_damages(result, readings.inspections)
    if above(parameters.minutes, before) and not failed:
        result.flag("ended-early", "warn", before=before, minutes=parameters.minutes)
    return result


def give_motion(result: SpecimenResult, parameters: Motion) -> None:
    """Give amplitude in mm, acceleration in m/s² and cycles; a random motion has none."""
    ends_hz = parameters.ends_hz()
    if not ends_hz:
        for name, unit in (("amplitude", "mm"), ("acceleration", "m/s²"), ("cycles", "")):
            result.lacks(name, unit)
        return
    frequency_hz, sweeps = ends_hz[0], len(ends_hz) > 1
    in_g = parameters.acceleration_at(frequency_hz)
    at = f"at {in_numbers(frequency_hz)} Hz"
    result.give(
        "amplitude",
        parameters.amplitude_at(frequency_hz),
        "mm",
        "zero to peak" + (", at the low end of the sweep" if sweeps else ""),
        "1000 · 9.81 · g / (2π · f)²",
        f"{in_numbers(in_g)} g {at}",
    )
    result.give(
        "acceleration", in_g * GRAVITY, "m/s²", "of the table", "g · 9.81", f"{in_numbers(in_g)} g"
    )
    if sweeps:
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


def review(results: Results, parameters: Motion) -> list[Flag]:
    """Too few valid, and what the motion means."""
    flags = too_few_valid(results, parameters.specimens_wanted)
    ends_hz = parameters.ends_hz()
    if not ends_hz:
        flags.append(Flag.of("random", "note"))
        return flags
    if isinstance(parameters, TableParameters):
        other = "iso-8318" if len(ends_hz) > 1 else "iso-2247"
        flags.append(Flag.of("motion-of-another-method", "note", other=other))
    if len(ends_hz) > 1:
        flags.append(Flag.of("sweep", "note"))
    in_g = max(parameters.acceleration_at(frequency_hz) for frequency_hz in ends_hz)
    if getattr(parameters, "motion", "") == "sinus-vertical" and above(in_g, 1):
        flags.append(Flag.of("leaves-table", "note", acceleration_g=in_g))
    return flags


def _method(method_id: str, title: str, parameters: type[Motion], guide: Guide) -> Method:
    return Method(
        id=method_id,
        title=title,
        family="Packaging",
        properties=(
            Property("amplitude", "Amplitude", "mm", significant=3, summed=False),
            Property("acceleration", "Acceleration", "m/s²", significant=3, summed=False),
            Property("cycles", "Cycles", "", decimals=0, summed=False),
            FAILED,
            *DAMAGES,
        ),
        parameters=parameters,
        readings=TableReadings,
        guide=guide,
        analyse=analyse,
        summarise=summarise_failed,
        review=review,
    )


METHODS = {
    "iso-13355": _method(
        "iso-13355", "Vibration of packs, vertical random", TableParameters, RANDOM_GUIDE
    ),
    "iso-2247": _method(
        "iso-2247", "Vibration of packs, fixed low frequency", FixedParameters, FIXED_GUIDE
    ),
    "iso-8318": _method(
        "iso-8318", "Vibration of packs, sinus sweep", SweepParameters, SWEEP_GUIDE
    ),
}
