"""Fabric wear to breakdown on a rubbing table."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field

from endurant.core.complaints import complaint
from endurant.core.fields import Positive, Whole
from endurant.core.methods.checks import begin, review_count
from endurant.core.methods.guide import (
    Blank,
    Guide,
    ReadyCheck,
    SeriesGuide,
    Turn,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.looking import Inspections, endpoint_of, next_look, rubs_done
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import Parameters, requested
from endurant.core.methods.properties import Property
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import SpecimenResult
from endurant.core.methods.safety import BLADES, LOCAL

INTERVALS = ((2_000, 200), (5_000, 1_000), (20_000, 2_000), (40_000, 5_000))
LONGEST_INTERVAL = 10_000


def _table_pressure(given: float) -> float:
    """The table has two pressures, by its weights."""
    if given not in (9, 12):
        raise complaint("abrasion.pressure", given=given)
    return given


TablePressure = Annotated[Positive, AfterValidator(_table_pressure)]


class EnduranceParameters(Parameters):
    """Parameters of fabric wear."""

    specimens_wanted: int = requested(4)
    pressure_kpa: TablePressure = Field(description="9 kPa for clothing, 12 kPa for furniture.")
    expected_rubs: Whole | None = Field(None, description="Life expected, which sets the looks.")
    endpoint: Literal["two-threads", "one-thread", "pile-off"] = Field(
        "two-threads", description="Breakdown: two threads (woven), one (knit), or pile worn off."
    )


class EnduranceReadings(Readings):
    """The looks at one specimen."""

    inspections: Inspections = Field(description="Looks, in order; acceptable: no breakdown yet.")


def next_rubs(parameters: Mapping[str, Any], looks: Sequence[Any]) -> Turn | None:
    """Return at intervals for the life that is expected, or for the one reached so far."""
    last = looks[-1]["count"] if looks else 0
    due = last + interval_for(parameters.get("expected_rubs") or last + 1)
    return next_look(looks, due, "no breakdown", "breakdown")


GUIDE = Guide(
    **guide_texts("iso-12947-2"),
    count_per_direction=4,
    blank=Blank(
        outline="disc",
        long_mm=38,
        short_mm=38,
        works_on="rubbed in all ways",
        selvedge_margin_mm=50,
        stagger="both",
        die_cut=True,
    ),
    atmosphere="textile-20-65",
    bench="looks",
    wears=("wool abradant", "felt"),
    worn=rubs_done,
    worn_unit="rubs",
    live=SeriesGuide("look", "inspections", next_rubs, may_end="End the test here"),
    ready_checks=(
        ReadyCheck(
            "pressure",
            "Loading piece for {pressure_kpa} kPa fitted",
            "the life depends on it",
            set_up=True,
        ),
        ReadyCheck(
            "abradant", "Fresh wool cloth, flat on its felt", "a worn cloth gives a longer life"
        ),
    ),
    cautions=("Turning holders pinch: hands off while it runs.", BLADES, LOCAL),
    observations=(),
)


def interval_for(expected_rubs: int) -> int:
    """Return the inspection interval in rubs for an expected life in rubs (ISO 12947-2)."""
    for upper, interval in INTERVALS:
        if expected_rubs <= upper:
            return interval
    return LONGEST_INTERVAL


def analyse(readings: EnduranceReadings, parameters: EnduranceParameters) -> SpecimenResult:
    """Return the endurance of one specimen in rubs (ISO 12947-2).

    Raises Invalid for inspections that contradict each other.
    """
    result = begin(readings, GUIDE)
    endpoint = endpoint_of(readings, readings.inspections)
    is_whole = endpoint.first_failed is None
    result.give(
        "endurance",
        endpoint.last_acceptable,
        "rubs",
        "stopped without a breakdown" if is_whole else "last look without a breakdown",
        "last count acceptable",
        "never broken" if is_whole else f"broken at {endpoint.first_failed}",
        ">" if is_whole else None,
    )
    if endpoint.last_acceptable == 0:
        result.flag("broke-before-first-look", "warn", first_failed=endpoint.first_failed)
    if parameters.expected_rubs is not None:
        interval = interval_for(parameters.expected_rubs)
        before = 0
        for look in readings.inspections:
            if endpoint.first_failed is not None and look.count > endpoint.first_failed:
                break
            if look.count - before > interval:
                result.flag(
                    "looks-too-far-apart",
                    "warn",
                    count=look.count - before,
                    before=before,
                    after=look.count,
                    interval=interval,
                    expected_rubs=parameters.expected_rubs,
                )
                break
            before = look.count
    return result


METHOD = Method(
    id="iso-12947-2",
    title="Fabric wear to breakdown",
    family="Surface",
    directions=(),
    label_prefixes={},
    properties=(Property("endurance", "Endurance", "rubs", decimals=0),),
    parameters=EnduranceParameters,
    readings=EnduranceReadings,
    guide=GUIDE,
    analyse=analyse,
    review=review_count,
)
METHODS = {METHOD.id: METHOD}
