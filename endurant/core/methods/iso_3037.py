"""Edge crush of corrugated board, and a first guess at the box made of it."""

from __future__ import annotations

from math import sqrt

import numpy as np
from pydantic import Field

from endurant.core.fields import Positive
from endurant.core.methods.checks import begin, review_count
from endurant.core.methods.guide import Blank, FrameGuide, Guide, Measure, Observation, ReadyCheck
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import Parameters, requested
from endurant.core.methods.properties import Property
from endurant.core.methods.pulling import pull_speed_flags
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import Mark, SpecimenResult
from endurant.core.methods.safety import BLADES, LOCAL, PLATENS_CLEAR, frame_checks
from endurant.core.recordings import ForceTrace
from endurant.core.rounding import in_numbers

LENGTH_MM = 100.0
BOX_FACTOR = 5.87


class EdgeParameters(Parameters):
    """Parameters of edge crush."""

    specimens_wanted: int = requested(10)
    speed_mm_min: Positive = Field(12.5, description="Speed of the platen in mm per minute.")
    board_thickness_mm: Positive | None = Field(None, description="Thickness of the board.")
    box_perimeter_mm: Positive | None = Field(None, description="Perimeter of the box.")


class EdgeReadings(Readings):
    """One crushed piece: its trace, or its highest force."""

    trace: ForceTrace | None = Field(None, description="Force over travel of the platen.")
    max_force_n: Positive | None = Field(None, description="Highest force.")


GUIDE = Guide(
    **guide_texts("iso-3037"),
    count_per_direction=10,
    blank=Blank(outline="rectangle", long_mm=100, short_mm=25, works_on="crushed along the flutes"),
    atmosphere="paper-23-50",
    bench="trace",
    live=FrameGuide(
        travel_mm=8, until="travel", usual_speed_mm_min=12.5, usual_max_n=800, holder="platens"
    ),
    measures=(Measure("length_mm", 1, nominal_mm=100),),
    ready_checks=frame_checks(
        ReadyCheck(
            "blocks",
            "Guide blocks at hand, platens parallel",
            "a platen that leans crushes one edge first",
        ),
        ReadyCheck("edges", "Edges cut square with a fresh blade", "a bad cut decides the result"),
        ReadyCheck("flutes", "Flutes upright", "lying flutes carry nothing"),
        because="the piece is loaded from the start position",
        clear=PLATENS_CLEAR,
        platens=True,
    ),
    cautions=("Platens crush: hands clear of the platens.", BLADES, LOCAL),
    observations=(
        Observation(
            "edge-not-parallel", "Edges not parallel", "void", "its edges are not parallel"
        ),
    ),
)


def analyse(readings: EdgeReadings, parameters: EdgeParameters) -> SpecimenResult:
    """Return the edge crush resistance of one piece in kN/m (ISO 3037).

    Raises Invalid when there is no reading.
    """
    result = begin(readings, GUIDE)
    dimensions = readings.dimensions
    lengths = dimensions.length_mm if dimensions is not None else None
    length_mm = float(np.mean(lengths)) if lengths else LENGTH_MM
    predicts = parameters.board_thickness_mm is not None and parameters.box_perimeter_mm is not None
    if readings.trace is not None:
        x, force = readings.trace.extension_mm, readings.trace.force_n
        top = int(np.argmax(force))
        force_n = float(force[top])
        if not force_n > 0:
            result.lacks("ect", "kN/m")
            if predicts:
                result.lacks("predicted_bct", "N")
            result.flag("no-force", "void")
            return result
        result.flags += pull_speed_flags(readings.trace, parameters.speed_mm_min)
        result.marks.append(Mark("points", "highest force", ((float(x[top]), force_n),)))
    elif readings.max_force_n is not None:
        force_n = readings.max_force_n
    else:
        raise readings.refuse("max_force_n", "reading.force-missing")
    ect = force_n / length_mm
    result.give(
        "ect",
        ect,
        "kN/m",
        "highest force for the length of the edge",
        "F_max / length",
        f"{in_numbers(force_n)} / {in_numbers(length_mm)}",
    )
    if parameters.board_thickness_mm is not None and parameters.box_perimeter_mm is not None:
        thick_m, round_m = parameters.board_thickness_mm / 1000, parameters.box_perimeter_mm / 1000
        result.give(
            "predicted_bct",
            BOX_FACTOR * ect * 1000 * sqrt(thick_m * round_m),
            "N",
            "a first guess at the box, not a measurement",
            "5.87 · ect · √(thickness · perimeter)",
            f"5.87 · {in_numbers(1000 * ect)} · √({in_numbers(thick_m)} · {in_numbers(round_m)})",
        )
    return result


METHOD = Method(
    id="iso-3037",
    title="Edge crush of board",
    family="Puncture, burst, compression",
    directions=(),
    label_prefixes={},
    properties=(
        Property("ect", "Edge crush", "kN/m", significant=3),
        Property("predicted_bct", "Predicted box compression (a guess)", "N", significant=3),
    ),
    parameters=EdgeParameters,
    readings=EdgeReadings,
    guide=GUIDE,
    analyse=analyse,
    review=review_count,
)
METHODS = {METHOD.id: METHOD}
