"""Box compression, and how high such boxes may be stacked."""

from __future__ import annotations

from math import floor
from typing import Any

import numpy as np
from pydantic import Field, field_validator

from endurant.core.complaints import complaint
from endurant.core.curve import first_reach
from endurant.core.fields import NotNegative, Positive, Whole
from endurant.core.methods.checks import begin, review_count
from endurant.core.methods.guide import FrameGuide, Guide, ReadyCheck
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import Parameters, requested
from endurant.core.methods.properties import Property
from endurant.core.methods.pulling import pull_speed_flags
from endurant.core.methods.readings import TraceReadings
from endurant.core.methods.results import Mark, Results, SpecimenResult
from endurant.core.methods.safety import LOCAL, PLATENS_CLEAR, frame_checks
from endurant.core.quantities import SAME_WITHIN
from endurant.core.rounding import in_numbers

GRAVITY = 9.81
STACK_FACTORS = {
    "time-30-days": 1.6,
    "time-90-days": 1.8,
    "humidity-75": 1.3,
    "humidity-85": 1.8,
    "interlocked": 1.7,
    "overhang-25-mm": 1.3,
}
"""The factors that a lab may pick from, each with its default."""


class BoxParameters(Parameters):
    """Parameters of box compression and of the stack."""

    specimens_wanted: int = requested(5)
    preload_n: NotNegative = Field(
        220, description="Force from which deflection counts: 220 single wall, 445 double wall."
    )
    speed_mm_min: Positive = Field(10, description="Speed of the platen in mm per minute.")
    boxes_above: Whole | None = Field(None, description="Boxes that stand on the lowest one.")
    gross_mass_kg: Positive | None = Field(None, description="Mass of one full box.")
    stack_factors: dict[str, Positive | None] = Field(
        default={},
        max_length=50,
        description="Safety factors by name, multiplied; null takes the default of a known name.",
    )

    @field_validator("stack_factors")
    @classmethod
    def _known_or_given(cls, factors: dict[str, float | None]) -> dict[str, float | None]:
        for name, factor in factors.items():
            if factor is None and name not in STACK_FACTORS:
                raise complaint("stack.factor-unknown", name=name, known=list(STACK_FACTORS))
        return factors

    def factor(self) -> float:
        """Return all factors multiplied."""
        product = 1.0
        for name, factor in self.stack_factors.items():
            product *= STACK_FACTORS[name] if factor is None else factor
        return product


GUIDE = Guide(
    **guide_texts("iso-12048"),
    count_per_direction=5,
    blank=None,
    atmosphere="paper-23-50",
    bench="trace",
    live=FrameGuide(
        travel_mm=40, until="travel", usual_speed_mm_min=10, usual_max_n=5000, holder="platens"
    ),
    ready_checks=frame_checks(
        ReadyCheck(
            "platens-clear", "Platens clear of the box", "a platen that touches has used up travel"
        ),
        ReadyCheck(
            "flat", "Box square, flaps closed as shipped", "a rocking box folds at a corner"
        ),
        ReadyCheck("centred", "Box in the middle of the platen", "an edge carries first"),
        ReadyCheck(
            "preload",
            "Preload set to {preload_n} N: 220 N for single wall, 445 N for double wall",
            "the run passes it after the zero; deflection counts from there, and it stays in the "
            "reading",
            set_up=True,
        ),
        because="the box is loaded from the start position",
        clear=PLATENS_CLEAR,
        platens=True,
    ),
    cautions=("Platens crush: hands clear of the platens.", LOCAL),
    observations=(),
)


def analyse(readings: TraceReadings, parameters: BoxParameters) -> SpecimenResult:
    """Return the maximum force of one box in N and its deflection there in mm (ISO 12048)."""
    result = begin(readings, GUIDE)
    x, force_n = readings.trace.extension_mm, readings.trace.force_n
    top = int(np.argmax(force_n))
    if not force_n[top] > 0:
        result.lacks("max_force", "N")
        result.lacks("deflection_at_max", "mm")
        result.flag("no-force", "void")
        return result
    result.flags += pull_speed_flags(readings.trace, parameters.speed_mm_min)
    result.give("max_force", force_n[top], "N", "highest force of the trace", "max F", "trace")
    start = first_reach(force_n, parameters.preload_n)
    result.marks.append(Mark("points", "highest force", ((float(x[top]), float(force_n[top])),)))
    if start is None:
        result.lacks("deflection_at_max", "mm")
        result.flag("preload-not-reached", "warn", preload_n=parameters.preload_n)
        return result
    start_mm = start.of(x)
    result.give(
        "deflection_at_max",
        float(x[top]) - start_mm,
        "mm",
        f"travel from {in_numbers(parameters.preload_n)} N to the highest force",
        "x_max - x_preload",
        f"{in_numbers(float(x[top]))} - {in_numbers(start_mm)}",
    )
    result.marks.append(Mark("points", "preload", ((start_mm, start.of(force_n)),)))
    return result


def stacking(results: Results, parameters: BoxParameters) -> dict[str, Any]:
    """Return factor, required force in N, margin and safe layers of a stack."""
    if parameters.boxes_above is None or parameters.gross_mass_kg is None:
        return {}
    factor = parameters.factor()
    one_box_n = parameters.gross_mass_kg * GRAVITY * factor
    required_n = parameters.boxes_above * one_box_n
    forces = [result.figure("max_force") for result in results if result.enters]
    figures = [force for force in forces if force is not None]
    mean_n = float(np.mean(figures)) if figures else None
    carried = None if mean_n is None else floor(mean_n / one_box_n * (1 + SAME_WITHIN))
    return {
        "stacking": {
            "factor": factor,
            "required_n": required_n,
            "margin": None if mean_n is None else mean_n / required_n,
            "safe_layers": None if carried is None else 1 + carried,
        }
    }


METHOD = Method(
    id="iso-12048",
    title="Box compression",
    family="Puncture, burst, compression",
    directions=(),
    label_prefixes={},
    properties=(
        Property("max_force", "Maximum force", "N", significant=3),
        Property("deflection_at_max", "Deflection at maximum force", "mm", decimals=1),
    ),
    parameters=BoxParameters,
    readings=TraceReadings,
    guide=GUIDE,
    analyse=analyse,
    more=stacking,
    review=review_count,
)
METHODS = {METHOD.id: METHOD}
