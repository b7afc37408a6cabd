"""Hydraulic bursting of fabric over a rubber diaphragm."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from math import ceil, pi, sqrt
from typing import Any, ClassVar

import numpy as np
from pydantic import Field

from endurant.core.columns import Column
from endurant.core.fields import NotNegative, Positive
from endurant.core.methods.bursting import (
    OBSERVATIONS,
    Burst,
    BurstParameters,
    BurstReadings,
    PressureTrace,
    burst_mark,
    burst_of,
    give_strength,
)
from endurant.core.methods.checks import begin, too_few_valid
from endurant.core.methods.guide import Advice, Blank, Guide, InnerMark, ReadyCheck, RigGuide
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.outlines import circle
from endurant.core.methods.parameters import requested
from endurant.core.methods.properties import Property
from endurant.core.methods.results import Flag, Results, SpecimenResult
from endurant.core.methods.safety import LOCAL, PRESSURE
from endurant.core.quantities import above
from endurant.core.rounding import in_numbers

SHORTEST_S, LONGEST_S = 15, 25


class Parameters(BurstParameters):
    """Parameters of the bursting of fabric."""

    set_up: ClassVar[tuple[str, ...]] = ("seat_limit_mm", "pump_rate_ml_min")

    specimens_wanted: int = requested(5)
    test_area_cm2: Positive = Field(50, description="Test area: 50, 100, 10 or 7.3 cm².")
    seat_limit_mm: Positive = Field(
        100, description="Height before the start from which the sensor is not seated."
    )
    pump_rate_ml_min: Positive | None = Field(
        None, description="Rate of the pump, chosen so that the burst comes after 20 ± 5 s."
    )


class BurstTrace(PressureTrace):
    """Pressure and height over time."""

    time_s: Column
    height_mm: Column


class Readings(BurstReadings):
    """One burst: its trace, or all three numbers."""

    trace: BurstTrace | None = Field(None, description="Pressure and height over time.")
    time_to_burst_s: NotNegative | None = Field(None, description="Time to burst.")


RINGS_MM = {7.3: 30.5, 10.0: 35.7, 50.0: 79.8, 100.0: 112.8}
"""Inner diameters of the rings, by their test areas in cm²."""
CLAMPED_MM = 25


def under_ring(blank: Blank, parameters: Mapping[str, Any]) -> Blank:
    """Return a disc that the ring of this test area clears on every side."""
    area_cm2 = float(parameters.get("test_area_cm2") or 50)
    inside_mm = RINGS_MM.get(area_cm2, 20 * sqrt(area_cm2 / pi))
    across_mm = 5 * ceil((inside_mm + 2 * CLAMPED_MM) / 5)
    mark = InnerMark("test area", (*circle(inside_mm), (inside_mm / 2, 0)))
    return replace(blank, long_mm=across_mm, short_mm=across_mm, inner_marks=(mark,))


USUAL_RATE, AIM_S = 200.0, 20.0
MIN_S, MAX_S = 15.0, 25.0


def rate_of_next(
    parameters: Mapping[str, Any], entries: Sequence[Mapping[str, Any]], _known: Mapping[str, Any]
) -> Advice:
    """Return the rate for a burst after 20 s, from the time that the last specimen took."""
    rate, last_s = parameters.get("pump_rate_ml_min"), _last_time_s(entries)
    if not rate or last_s is None or MIN_S <= last_s <= MAX_S:
        return Advice(())
    suggested = float(f"{float(rate) * last_s / AIM_S:.2g}")
    text = (
        f"The last specimen burst after {in_numbers(round(last_s, 1))} s at "
        f"{in_numbers(float(rate))} mL/min. For 20 s set {in_numbers(suggested)} mL/min"
    )
    return Advice((text,), proposes={"pump_rate_ml_min": suggested})


def _last_time_s(entries: Sequence[Mapping[str, Any]]) -> float | None:
    """The time to the burst of the last specimen; None before the first."""
    for entry in reversed(entries):
        trace = entry.get("trace")
        if isinstance(trace, Mapping):
            pressures = list(trace["pressure_kpa"])
            return float(trace["time_s"][pressures.index(max(pressures))])
        if entry.get("time_to_burst_s") is not None:
            return float(entry["time_to_burst_s"])
    return None


GUIDE = Guide(
    resized=under_ring,
    **guide_texts("iso-13938-1"),
    count_per_direction=5,
    blank=Blank(
        outline="disc",
        long_mm=130,
        short_mm=130,
        inner_marks=(InnerMark("test area", (*circle(79.8), (39.9, 0))),),
        works_on="bulged over the diaphragm",
        selvedge_margin_mm=150,
    ),
    atmosphere="textile-20-65",
    bench="burst",
    wears=("diaphragm",),
    live=RigGuide(window_s=(MIN_S, MAX_S)),
    advises=rate_of_next,
    needs=lambda _: ("pump_rate_ml_min",),
    proposes=lambda _: {"pump_rate_ml_min": USUAL_RATE},
    ready_checks=(
        ReadyCheck(
            "ring",
            "Ring for {test_area_cm2} cm² fitted",
            "the strength depends on the area",
            set_up=True,
        ),
        ReadyCheck(
            "diaphragm", "Diaphragm sound, on its pin", "a twisted one carries pressure itself"
        ),
        ReadyCheck(
            "clamp-pressure",
            "Clamped at 5 to 6 bar of air",
            "cloth slips under the ring",
            reads="clamped",
            set_up=True,
        ),
        ReadyCheck(
            "drain-shut",
            "Drain valve shut",
            "an open one never builds pressure",
            reads="drain-shut",
        ),
        ReadyCheck(
            "seated",
            "Height sensor down on the cloth, height and pressure zeroed",
            "a hanging sensor shows 100 mm or more; if the start is negative, zero again",
            reads="seated",
        ),
        ReadyCheck(
            "rate",
            "Pump rate {pump_rate_ml_min} mL/min, for a burst after 20 ± 5 s",
            "a slow burst reads low, a fast one high",
            set_up=True,
        ),
        ReadyCheck("face-clear", "Face clear, guard closed", "oil under pressure", hold=True),
    ),
    cautions=(
        PRESSURE,
        "Oil under pressure: face clear, drain before opening the clamp, change the ring only "
        "when drained.",
        LOCAL,
    ),
    observations=OBSERVATIONS,
)


def analyse(readings: Readings, parameters: Parameters) -> SpecimenResult:
    """Return bursting strength in kPa, height in mm and time in s of one burst (ISO 13938-1).

    Raises Invalid when neither a trace nor all three values are given.
    """
    result = begin(readings, GUIDE)
    if readings.trace is not None:
        burst = burst_of(readings.trace)
        if not burst.peak_kpa > 0:
            for requested in PROPERTIES:
                result.lacks(requested.name, requested.unit)
            result.flag("no-pressure", "void")
            return result
        result.marks.append(burst_mark(readings.trace))
    else:
        for name in ("peak_pressure_kpa", "height_at_burst_mm", "time_to_burst_s"):
            if getattr(readings, name) is None:
                raise readings.refuse(name, "reading.diaphragm-incomplete")
        burst = Burst(
            float(readings.peak_pressure_kpa or 0),
            readings.height_at_burst_mm,
            readings.time_to_burst_s,
        )
    give_strength(result, readings, parameters, burst)
    where = f"at {in_numbers(burst.peak_kpa)} kPa"
    result.give(
        "height_at_burst", burst.height_mm or 0.0, "mm", "height at the peak", "h(p_peak)", where
    )
    result.give(
        "time_to_burst", burst.time_s or 0.0, "s", "time from the first sample", "t(p_peak)", where
    )
    return result


def review(results: Results, parameters: Parameters) -> list[Flag]:
    """Too few valid, no diaphragm taken off, or bursting too fast or too slow."""
    flags = too_few_valid(results, parameters.specimens_wanted)
    if not parameters.corrects():
        flags.append(Flag.of("no-diaphragm-correction", "warn"))
    times = [
        time_s
        for result in results
        if result.enters and (time_s := result.figure("time_to_burst")) is not None
    ]
    if times:
        mean_s = float(np.mean(times))
        if above(SHORTEST_S, mean_s) or above(mean_s, LONGEST_S):
            flags.append(
                Flag.of("time-to-burst-out-of-window", "warn", mean_s=mean_s, factor=mean_s / 20)
            )
    return flags


PROPERTIES = (
    Property("bursting_strength", "Bursting strength", "kPa", significant=3),
    Property("height_at_burst", "Height at burst", "mm", decimals=1),
    Property("time_to_burst", "Time to burst", "s", decimals=1),
)

METHOD = Method(
    id="iso-13938-1",
    title="Hydraulic bursting of fabric",
    family="Puncture, burst, compression",
    directions=(),
    label_prefixes={},
    properties=PROPERTIES,
    parameters=Parameters,
    readings=Readings,
    guide=GUIDE,
    analyse=analyse,
    review=review,
)
METHODS = {METHOD.id: METHOD}
