"""Puncture of board by a pyramid head on a pendulum."""

from __future__ import annotations

from typing import Any, ClassVar

from pydantic import Field

from endurant.core.fields import NotNegative, Positive
from endurant.core.methods.checks import begin, review_count
from endurant.core.methods.guide import Blank, Guide, ReadyCheck, SwingGuide
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import Parameters, requested
from endurant.core.methods.properties import Property
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import Results, SpecimenResult
from endurant.core.methods.safety import BLADES, LOCAL, PENDULUM
from endurant.core.methods.summary import SummaryRow, rows_with_all
from endurant.core.quantities import above
from endurant.core.rounding import in_numbers

MIN_SHARE, MAX_SHARE = 0.2, 0.8
WAYS = ("md-top", "md-bottom", "cd-top", "cd-bottom")


class BoardParameters(Parameters):
    """Parameters of the board puncture."""

    set_up: ClassVar[tuple[str, ...]] = (
        "friction_j",
        "capacity_j",
    )

    specimens_wanted: int = requested(5)
    friction_j: NotNegative = Field(description="Energy of a swing with no board, and the collar.")
    capacity_j: Positive | None = Field(None, description="Energy of the pendulum.")


class BoardReadings(Readings):
    """What the scale showed."""

    reading_j: Positive = Field(description="Reading of the scale.")


GUIDE = Guide(
    **guide_texts("iso-3036"),
    count_per_direction=5,
    blank=Blank(
        outline="rectangle", long_mm=175, short_mm=175, works_on="punctured, {yarns} to the arm"
    ),
    atmosphere="paper-23-50",
    bench="swing",
    live=SwingGuide("reading_j"),
    ready_checks=(
        ReadyCheck(
            "level",
            "Instrument level and bolted down",
            "a base that moves takes energy",
            set_up=True,
        ),
        ReadyCheck(
            "free-swing",
            "Friction of {friction_j} J read in swings with no board",
            "the friction is subtracted from every reading",
        ),
        ReadyCheck(
            "collar",
            "Friction collar pushed up to the head",
            "it keeps the hole open behind the head",
            set_up=True,
        ),
        ReadyCheck("guard", "Guard in place", "the arm swings through", hold=True),
        ReadyCheck(
            "path-clear",
            "Everyone clear of the swing",
            "a released arm does not stop for a hand",
            hold=True,
        ),
    ),
    cautions=(PENDULUM, BLADES, LOCAL),
    observations=(),
)


def analyse(readings: BoardReadings, parameters: BoardParameters) -> SpecimenResult:
    """Return the puncture energy of one specimen in J (ISO 3036).

    Raises Invalid for a reading outside the scale.
    """
    result = begin(readings, GUIDE)
    read_j, friction_j, capacity_j = (
        readings.reading_j,
        parameters.friction_j,
        parameters.capacity_j,
    )
    if not above(read_j, friction_j):
        raise readings.refuse(
            "reading_j", "reading.energy-below-friction", read_j=read_j, friction_j=friction_j
        )
    if capacity_j is not None and above(read_j, capacity_j):
        raise readings.refuse(
            "reading_j", "reading.energy-above-capacity", read_j=read_j, capacity_j=capacity_j
        )
    result.give(
        "puncture_energy",
        read_j - friction_j,
        "J",
        "reading less friction",
        "reading - friction",
        f"{in_numbers(read_j)} - {in_numbers(friction_j)}",
    )
    if capacity_j is not None and (
        above(MIN_SHARE * capacity_j, read_j) or above(read_j, MAX_SHARE * capacity_j)
    ):
        result.flag(
            "outside-range",
            "warn",
            sentence="flag.outside-range.reading-percent",
            percent=100 * read_j / capacity_j,
        )
    return result


def summarise(method: Method, results: Results, parameters: Any) -> list[SummaryRow]:
    """Return a row for each way, and one over all."""
    return rows_with_all(method, parameters, results)


METHOD = Method(
    id="iso-3036",
    title="Puncture of board",
    family="Puncture, burst, compression",
    directions=WAYS,
    also_directions=(),
    direction_required=True,
    label_prefixes={"md-top": "MT", "md-bottom": "MB", "cd-top": "CT", "cd-bottom": "CB"},
    properties=(Property("puncture_energy", "Puncture energy", "J", significant=3),),
    parameters=BoardParameters,
    readings=BoardReadings,
    guide=GUIDE,
    analyse=analyse,
    summarise=summarise,
    pools=True,
    review=review_count,
)
METHODS = {METHOD.id: METHOD}
