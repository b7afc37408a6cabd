"""Stress relaxation: how the force falls while the length is held."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any

import numpy as np
from pydantic import Field

from endurant.core.columns import Column
from endurant.core.curve import first_index, worth_at
from endurant.core.fields import Positive
from endurant.core.methods.guide import Blank, FrameGuide, Guide, InnerMark, ReadyCheck
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.properties import Property
from endurant.core.methods.pulling import (
    OBSERVATIONS,
    PullParameters,
    PullReadings,
    begin_pull,
    review_pull,
)
from endurant.core.methods.results import Mark, SpecimenResult
from endurant.core.methods.safety import LOCAL, PINCH, SNAP, frame_checks
from endurant.core.moves import Move
from endurant.core.quantities import all_at_least, at_least
from endurant.core.recordings import ForceTrace
from endurant.core.rounding import in_numbers
from endurant.core.trace import Samples

HOLD_SHARE = 0.999
USUAL_SPEED_MM_MIN = 200.0
HELD_LONGER_S = 2.0

Times = Annotated[list[Positive], Field(min_length=1, max_length=20)]


class Parameters(PullParameters):
    """Parameters of a held stretch."""

    hold_strain_percent: Positive | None = Field(None, description="Strain that is held.")
    reference_time_s: Positive = Field(
        1, description="Time after the hold is reached at which the start force is read."
    )
    times_s: Times = Field(
        default=[10.0, 100.0, 1000.0], description="Times at which the relaxation is read."
    )


class TimedTrace(ForceTrace):
    """Force and extension over time."""

    time_s: Column


class Readings(PullReadings):
    """One held specimen."""

    trace: TimedTrace = Field(description="Force and extension over time.")


def stretch_and_hold(parameters: Mapping[str, Any]) -> tuple[Move, ...]:
    """To the strain that is held, for as long as it is read; none without a strain."""
    strain = float(parameters.get("hold_strain_percent") or 0)
    if not strain:
        return ()
    speed = float(parameters.get("speed_mm_min") or USUAL_SPEED_MM_MIN)
    last_s = max(parameters.get("times_s") or [1000.0])
    return (
        Move("to", strain, "%", speed),
        Move("hold", seconds=float(last_s) + HELD_LONGER_S),
    )


GUIDE = Guide(
    **guide_texts("relaxation"),
    count_per_direction=3,
    blank=Blank(
        outline="rectangle",
        long_mm=200,
        short_mm=25,
        inner_marks=(
            InnerMark("grip line", ((-12.5, -50), (12.5, -50))),
            InnerMark("grip line", ((-12.5, 50), (12.5, 50))),
        ),
        works_on="stretches along {yarns}",
    ),
    atmosphere="plastics-23-50",
    bench="trace",
    live=FrameGuide(travel_mm=400, usual_max_n=200, moves=stretch_and_hold),
    needs=lambda parameters: (
        "gauge_length_mm",
        *(() if parameters.get("moves") else ("hold_strain_percent",)),
    ),
    proposes=lambda _: {"gauge_length_mm": 100.0},
    ready_checks=frame_checks(
        ReadyCheck(
            "hold-strain",
            "Hold at {hold_strain_percent} % strain",
            "relaxation depends on it",
            set_up=True,
        ),
        ReadyCheck(
            "room-steady",
            "Room steady for the whole hold",
            "a degree of drift looks like relaxation",
        ),
    ),
    cautions=(PINCH, SNAP, LOCAL),
    observations=OBSERVATIONS,
)


def analyse(readings: Readings, parameters: Parameters) -> SpecimenResult:
    """Return the initial force in N, the relaxation in % at each time, and its rate per decade."""
    result, pull = begin_pull(readings, parameters, GUIDE, strain="none")
    requested = (*PROPERTIES[:1], *time_properties(parameters), *PROPERTIES[1:])
    if pull is None:
        for missing_property in requested:
            result.lacks(missing_property.name, missing_property.unit)
        return result
    since_s, last_s = held_time(readings)
    force_n = pull.force_n
    reference_s = parameters.reference_time_s
    start_n = worth_at(since_s, force_n, reference_s)
    if not at_least(last_s, reference_s) or not start_n > 0:
        for missing_property in requested:
            result.lacks(missing_property.name, missing_property.unit)
        result.flag(
            "trace-too-short", "note", sentence="flag.trace-too-short.force-gone", last_s=last_s
        )
        return result
    result.give(
        "force_start",
        start_n,
        "N",
        f"force {in_numbers(reference_s)} s after the hold was reached",
        "F by line over time",
        f"hold reached {in_numbers(-float(since_s[0]))} s after the start",
    )
    missed = []
    for time_s in parameters.times_s:
        name = relaxation_name(time_s)
        if not at_least(last_s, time_s):
            result.lacks(name, "%")
            missed.append(f"{time_s:g} s")
            continue
        at_n = worth_at(since_s, force_n, time_s)
        result.give(
            name,
            100 * (1 - at_n / start_n),
            "%",
            f"fall of the force {time_s:g} s after the hold was reached",
            "100 · (1 - F / F_start)",
            f"100 · (1 - {in_numbers(at_n)} / {in_numbers(start_n)})",
        )
    give_rate(result, since_s, force_n, start_n, reference_s)
    if missed:
        result.flag(
            "trace-too-short",
            "note",
            sentence="flag.trace-too-short.hold",
            last_s=last_s,
            missed=list(missed),
        )
    hold = int(np.argmax(since_s >= 0))
    result.marks.append(
        Mark("points", "hold reached", ((float(pull.drawn_mm[hold]), float(force_n[hold])),))
    )
    return result


def held_time(readings: Readings) -> tuple[Samples, float]:
    """Return the time since the hold was reached, shape (n,), and its duration, in s."""
    trace = readings.trace
    travel_mm = trace.extension_mm - trace.extension_mm[0]
    hold = first_index(all_at_least(travel_mm, HOLD_SHARE * float(travel_mm.max()))) or 0
    since_s: Samples = trace.time_s - trace.time_s[hold]
    return since_s, float(since_s[-1])


def give_rate(
    result: SpecimenResult, since_s: Samples, force_n: Samples, start_n: float, reference_s: float
) -> None:
    """Give the slope of the relaxation in % against log10 of time, from the reference time on."""
    held = all_at_least(since_s, reference_s)
    x = np.log10(since_s[held])
    y = 100 * (1 - force_n[held] / start_n)
    spread = float(np.sum((x - x.mean()) ** 2)) if x.size else 0.0
    if spread == 0:
        result.lacks("rate_per_decade", "%")
        result.flag("too-few-samples", "note")
        return
    slope = float(np.sum((x - x.mean()) * (y - y.mean()))) / spread
    result.give(
        "rate_per_decade",
        slope,
        "%",
        f"slope over log10 of time, {x.size} samples from the reference time on",
        "sum of (x - mean x)(y - mean y) / sum of (x - mean x)²",
        "x = log10 t, y = relaxation",
    )


def relaxation_name(time_s: float) -> str:
    """Return the name of the relaxation at a time: `relaxation_percent_at_10`."""
    return f"relaxation_percent_at_{time_s:g}"


def time_properties(parameters: Parameters) -> tuple[Property, ...]:
    """Return a property for each time asked for."""
    return tuple(
        Property(relaxation_name(time_s), f"Relaxation at {time_s:g} s", "%", significant=3)
        for time_s in parameters.times_s
    )


def all_properties(parameters: Parameters) -> tuple[Property, ...]:
    """Return the relaxations and the rate, after the start force."""
    return (*time_properties(parameters), PROPERTIES[1])


PROPERTIES = (
    Property("force_start", "Start force", "N", significant=3),
    Property("rate_per_decade", "Rate per decade", "%", significant=3),
)

METHOD = Method(
    id="relaxation",
    title="Stress relaxation",
    family="Tension",
    directions=(),
    label_prefixes={},
    properties=PROPERTIES[:1],
    parameters=Parameters,
    readings=Readings,
    guide=GUIDE,
    analyse=analyse,
    more_properties=all_properties,
    review=review_pull,
)
METHODS = {METHOD.id: METHOD}
