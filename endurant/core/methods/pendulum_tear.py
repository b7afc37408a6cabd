"""Pendulum tear of film and of paper: the work of a tear from the swing that is lost."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Annotated, Any, ClassVar

import numpy as np
from pydantic import Field

from endurant.core.fields import Positive, Whole
from endurant.core.methods.checks import begin, too_few_valid
from endurant.core.methods.guide import (
    Blank,
    Demand,
    Guide,
    InnerMark,
    Observation,
    ReadyCheck,
    SwingGuide,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import Parameters
from endurant.core.methods.properties import Property
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import Flag, Results, SpecimenResult
from endurant.core.methods.safety import BLADES, LOCAL, PENDULUM
from endurant.core.methods.summary import groups_of
from endurant.core.quantities import above
from endurant.core.rounding import in_numbers

MAX_PLIES = 64
MIN_PERCENT, MAX_PERCENT, BEST_PERCENT = 20, 80, 50

Plies = Annotated[int, Field(strict=True, ge=1, le=MAX_PLIES)]
Percent = Annotated[float, Field(strict=True, allow_inf_nan=False, ge=0, le=100)]


class FilmParameters(Parameters):
    """Parameters of the pendulum tear of film."""

    set_up: ClassVar[tuple[str, ...]] = ("capacity_n",)

    capacity_n: Positive = Field(description="Force at full scale for one ply.")
    plies_planned: Plies = Field(1, description="Plies that are to be torn together.")


class PaperParameters(FilmParameters):
    """Parameters of the pendulum tear of paper."""

    grammage_g_m2: Positive | None = Field(None, description="Mass per area, for the index.")
    plies_planned: Plies = Field(4, description="Plies that are to be torn together.")


class PendulumReadings(Readings):
    """What the scale showed for one tear, and how many plies were torn at once."""

    reading_percent: Percent = Field(description="Reading in percent of the scale.")
    plies: Whole = Field(description="Plies torn together.")


def plies_of_film(parameters: Mapping[str, Any]) -> Demand:
    """Return a rectangle for each ply of a specimen: one, where no other count is asked for."""
    return _plies(int(parameters.get("plies_planned") or 1))


def plies_of_paper(parameters: Mapping[str, Any]) -> Demand:
    """Return a rectangle for each ply of a specimen: four, where no other count is asked for."""
    return _plies(int(parameters.get("plies_planned") or 4))


def _plies(plies: int) -> Demand:
    if plies == 1:
        return Demand()
    return Demand(pieces=plies, piece="ply", text=f"{plies} plies torn together for one reading")


FILM_GUIDE = Guide(
    **guide_texts("iso-6383-2"),
    count_per_direction=5,
    blank=Blank(
        outline="rectangle",
        long_mm=75,
        short_mm=63,
        inner_marks=(InnerMark("slit", ((0, -37.5), (0, -17.5))),),
        works_on="tears along {yarns}",
    ),
    atmosphere="film-23-50",
    bench="swing",
    demand=plies_of_film,
    wears=("knife",),
    live=SwingGuide("reading_percent", also=("plies",)),
    ready_checks=(
        ReadyCheck(
            "level", "Instrument level and firm", "a base that rocks takes up work", set_up=True
        ),
        ReadyCheck(
            "free-swing",
            "Free swing reads 0 %",
            "friction and a shifted pointer are added to every reading",
        ),
        ReadyCheck(
            "pendulum",
            "Pendulum of {capacity_n} N fitted",
            "the reading is a share of its capacity",
            set_up=True,
        ),
        ReadyCheck(
            "path-clear",
            "Everyone clear of the path of the pendulum",
            "a released pendulum does not stop for a hand",
            hold=True,
        ),
    ),
    cautions=(PENDULUM, BLADES, LOCAL),
    observations=(
        Observation("tear-off-line", "Left the line", "void", "the tear ran aside of its line"),
    ),
)

PAPER_GUIDE = replace(
    FILM_GUIDE,
    **guide_texts("iso-1974"),
    count_per_direction=10,
    demand=plies_of_paper,
    blank=Blank(
        outline="rectangle",
        long_mm=63,
        short_mm=50,
        inner_marks=(InnerMark("slit", ((0, -31.5), (0, -11.5))),),
        works_on="tears along {yarns}",
    ),
    atmosphere="paper-23-50",
    observations=(
        Observation(
            "tear-off-line",
            "Left the line",
            "void",
            "the tear ran more than 10 mm aside of its line",
        ),
    ),
)


def _tear_force(result: SpecimenResult, readings: PendulumReadings, capacity_n: float) -> float:
    force = 1000 * capacity_n * readings.reading_percent / 100 / readings.plies
    result.give(
        "tear_force",
        force,
        "mN",
        "reading of the scale, shared by the plies",
        "1000 · capacity · reading / 100 / plies",
        f"1000 · {in_numbers(capacity_n)} · {in_numbers(readings.reading_percent)} / 100 / "
        f"{readings.plies}",
    )
    return force


def analyse_film(readings: PendulumReadings, parameters: FilmParameters) -> SpecimenResult:
    """Return the tear force of one film specimen in N (ISO 6383-2)."""
    result = begin(readings, FILM_GUIDE)
    _tear_force(result, readings, parameters.capacity_n)
    return result


def analyse_paper(readings: PendulumReadings, parameters: PaperParameters) -> SpecimenResult:
    """Return tear force in mN and tear index in mN·m²/g of one paper specimen (ISO 1974)."""
    result = begin(readings, PAPER_GUIDE)
    force = _tear_force(result, readings, parameters.capacity_n)
    if parameters.grammage_g_m2 is None:
        result.lacks("tear_index", "mN·m²/g")
    else:
        result.give(
            "tear_index",
            force / parameters.grammage_g_m2,
            "mN·m²/g",
            "tear force for its grammage",
            "tear force / grammage",
            f"{in_numbers(force)} / {in_numbers(parameters.grammage_g_m2)}",
        )
    return result


def flag_range(
    results: Results, readings: Sequence[PendulumReadings], parameters: FilmParameters
) -> None:
    """`outside-range` on readings near an end of the scale, with what would suit the group."""
    read = {reading.label: reading for reading in readings}
    for group in groups_of(results):
        members = [read[member.label] for member in group.members]
        mean = float(np.mean([member.reading_percent for member in members]))
        for_one = float(np.mean([member.reading_percent / member.plies for member in members]))
        plies = max(round(BEST_PERCENT / for_one), 1) if for_one else None
        capacity = parameters.capacity_n * mean / BEST_PERCENT
        for result in group.members:
            percent = read[result.label].reading_percent
            if above(MIN_PERCENT, percent) or above(percent, MAX_PERCENT):
                advice = (
                    "a lighter pendulum"
                    if plies is None
                    else f"{plies} plies, or a capacity of about {in_numbers(capacity)} N"
                )
                result.flag(
                    "outside-range",
                    "warn",
                    sentence="flag.outside-range.scale-percent",
                    percent=percent,
                    min=MIN_PERCENT,
                    max=MAX_PERCENT,
                    advice=advice,
                )


def review(results: Results, parameters: Any) -> list[Flag]:
    """Too few valid, and an index that cannot be had."""
    flags = too_few_valid(results, parameters.specimens_wanted)
    if isinstance(parameters, PaperParameters) and parameters.grammage_g_m2 is None:
        flags.append(Flag.of("no-grammage", "note", sentence="flag.no-grammage.tear"))
    return flags


TEAR_FORCE = Property("tear_force", "Tear force", "mN", significant=3)

METHODS = {
    "iso-6383-2": Method(
        id="iso-6383-2",
        title="Pendulum tear of film",
        family="Tear and seam",
        directions=("md", "cd"),
        label_prefixes={"md": "M", "cd": "C"},
        properties=(TEAR_FORCE,),
        parameters=FilmParameters,
        readings=PendulumReadings,
        guide=FILM_GUIDE,
        analyse=analyse_film,
        together=flag_range,
        review=review,
    ),
    "iso-1974": Method(
        id="iso-1974",
        title="Pendulum tear of paper",
        family="Tear and seam",
        directions=("md", "cd"),
        label_prefixes={"md": "M", "cd": "C"},
        properties=(TEAR_FORCE, Property("tear_index", "Tear index", "mN·m²/g", significant=3)),
        parameters=PaperParameters,
        readings=PendulumReadings,
        guide=PAPER_GUIDE,
        analyse=analyse_paper,
        together=flag_range,
        review=review,
    ),
}
