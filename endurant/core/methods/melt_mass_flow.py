"""Mass-flow rate of a melt: cut and weigh."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, ClassVar

import numpy as np
from pydantic import Field

from endurant.core.fields import NotNegative, Positive, Whole
from endurant.core.methods.checks import begin, review_count
from endurant.core.methods.guide import (
    Guide,
    SeriesGuide,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.melting import (
    CAUTIONS,
    READY_CHECKS,
    Cut,
    Cuts,
    IntervalTable,
    MeltParameters,
    MeltReadings,
    advise,
    flag_charge,
    flag_clocks,
    give_mfr_by_mass,
    good_cuts,
    interval_for,
    next_cut,
    spread_of,
)
from endurant.core.methods.method import Method
from endurant.core.methods.properties import Property
from endurant.core.methods.results import SpecimenResult
from endurant.core.quantities import above
from endurant.core.rounding import in_numbers

SHORTEST_CUT_MM = 10
BEST_CUT_MM = 15


class IsoParameters(MeltParameters):
    """Parameters of cut and weigh."""

    set_up: ClassVar[tuple[str, ...]] = ("cut_interval_s",)
    laboratory: ClassVar[tuple[str, ...]] = ("interval_table",)

    cut_interval_s: Positive = Field(description="Time between cuts.")
    interval_table: IntervalTable = Field(
        "iso-newer", description="The table that recommends an interval."
    )
    min_cuts: Whole = Field(3, description="Good cuts needed.")
    max_spread: NotNegative = Field(0.15, description="Largest (max - min) / mean of the cuts.")


class AstmParameters(IsoParameters):
    """The same with a longer preheat and one cut."""

    preheat_min: Positive = Field(7, description="Preheating, from charging.")
    interval_table: IntervalTable = Field(
        "astm", description="The table that recommends an interval."
    )
    min_cuts: Whole = Field(1, description="Good cuts needed.")


class CutReadings(MeltReadings):
    """One charge and its cuts, the first cut put aside not among them."""

    cuts: Cuts = Field(description="Cuts of the strand.")


GUIDE = Guide(
    **guide_texts("iso-1133-1-a"),
    count_per_direction=2,
    blank=None,
    atmosphere=None,
    bench="cuts",
    advises=advise,
    proposes=lambda _: {"cut_interval_s": 10.0},
    live=SeriesGuide("cut", "cuts", next_cut, may_end="End this charge"),
    ready_checks=READY_CHECKS,
    cautions=CAUTIONS,
    observations=(),
)


ASTM_GUIDE = replace(GUIDE, **guide_texts("astm-d1238-a"))


def analyse(readings: CutReadings, parameters: IsoParameters) -> SpecimenResult:
    """Return the mass-flow rate of one charge in g/10 min, and the interval for it (ISO 1133-1)."""
    result = begin(readings, GUIDE)
    flag_clocks(result, readings, parameters)
    good = good_cuts(result, readings.cuts, parameters.min_cuts)
    if not good:
        result.lacks("mfr", "g/10 min")
        result.lacks("recommended_interval", "s")
        return result
    spread = spread_of([cut.mass_g for cut in good])
    if above(spread, parameters.max_spread):
        result.flag("spread-too-wide", "void", percent=100 * spread)
    lengths = [cut.length_mm for cut in good if cut.length_mm is not None]
    if lengths and above(SHORTEST_CUT_MM, min(lengths)):
        result.flag("cut-too-short", "warn", length_mm=min(lengths))
    flow = give_mfr_by_mass(result, "mfr", good, parameters.cut_interval_s)
    give_interval(result, flow, parameters)
    flag_charge(result, readings, flow, parameters.interval_table)
    give_interval_for_15_mm(result, good, parameters.cut_interval_s)
    return result


def give_interval(result: SpecimenResult, flow: float, parameters: IsoParameters) -> None:
    """The interval that the table asks for at this flow."""
    interval_s = interval_for(flow, parameters.interval_table)
    if interval_s is None:
        result.lacks("recommended_interval", "s")
        result.flag("flow-below-table", "note", flow=flow, table=parameters.interval_table)
        return
    result.give(
        "recommended_interval",
        interval_s,
        "s",
        f"interval for this flow in the table {parameters.interval_table}",
        "table",
        f"{in_numbers(flow)} g/10 min",
    )
    if interval_s != parameters.cut_interval_s:
        result.flag(
            "interval-not-for-this-flow",
            "warn",
            cut_interval_s=parameters.cut_interval_s,
            flow=flow,
            interval_s=interval_s,
        )


def give_interval_for_15_mm(result: SpecimenResult, good: list[Cut], cut_interval_s: float) -> None:
    """The interval that gives cuts of 15 mm, when every good cut has a length."""
    lengths = [cut.length_mm for cut in good if cut.length_mm is not None]
    if len(lengths) != len(good):
        return
    mean_mm = float(np.mean(lengths))
    result.give(
        "interval_for_15_mm",
        cut_interval_s * BEST_CUT_MM / mean_mm,
        "s",
        "interval that gives cuts of 15 mm",
        "interval · 15 / mean length",
        f"{in_numbers(cut_interval_s)} · 15 / {in_numbers(mean_mm)}",
    )


def _method(method_id: str, title: str, parameters: Any, guide: Guide) -> Method:
    return Method(
        id=method_id,
        title=title,
        family="Melt flow",
        properties=(
            Property("mfr", "Melt mass-flow rate", "g/10 min", significant=3, most_decimals=2),
            Property("recommended_interval", "Interval for this flow", "s", summed=False),
            Property("interval_for_15_mm", "Interval for 15 mm", "s", decimals=1, summed=False),
        ),
        parameters=parameters,
        readings=CutReadings,
        guide=guide,
        analyse=analyse,
        review=review_count,
    )


METHODS = {
    "iso-1133-1-a": _method(
        "iso-1133-1-a", "Melt mass-flow rate, cut and weigh (ISO 1133-1)", IsoParameters, GUIDE
    ),
    "astm-d1238-a": _method(
        "astm-d1238-a", "Melt mass-flow rate, cut and weigh (D1238)", AstmParameters, ASTM_GUIDE
    ),
}
