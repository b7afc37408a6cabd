"""Bursting of paper and of board, both sides up."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Any, ClassVar

from pydantic import Field

from endurant.core.fields import Positive
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
from endurant.core.methods.guide import Blank, Guide, InnerMark, ReadyCheck, RigGuide
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.outlines import circle
from endurant.core.methods.parameters import requested
from endurant.core.methods.properties import Property
from endurant.core.methods.results import Flag, Results, SpecimenResult
from endurant.core.methods.safety import LOCAL, PRESSURE
from endurant.core.methods.summary import SummaryRow, rows_of, rows_with_all
from endurant.core.quantities import above
from endurant.core.rounding import in_numbers

SIDES = ("top", "under")
OTHER_SIDES = ("bottom", "face", "back", "wire", "felt", "inside", "outside")

Range = Annotated[list[Positive], Field(min_length=2, max_length=2)]


class PaperParameters(BurstParameters):
    """Parameters of the bursting of paper."""

    set_up: ClassVar[tuple[str, ...]] = ("range_kpa",)

    specimens_wanted: int = requested(10)
    grammage_g_m2: Positive | None = Field(None, description="Mass per area, for the index.")
    range_kpa: Range = Field(
        default=[70.0, 1400.0], description="Strengths that the instrument is good for."
    )


class BoardParameters(PaperParameters):
    """Parameters of the bursting of board."""

    range_kpa: Range = Field(
        default=[350.0, 5500.0], description="Strengths that the instrument is good for."
    )


class Readings(BurstReadings):
    """One burst: its trace, or its peak pressure."""

    trace: PressureTrace | None = Field(None, description="Pressure behind the diaphragm.")


PAPER_GUIDE = Guide(
    **guide_texts("iso-2758"),
    count_per_direction=10,
    blank=Blank(
        outline="rectangle",
        long_mm=70,
        short_mm=70,
        inner_marks=(InnerMark("clamped opening", (*circle(30.5), (15.25, 0))),),
        works_on="burst, side as labelled",
    ),
    atmosphere="paper-23-50",
    bench="burst",
    wears=("diaphragm",),
    live=RigGuide(longest_s=90),
    ready_checks=(
        ReadyCheck("diaphragm", "Diaphragm sound and flat", "a bulged one bursts late"),
        ReadyCheck(
            "clamp-pressure",
            "Clamped at the pressure for this material",
            "at too little paper slips, at too much board is crushed",
            reads="clamped",
            set_up=True,
        ),
        ReadyCheck("side", "{side} side up", "each side has its own mean"),
        ReadyCheck("guard-closed", "Guard closed", "pressure behind rubber", hold=True),
    ),
    cautions=(PRESSURE, LOCAL),
    observations=OBSERVATIONS,
)

BOARD_GUIDE = replace(
    PAPER_GUIDE,
    **guide_texts("iso-2759"),
    blank=Blank(
        outline="rectangle",
        long_mm=100,
        short_mm=100,
        inner_marks=(InnerMark("clamped opening", (*circle(31.5), (15.75, 0))),),
        works_on="burst, side as labelled",
    ),
)


def analyse_paper(readings: Readings, parameters: PaperParameters) -> SpecimenResult:
    """Return bursting strength in kPa and burst index in kPa·m²/g of one test (ISO 2758, ISO 2759).

    Raises Invalid when there is no reading.
    """
    result = begin(readings, PAPER_GUIDE)
    if readings.trace is not None:
        burst = burst_of(readings.trace)
        if burst.height_mm is None:
            burst = replace(burst, height_mm=readings.height_at_burst_mm)
    elif readings.peak_pressure_kpa is not None:
        burst = Burst(readings.peak_pressure_kpa, readings.height_at_burst_mm, None)
    else:
        raise readings.refuse("peak_pressure_kpa", "reading.pressure-missing")
    if not burst.peak_kpa > 0:
        result.lacks("bursting_strength", "kPa")
        result.lacks("burst_index", "kPa·m²/g")
        result.flag("no-pressure", "void")
        return result
    if readings.trace is not None:
        result.marks.append(burst_mark(readings.trace))
    strength_kpa = give_strength(result, readings, parameters, burst)
    if parameters.grammage_g_m2 is None:
        result.lacks("burst_index", "kPa·m²/g")
    else:
        result.give(
            "burst_index",
            strength_kpa / parameters.grammage_g_m2,
            "kPa·m²/g",
            "strength for its grammage",
            "strength / grammage",
            f"{in_numbers(strength_kpa)} / {in_numbers(parameters.grammage_g_m2)}",
        )
    low, high = parameters.range_kpa
    if above(low, strength_kpa) or above(strength_kpa, high):
        result.flag(
            "outside-range",
            "warn",
            sentence="flag.outside-range.pressure",
            strength_kpa=strength_kpa,
            min=low,
            max=high,
        )
    return result


def summarise(method: Method, results: Results, parameters: Any) -> list[SummaryRow]:
    """Return a row for each side, and one over all when there is more than one."""
    if len({result.direction for result in results}) > 1:
        return rows_with_all(method, parameters, results)
    return rows_of(method, parameters, results)


def review(results: Results, parameters: PaperParameters) -> list[Flag]:
    """Too few valid, and an index that cannot be had."""
    flags = too_few_valid(results, parameters.specimens_wanted)
    if parameters.grammage_g_m2 is None:
        flags.append(Flag.of("no-grammage", "note", sentence="flag.no-grammage.burst"))
    return flags


def _method(method_id: str, title: str, parameters: Any, guide: Guide) -> Method:
    return Method(
        id=method_id,
        title=title,
        family="Puncture, burst, compression",
        directions=SIDES,
        also_directions=(*OTHER_SIDES, "md", "cd", "face-out", "face-in"),
        label_prefixes={"top": "T", "under": "U"},
        properties=(
            Property("bursting_strength", "Bursting strength", "kPa", significant=3),
            Property("burst_index", "Burst index", "kPa·m²/g", significant=3),
        ),
        parameters=parameters,
        readings=Readings,
        guide=guide,
        analyse=analyse_paper,
        summarise=summarise,
        pools=True,
        review=review,
    )


METHODS = {
    "iso-2758": _method("iso-2758", "Bursting of paper", PaperParameters, PAPER_GUIDE),
    "iso-2759": _method("iso-2759", "Bursting of board", BoardParameters, BOARD_GUIDE),
}
