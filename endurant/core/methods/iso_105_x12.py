"""Colour rub: how much colour a white cloth takes off, dry and wet."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from pydantic import Field

from endurant.core.fields import Positive, Whole
from endurant.core.methods.checks import begin, review_count
from endurant.core.methods.guide import (
    Ask,
    Blank,
    Go,
    Guide,
    InnerMark,
    ReadyCheck,
    SeriesGuide,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.looking import (
    Grades,
    give_grade,
    next_grade,
)
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import Parameters
from endurant.core.methods.properties import Property
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import SpecimenResult
from endurant.core.methods.safety import BLADES, LOCAL
from endurant.core.quantities import above
from endurant.core.rounding import in_numbers

MIN_TAKE_UP, MAX_TAKE_UP = 95, 100
STATES = ("original", "dry", "wet")


class RubParameters(Parameters):
    """Parameters of the colour rub."""

    rub: Literal["dry", "wet", "both"] = Field(
        "both", description="Rubbed dry or wet; both are two tests on separate specimens."
    )
    force_n: Positive = Field(9, description="Force of the finger.")
    strokes: Whole = Field(10, description="Strokes to and fro, in 10 s.")


class RubReadings(Readings):
    """The grades of one rub, and the masses of a wet cloth."""

    grades: Grades = Field(description="One grade for each assessor: 3-4 or 3.5.")
    cloth_dry_g: Positive | None = Field(None, description="Mass of the dry rubbing cloth.")
    cloth_wet_g: Positive | None = Field(None, description="Mass of the wetted rubbing cloth.")


STROKE_S = 1.0
"""Time of a stroke to and fro."""


def strokes_of(parameters: Mapping[str, Any]) -> Go:
    """Return the strokes to and fro, one a second."""
    strokes = int(parameters.get("strokes") or 10)
    return Go(
        title=f"Rub {strokes} strokes to and fro in {strokes * STROKE_S:g} s",
        why="Strip and cloth fixed, the finger lowered.",
        button="Start rubbing",
        seconds=strokes * STROKE_S,
        counts=float(strokes),
        caution="The finger moves under power: keep hands off.",
    )


GUIDE = Guide(
    **guide_texts("iso-105-x12"),
    count_per_direction=1,
    blank=Blank(
        outline="rectangle",
        long_mm=140,
        short_mm=50,
        inner_marks=(InnerMark("track", ((0, -52), (0, 52))),),
        works_on="rubbed along {yarns}",
        selvedge_margin_mm=50,
    ),
    atmosphere="textile-20-65",
    bench="grades",
    given={"state": "rub"},
    splits={"rub": ("dry", "wet")},
    wears=("rubbing cloth",),
    live=SeriesGuide(
        "grade",
        "grades",
        next_grade("grade", "Staining"),
        plain="grade",
        blind=True,
        first=strokes_of,
    ),
    ready_checks=(
        ReadyCheck(
            "force", "{force_n} N on a finger of 16 mm", "the grade depends on it", set_up=True
        ),
        ReadyCheck(
            "take-up",
            "Wet rubbing cloth weighed: 95 to 100 % take-up",
            "a dripping cloth stains more, a dry one less",
            asks=(
                Ask("cloth_dry_g", "cloth, dry", "g", gauge="balance", low=0.01),
                Ask("cloth_wet_g", "cloth, wet", "g", gauge="balance", low=0.01),
            ),
            when=lambda aims: aims.get("rub") == "wet",
        ),
        ReadyCheck(
            "cloth-dry",
            "Rubbing cloth dry and conditioned",
            "a damp cloth takes off more colour",
            when=lambda aims: aims.get("rub") != "wet",
        ),
        ReadyCheck(
            "light-box", "Light box on, viewing at 45°", "grades shift with the light", set_up=True
        ),
        ReadyCheck(
            "scale",
            "Grey scale for staining, clean",
            "a soiled scale gives too good a grade",
            set_up=True,
        ),
    ),
    cautions=("The rubbing finger moves under power: hands off.", BLADES, LOCAL),
    observations=(),
)


def analyse(readings: RubReadings, _parameters: RubParameters) -> SpecimenResult:
    """Return the grade of one rub, and the take-up of a wet cloth in % (ISO 105-X12).

    Raises Invalid for a grade off the scale.
    """
    if readings.state not in STATES:
        raise readings.refuse("state", "reading.rub-state", state=readings.state)
    result = begin(readings, GUIDE)
    give_grade(result, "grade", readings.grades, "")
    dry_g, wet_g = readings.cloth_dry_g, readings.cloth_wet_g
    if dry_g is not None and wet_g is not None and above(dry_g, wet_g):
        raise readings.refuse(
            "cloth_wet_g", "reading.wet-lighter-than-dry", wet_g=wet_g, dry_g=dry_g
        )
    if readings.state != "wet":
        return result
    if dry_g is None or wet_g is None:
        result.lacks("take_up", "%")
        result.flag("take-up-not-weighed", "warn")
        return result
    percent = 100 * (wet_g - dry_g) / dry_g
    result.give(
        "take_up",
        percent,
        "%",
        "water that the cloth took up",
        "100 · (wet - dry) / dry",
        f"100 · ({in_numbers(wet_g)} - {in_numbers(dry_g)}) / {in_numbers(dry_g)}",
    )
    if above(MIN_TAKE_UP, percent) or above(percent, MAX_TAKE_UP):
        result.flag("take-up-out-of-window", "warn", percent=percent)
    return result


METHOD = Method(
    id="iso-105-x12",
    title="Colour rub",
    family="Surface",
    directions=("warp", "weft"),
    label_prefixes={"warp": "W", "weft": "F"},
    properties=(
        Property("grade", "Grade of staining", "grade", "median", grade=True),
        Property("take_up", "Take-up of the wet cloth", "%", decimals=1, summed=False),
    ),
    parameters=RubParameters,
    readings=RubReadings,
    guide=GUIDE,
    analyse=analyse,
    review=review_count,
)
METHODS = {METHOD.id: METHOD}
