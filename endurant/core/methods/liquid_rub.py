"""Rub with a felt that is wetted with a named liquid."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from pydantic import Field

from endurant.core.fields import Name, Positive, Whole
from endurant.core.methods.checks import begin, review_count
from endurant.core.methods.guide import (
    Blank,
    Go,
    Guide,
    ReadyCheck,
    SeriesGuide,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.looking import (
    Grades,
    cycles_done,
    give_grade,
    next_grade,
)
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import Parameters
from endurant.core.methods.properties import Property
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import SpecimenResult
from endurant.core.methods.safety import LOCAL, SOLVENTS


class LiquidParameters(Parameters):
    """Parameters of the rub with a liquid."""

    liquid: Name = Field(description="What the felt is wetted with.")
    cycles: Whole = Field(description="Strokes to and fro.")
    force_n: Positive = Field(description="Force of the felt.")


class LiquidReadings(Readings):
    """The grades of one rub."""

    change_grades: Grades = Field(description="Change of the surface, one for each assessor.")
    stain_grades: Grades = Field(description="Colour on the felt, one for each assessor.")


CYCLE_S = 1.0


def cycles_of(parameters: Mapping[str, Any]) -> Go:
    """Return the cycles to and fro, one a second."""
    cycles = int(parameters.get("cycles") or 1)
    return Go(
        title=f"Rub {cycles} cycles with the wetted felt",
        why="Keep the felt wet through the shaft while it rubs.",
        button="Start rubbing",
        seconds=cycles * CYCLE_S,
        counts=float(cycles),
        caution="Solvents: extractor on, gloves, no flame.",
    )


GUIDE = Guide(
    **guide_texts("liquid-rub"),
    count_per_direction=2,
    blank=Blank(outline="rectangle", long_mm=150, short_mm=50, works_on="rubbed along {yarns}"),
    atmosphere="plastics-23-50",
    bench="grades",
    wears=("felt",),
    worn=cycles_done,
    worn_unit="strokes",
    live=SeriesGuide(
        "change",
        "change_grades",
        next_grade("grade", "Change of the surface"),
        plain="grade",
        blind=True,
        first=cycles_of,
        then=SeriesGuide(
            "stain",
            "stain_grades",
            next_grade("grade", "Colour on the felt"),
            plain="grade",
            blind=True,
        ),
    ),
    ready_checks=(
        ReadyCheck(
            "liquid", "Liquid: {liquid}, fresh", "another or a spent liquid changes the grade"
        ),
        ReadyCheck(
            "felt",
            "Fresh felt, wetted through the shaft, under {force_n} N",
            "a dry felt polishes",
        ),
        ReadyCheck("vented", "Extractor on, no flame", "vapours burn and harm", hold=True),
    ),
    cautions=(SOLVENTS, LOCAL),
    observations=(),
)


def analyse(readings: LiquidReadings, _parameters: LiquidParameters) -> SpecimenResult:
    """Return the grades of the specimen and of the cloth after one rub with a liquid."""
    result = begin(readings, GUIDE)
    give_grade(result, "change_grade", readings.change_grades, " on the surface")
    give_grade(result, "stain_grade", readings.stain_grades, " on the felt")
    return result


METHOD = Method(
    id="liquid-rub",
    title="Rub with a liquid",
    family="Surface",
    directions=(),
    label_prefixes={},
    properties=(
        Property("change_grade", "Change of the surface", "grade", "median", grade=True),
        Property("stain_grade", "Staining of the felt", "grade", "median", grade=True),
    ),
    parameters=LiquidParameters,
    readings=LiquidReadings,
    guide=GUIDE,
    analyse=analyse,
    review=review_count,
)
METHODS = {METHOD.id: METHOD}
