"""Leaks of packs under vacuum in water, and what none of so many proves."""

from __future__ import annotations

from dataclasses import replace
from math import ceil, log
from typing import Annotated, Literal

from pydantic import Field

from endurant.core.fields import Positive
from endurant.core.methods.checks import begin, review_count
from endurant.core.methods.guide import (
    Guide,
    ReadyCheck,
    StepsGuide,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import Parameters
from endurant.core.methods.properties import Property
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import Results, SpecimenResult
from endurant.core.methods.safety import LOCAL
from endurant.core.methods.summary import SummaryRow, count_row, groups_of
from endurant.core.quantities import at_least

CONFIDENCE = 0.95

Share = Annotated[float, Field(strict=True, gt=0, lt=100)]


class LeakParameters(Parameters):
    """Parameters of the jar."""

    vacuum_kpa: Positive = Field(description="Vacuum, below atmosphere.")
    dwell_s: Positive = Field(30, description="Time under vacuum.")
    target_share_percent: Share | None = Field(
        None, description="Leak share to be shown; says how many packs that needs."
    )


class LeakReadings(Readings):
    """What was seen at one pack."""

    bubbles: Literal["none", "clinging", "stream"] = Field(description="What was seen.")
    place: Literal["corner", "long-seal", "end-seal", "body"] | None = Field(
        None, description="Where a stream came from."
    )


GUIDE = Guide(
    **guide_texts("bubble-leak"),
    count_per_direction=20,
    blank=None,
    atmosphere=None,
    bench="leak",
    wears=("gasket",),
    live=StepsGuide(),
    ready_checks=(
        ReadyCheck("jar", "Jar and lid whole, seal clean", "a cracked jar implodes", hold=True),
        ReadyCheck(
            "gauge", "Vacuum gauge reads 0 kPa with the jar open", "the vacuum decides", set_up=True
        ),
        ReadyCheck("still", "Water still and clear, pack under the grid", "stray air misleads"),
    ),
    cautions=(
        "Vacuum in a jar: shield in place, eye protection on; let air in before opening.",
        LOCAL,
    ),
    observations=(),
)


def analyse(readings: LeakReadings, _parameters: LeakParameters) -> SpecimenResult:
    """Return whether one pack leaked; raises Invalid when place and stream do not agree."""
    result = begin(readings, GUIDE)
    stream = readings.bubbles == "stream"
    if stream and readings.place is None:
        raise readings.refuse("place", "reading.leak-place-missing")
    if not stream and readings.place is not None:
        raise readings.refuse("place", "reading.leak-place-given", bubbles=readings.bubbles)
    text = f"a steady stream from the {readings.place}" if stream else "no steady stream"
    result.give(
        "leaked", int(stream), "", text.replace("-", " "), "stream = leak", readings.bubbles
    )
    return result


def packs_needed(share_percent: float) -> int:
    """Return how many tight packs show, with 95 % confidence, a share below this in %."""
    keep = 1 - share_percent / 100
    needed = max(ceil(log(1 - CONFIDENCE) / log(keep)), 1)
    while needed > 1 and at_least(1 - CONFIDENCE, keep ** (needed - 1)):
        needed -= 1
    return needed


def summarise(method: Method, results: Results, parameters: LeakParameters) -> list[SummaryRow]:
    """Return the number of leaking packs in each group, with the limit of the share."""
    rows = [count_row(method.properties[0], group, limit=True) for group in groups_of(results)]
    summary = [row for row in rows if row is not None]
    if parameters.target_share_percent is None:
        return summary
    facts = {"packs_needed": packs_needed(parameters.target_share_percent)}
    return [replace(row, facts=row.facts | facts) for row in summary]


METHOD = Method(
    id="bubble-leak",
    title="Leak under vacuum",
    family="Packaging",
    properties=(Property("leaked", "Leaking packs", "", "count"),),
    parameters=LeakParameters,
    readings=LeakReadings,
    guide=GUIDE,
    analyse=analyse,
    summarise=summarise,
    review=review_count,
)
METHODS = {METHOD.id: METHOD}
