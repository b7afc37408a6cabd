"""Volume-flow rate of a melt: piston travel over time."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Any, ClassVar

import numpy as np
from pydantic import Field

from endurant.core.fields import Positive, Strict
from endurant.core.methods.checks import begin, too_few_valid
from endurant.core.methods.guide import (
    Guide,
    SeriesGuide,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.melting import (
    CAUTIONS,
    MINUTES_10_S,
    PISTON_AREA_CM2,
    READY_CHECKS,
    MeltParameters,
    MeltReadings,
    flag_clocks,
    next_travel,
)
from endurant.core.methods.method import Method
from endurant.core.methods.properties import Property
from endurant.core.methods.results import Flag, Results, SpecimenResult
from endurant.core.quantities import above, at_least
from endurant.core.rounding import in_numbers

SHORT_TRAVEL_MM, LONG_TRAVEL_MM = 6.35, 25.4
LONG_TRAVEL_ABOVE = 10
TRAVEL_TOLERANCE = 0.05


class TravelParameters(MeltParameters):
    """Parameters of piston travel."""

    set_up: ClassVar[tuple[str, ...]] = (
        "melt_density_g_cm3",
        "area_cm2",
    )

    area_cm2: Positive = Field(
        PISTON_AREA_CM2, description="Mean of the areas of piston and barrel."
    )
    melt_density_g_cm3: Positive | None = Field(
        None, description="Density of the melt at the temperature, for the mass-flow rate."
    )


class AstmParameters(TravelParameters):
    """The same with a longer preheat."""

    preheat_min: Positive = Field(7, description="Preheating, from charging.")


class Travel(Strict):
    """One travel of the piston."""

    length_mm: Positive
    time_s: Positive


class TravelReadings(MeltReadings):
    """One charge and its travels."""

    travels: Annotated[list[Travel], Field(min_length=1, max_length=1000)] = Field(
        description="Travels of the piston."
    )


GUIDE = Guide(
    **guide_texts("iso-1133-1-b"),
    count_per_direction=2,
    blank=None,
    atmosphere=None,
    bench="cuts",
    live=SeriesGuide("travel", "travels", next_travel, may_end="End this charge"),
    ready_checks=READY_CHECKS,
    cautions=CAUTIONS,
    observations=(),
)


ASTM_GUIDE = replace(GUIDE, **guide_texts("astm-d1238-b"))


def analyse_iso(readings: TravelReadings, parameters: TravelParameters) -> SpecimenResult:
    """Return the volume-flow rate of one charge in cm³/10 min (ISO 1133-1)."""
    return _analyse(readings, parameters)


def analyse_astm(readings: TravelReadings, parameters: TravelParameters) -> SpecimenResult:
    """Return the flow rate of one charge by travel, in cm³/10 min and g/10 min (ASTM D1238).

    The travel of the piston is checked against the flow.
    """
    result = _analyse(readings, parameters)
    flow = result.figure("mfr")
    if flow is not None:
        flag_travel(result, readings, flow)
    return result


def _analyse(readings: TravelReadings, parameters: TravelParameters) -> SpecimenResult:
    result = begin(readings, GUIDE)
    flag_clocks(result, readings, parameters)
    speeds = [travel.length_mm / 10 / travel.time_s for travel in readings.travels]
    volume = MINUTES_10_S * parameters.area_cm2 * float(np.mean(speeds))
    result.give(
        "mvr",
        volume,
        "cm³/10 min",
        f"mean of {len(speeds)} travels, for ten minutes",
        "mean of 600 · area · travel / time",
        f"600 · {in_numbers(parameters.area_cm2)} · {in_numbers(float(np.mean(speeds)))} cm/s",
    )
    density = parameters.melt_density_g_cm3
    if density is None:
        result.lacks("mfr", "g/10 min")
    else:
        result.give(
            "mfr",
            volume * density,
            "g/10 min",
            "volume flow times the density of the melt",
            "mvr · density",
            f"{in_numbers(volume)} · {in_numbers(density)}",
        )
    return result


def flag_travel(result: SpecimenResult, readings: TravelReadings, flow: float) -> None:
    """`travel-not-for-this-flow` when a travel is more than 5 % off what the flow asks for."""
    target_mm = SHORT_TRAVEL_MM if at_least(LONG_TRAVEL_ABOVE, flow) else LONG_TRAVEL_MM
    off = [
        travel.length_mm
        for travel in readings.travels
        if above(abs(travel.length_mm - target_mm), TRAVEL_TOLERANCE * target_mm)
    ]
    if off:
        result.flag(
            "travel-not-for-this-flow", "warn", travel_mm=off[0], flow=flow, required_mm=target_mm
        )


def review(results: Results, parameters: TravelParameters) -> list[Flag]:
    """Too few valid, and a mass flow that cannot be had."""
    flags = too_few_valid(results, parameters.specimens_wanted)
    if parameters.melt_density_g_cm3 is None:
        flags.append(Flag.of("no-melt-density", "note"))
    return flags


def _method(method_id: str, title: str, parameters: Any, analyse: Any, guide: Guide) -> Method:
    return Method(
        id=method_id,
        title=title,
        family="Melt flow",
        properties=(
            Property("mvr", "Melt volume-flow rate", "cm³/10 min", significant=3, most_decimals=2),
            Property("mfr", "Melt mass-flow rate", "g/10 min", significant=3, most_decimals=2),
        ),
        parameters=parameters,
        readings=TravelReadings,
        guide=guide,
        analyse=analyse,
        review=review,
    )


METHODS = {
    "iso-1133-1-b": _method(
        "iso-1133-1-b",
        "Melt volume-flow rate, piston travel (ISO 1133-1)",
        TravelParameters,
        analyse_iso,
        GUIDE,
    ),
    "astm-d1238-b": _method(
        "astm-d1238-b",
        "Melt volume-flow rate, piston travel (D1238)",
        AstmParameters,
        analyse_astm,
        ASTM_GUIDE,
    ),
}
