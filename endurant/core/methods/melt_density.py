"""Density of a melt, from cuts and travel of one run together."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Annotated, Any, ClassVar

import numpy as np
from pydantic import Field

from endurant.core.fields import NotNegative, Positive, Whole
from endurant.core.methods.checks import begin, too_few_valid
from endurant.core.methods.guide import (
    Ask,
    Guide,
    SeriesGuide,
    Turn,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.melting import (
    CAUTIONS,
    MINUTES_10_S,
    PISTON_AREA_CM2,
    READY_CHECKS,
    Cut,
    MeltParameters,
    MeltReadings,
    advise,
    flag_clocks,
    give_mfr_by_mass,
    good_cuts,
    next_cut,
    spread_of,
)
from endurant.core.methods.method import Method
from endurant.core.methods.properties import Property
from endurant.core.methods.results import Flag, Results, SpecimenResult
from endurant.core.methods.summary import groups_of
from endurant.core.quantities import above
from endurant.core.refusals import Invalid
from endurant.core.rounding import in_numbers

LOWEST_DENSITY, HIGHEST_DENSITY = 0.3, 2.5


class DensityParameters(MeltParameters):
    """Parameters of the combined run."""

    set_up: ClassVar[tuple[str, ...]] = (
        "cut_interval_s",
        "area_cm2",
        "fixed_travel_mm",
    )

    cut_interval_s: Positive = Field(description="Time between cuts.")
    area_cm2: Positive = Field(
        PISTON_AREA_CM2, description="Mean of the areas of piston and barrel."
    )
    min_cuts: Whole = Field(3, description="Good cuts needed.")
    min_runs: Whole = Field(3, description="Valid runs needed for an entry.")
    max_density_spread: NotNegative = Field(
        0.03, description="Largest (max - min) / mean of densities, of the cuts and of the runs."
    )
    min_density_g_cm3: Positive = Field(
        0.3, description="A density below this is implausible and void."
    )
    max_density_g_cm3: Positive = Field(
        2.5, description="A density above this is implausible and void."
    )
    fixed_travel_mm: Positive | None = Field(
        None, description="Travel of the piston between cuts; none: cuts at the interval."
    )


class MeasuredCut(Cut):
    """One cut, and the travel of the piston during it."""

    length_mm: Positive


class DensityReadings(MeltReadings):
    """One run: cuts with the travel during each."""

    cuts: Annotated[list[MeasuredCut], Field(min_length=1, max_length=1000)] = Field(
        description="Cuts of the strand, and piston travel during each."
    )


def next_travelled_cut(parameters: Mapping[str, Any], cuts: Sequence[Any]) -> Turn | None:
    """Cuts with the travel of the piston during each; an implausible density is refused."""
    area_cm2 = float(parameters.get("area_cm2") or PISTON_AREA_CM2)
    low = float(parameters.get("min_density_g_cm3") or LOWEST_DENSITY)
    high = float(parameters.get("max_density_g_cm3") or HIGHEST_DENSITY)
    fixed_mm = parameters.get("fixed_travel_mm")

    def refuses(answers: Mapping[str, Any]) -> None:
        if answers["bubbles"]:
            return
        density = answers["mass_g"] / (area_cm2 * answers["length_mm"] / 10)
        if above(low, density) or above(density, high):
            raise Invalid(
                "melt.travel-implausible",
                length_mm=answers["length_mm"],
                mass_g=answers["mass_g"],
                density=density,
                field="length_mm",
            )

    travel = Ask("length_mm", "piston travel during the cut", "mm", preset=fixed_mm, low=0.01)
    return next_cut(parameters, cuts, travel, refuses)


GUIDE = Guide(
    **guide_texts("melt-density"),
    count_per_direction=3,
    blank=None,
    atmosphere=None,
    bench="cuts",
    advises=advise,
    proposes=lambda _: {"cut_interval_s": 10.0},
    live=SeriesGuide("cut", "cuts", next_travelled_cut, may_end="End this charge"),
    ready_checks=READY_CHECKS,
    cautions=CAUTIONS,
    observations=(),
)

PROPERTIES = (
    Property("melt_density", "Melt density", "g/cm³", decimals=4),
    Property("mfr_by_mass", "Mass-flow rate by mass", "g/10 min", significant=3, most_decimals=2),
    Property("mvr", "Melt volume-flow rate", "cm³/10 min", significant=3, most_decimals=2),
    Property(
        "mfr_by_travel", "Mass-flow rate by travel", "g/10 min", significant=3, most_decimals=2
    ),
)


def analyse(readings: DensityReadings, parameters: DensityParameters) -> SpecimenResult:
    """Return the melt density of one run in g/cm³, with its mass and volume flow rates."""
    result = begin(readings, GUIDE)
    flag_clocks(result, readings, parameters)
    good = good_cuts(result, readings.cuts, parameters.min_cuts)
    if not good:
        for requested in PROPERTIES:
            result.lacks(requested.name, requested.unit)
        return result
    lengths_cm = [(cut.length_mm or 0.0) / 10 for cut in good]
    area_cm2, interval_s = parameters.area_cm2, parameters.cut_interval_s
    densities = [
        cut.mass_g / (area_cm2 * length) for cut, length in zip(good, lengths_cm, strict=True)
    ]
    density = float(np.mean(densities))
    result.give(
        "melt_density",
        density,
        "g/cm³",
        f"mean of the densities of {len(good)} cuts",
        "mean of mass / (area · travel)",
        ", ".join(in_numbers(density) for density in densities),
    )
    give_mfr_by_mass(result, "mfr_by_mass", good, interval_s)
    mean_cm = float(np.mean(lengths_cm))
    volume = MINUTES_10_S * area_cm2 * mean_cm / interval_s
    result.give(
        "mvr",
        volume,
        "cm³/10 min",
        "mean travel, for ten minutes",
        "600 · area · mean travel / interval",
        f"600 · {in_numbers(area_cm2)} · {in_numbers(mean_cm)} / {in_numbers(interval_s)}",
    )
    result.give(
        "mfr_by_travel",
        volume * density,
        "g/10 min",
        "volume flow times the melt density",
        "mvr · density",
        f"{in_numbers(volume)} · {in_numbers(density)}",
    )
    spread = spread_of(densities)
    if above(spread, parameters.max_density_spread):
        result.flag("density-spread", "warn", percent=100 * spread)
    low, high = parameters.min_density_g_cm3, parameters.max_density_g_cm3
    if above(low, density) or above(density, high):
        result.flag("implausible-density", "void", density=density, min=low, max=high)
    return result


def review(results: Results, parameters: DensityParameters) -> list[Flag]:
    """Too few valid, and too few runs for an entry."""
    flags = too_few_valid(results, parameters.specimens_wanted)
    for group in groups_of(results):
        runs = sum(member.enters for member in group.members)
        if runs < parameters.min_runs:
            flags.append(Flag.of("too-few-runs", "warn", runs=runs, min=parameters.min_runs))
        densities = [
            density
            for member in group.members
            if member.enters and (density := member.figure("melt_density")) is not None
        ]
        spread = spread_of(densities) if len(densities) > 1 else 0.0
        if above(spread, parameters.max_density_spread):
            flags.append(Flag.of("runs-disagree", "warn", percent=100 * spread))
    return flags


METHOD = Method(
    id="melt-density",
    title="Melt density from one combined run",
    family="Melt flow",
    properties=PROPERTIES,
    parameters=DensityParameters,
    readings=DensityReadings,
    guide=GUIDE,
    analyse=analyse,
    review=review,
)
METHODS = {METHOD.id: METHOD}
