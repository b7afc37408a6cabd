"""Print scuff: how many rubs a print stands."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from pydantic import Field

from endurant.core.fields import Positive, Whole
from endurant.core.methods.checks import begin, review_count
from endurant.core.methods.guide import (
    Blank,
    Demand,
    Guide,
    ReadyCheck,
    SeriesGuide,
    Turn,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.looking import (
    Endpoint,
    Inspections,
    endpoint_of,
    give_endpoint,
    next_look,
    rubs_done,
)
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import Parameters
from endurant.core.methods.properties import Property
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import SpecimenResult
from endurant.core.methods.safety import BLADES, LOCAL


class ScuffParameters(Parameters):
    """Parameters of print scuff."""

    weight_n: Positive = Field(description="Weight that presses the discs together.")
    interval: Whole = Field(50, description="Rubs between looks.")
    preset_count: Whole | None = Field(None, description="Count at which it passes or fails.")


class ScuffReadings(Readings):
    """The looks at one pair of discs."""

    inspections: Inspections = Field(description="Looks, in order.")


def next_rubs(parameters: Mapping[str, Any], looks: Sequence[Any]) -> Turn | None:
    """Return every interval, up to the first that is not acceptable or the preset count."""
    last = looks[-1]["count"] if looks else 0
    due = last + int(parameters["interval"])
    return next_look(looks, due, "acceptable", "not acceptable", parameters.get("preset_count"))


GUIDE = Guide(
    **guide_texts("scuff"),
    count_per_direction=3,
    blank=Blank(outline="disc", long_mm=115, short_mm=115, works_on="rubbed, print against print"),
    atmosphere="paper-23-50",
    bench="looks",
    demand=lambda _: Demand(
        pieces=2, piece="disc", text="2 discs for one result, print against print"
    ),
    wears=("scuff felt",),
    worn=rubs_done,
    worn_unit="rubs",
    live=SeriesGuide("look", "inspections", next_rubs, may_end="End the test here"),
    ready_checks=(
        ReadyCheck(
            "weight", "Weight of {weight_n} N fitted", "more weight is harsher", set_up=True
        ),
        ReadyCheck("flat", "Discs flat, held with double-sided tape", "a fold scuffs first"),
        ReadyCheck("light", "Light box on", "a scuff shows only in even light", set_up=True),
    ),
    cautions=("The turning holder pinches: hands off while it runs.", BLADES, LOCAL),
    observations=(),
)


def analyse(readings: ScuffReadings, parameters: ScuffParameters) -> SpecimenResult:
    """Return the end point of one pair of discs in rubs.

    Raises Invalid for inspections that contradict each other.
    """
    result = begin(readings, GUIDE)
    endpoint = endpoint_of(readings, readings.inspections)
    give_endpoint(result, endpoint)
    if parameters.preset_count is not None:
        flag_preset(result, endpoint, parameters.preset_count)
    return result


def flag_preset(result: SpecimenResult, endpoint: Endpoint, preset: int) -> None:
    """Passed, failed, or open at the preset count."""
    if endpoint.last_acceptable >= preset:
        result.flag("preset-passed", "note", last_acceptable=endpoint.last_acceptable)
    elif endpoint.first_failed is not None and endpoint.first_failed <= preset:
        result.flag("preset-failed", "note", first_failed=endpoint.first_failed)
    else:
        failed = endpoint.first_failed
        result.flag(
            "preset-open",
            "warn",
            sentence="flag.preset-open" if failed is None else "flag.preset-open.between",
            preset=preset,
            last_acceptable=endpoint.last_acceptable,
            first_failed=failed,
        )


ENDPOINT_PROPERTIES = (
    Property("endpoint_count", "First count not acceptable", "rubs", decimals=0),
    Property("last_acceptable", "Last count acceptable", "rubs", decimals=0),
)

METHOD = Method(
    id="scuff",
    title="Print scuff",
    family="Surface",
    directions=(),
    label_prefixes={},
    properties=ENDPOINT_PROPERTIES,
    parameters=ScuffParameters,
    readings=ScuffReadings,
    guide=GUIDE,
    analyse=analyse,
    review=review_count,
)
METHODS = {METHOD.id: METHOD}
