"""Scratch threshold: the least force that leaves a trace that can be seen."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import floor
from typing import Annotated, Any, ClassVar

from pydantic import Field

from endurant.core.fields import Name, NotNegative, Positive, Strict
from endurant.core.methods.checks import begin, review_count
from endurant.core.methods.guide import (
    Guide,
    ReadyCheck,
    SeriesGuide,
    Turn,
    yes_or_no,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import Parameters
from endurant.core.methods.properties import Property
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import SpecimenResult
from endurant.core.methods.safety import LOCAL
from endurant.core.quantities import SAME_WITHIN, above
from endurant.core.rounding import in_numbers


class ScratchParameters(Parameters):
    """Parameters of the scratch rig."""

    set_up: ClassVar[tuple[str, ...]] = (
        "max_force_n",
        "step_n",
        "tip",
        "speed_mm_s",
    )

    tip: Name | None = Field(
        None, description="The tip by name, as a 1 mm ball; another tip does not compare."
    )
    speed_mm_s: Positive | None = Field(
        None, description="Speed of the tip; another speed does not compare."
    )
    step_n: Positive = Field(0.5, description="Step of the force.")
    max_force_n: Positive = Field(40, description="Largest force of the rig.")


class Scratch(Strict):
    """One trace drawn over the surface."""

    force_n: NotNegative
    visible: bool = Field(strict=True)


class ScratchReadings(Readings):
    """The traces on one plate, in any order."""

    traces: Annotated[list[Scratch], Field(min_length=1, max_length=1000)] = Field(
        description="Force of each trace, and whether it can be seen."
    )


def next_trace(parameters: Mapping[str, Any], traces: Sequence[Any]) -> Turn | None:
    """Return the largest force first, then by halving; None once both sides lie a step apart."""
    settings = ScratchParameters.model_validate(dict(parameters))
    force_n, text = settings.max_force_n, "The largest force first, then by halving."
    if traces:
        drawn = [Scratch.model_validate(trace) for trace in traces]
        result = analyse(ScratchReadings(label="S", traces=drawn), settings)
        lower = min((trace.force_n for trace in drawn if trace.visible), default=None)
        if lower is None:
            return None
        next_n = result.figure("next_force")
        if result.figure("no_trace_force") is None:
            next_n = max(round(lower / 2 / settings.step_n), 1) * settings.step_n
            next_n = None if next_n >= lower else next_n
        if next_n is None:
            return None
        force_n = next_n
        text = f"Visible down to {in_numbers(lower)} N so far."
    return Turn(
        title=f"Draw a trace at {in_numbers(force_n)} N",
        why=f"{text} Draw it beside the others, with the arm level.",
        button="Record trace",
        asks=(yes_or_no("visible", "The trace", "not visible", "visible"),),
        sets={"force_n": force_n},
    )


GUIDE = Guide(
    **guide_texts("scratch"),
    count_per_direction=3,
    blank=None,
    atmosphere="plastics-23-50",
    bench="looks",
    forms=("pieces",),
    wears=("tip",),
    needs=lambda _: ("tip", "speed_mm_s"),
    proposes=lambda _: {"speed_mm_s": 10.0},
    live=SeriesGuide("trace", "traces", next_trace, may_end="End the test here"),
    ready_checks=(
        ReadyCheck(
            "arm-level", "Load arm level", "an arm aslant presses with another force", set_up=True
        ),
        ReadyCheck(
            "tip",
            "Tip {tip} fitted, clean and whole under a lens",
            "a chipped tip ploughs",
            set_up=True,
        ),
        ReadyCheck(
            "light",
            "Light on, viewing angle as for the other plates",
            "a trace shows at one angle only",
            set_up=True,
        ),
    ),
    cautions=("The tip is sharp and driven: fingers away while it moves.", LOCAL),
    observations=(),
)


def analyse(readings: ScratchReadings, parameters: ScratchParameters) -> SpecimenResult:
    """Return the threshold force of one plate in N.

    Raises Invalid for a force that is off the steps or too large.
    """
    result = begin(readings, GUIDE)
    seen: dict[float, set[bool]] = {}
    for trace in readings.traces:
        steps = trace.force_n / parameters.step_n
        if abs(steps - round(steps)) > 1000 * SAME_WITHIN:
            raise readings.refuse(
                "force_n", "reading.scratch-step", force_n=trace.force_n, step_n=parameters.step_n
            )
        if above(trace.force_n, parameters.max_force_n):
            raise readings.refuse(
                "force_n",
                "reading.scratch-force-too-high",
                force_n=trace.force_n,
                max_force_n=parameters.max_force_n,
            )
        seen.setdefault(round(steps) * parameters.step_n, set()).add(trace.visible)
    visible = {force: True in answers for force, answers in sorted(seen.items())}
    give_threshold(result, visible, parameters)
    if not_monotonic(list(visible.values())):
        result.flag("not-monotonic", "warn")
    torn = [in_numbers(force) for force, answers in sorted(seen.items()) if len(answers) > 1]
    if torn:
        result.flag("traces-disagree", "warn", forces=list(torn))
    return result


def not_monotonic(visible: Sequence[bool]) -> bool:
    """By rising force, a trace that can be seen stands before one that cannot."""
    first = next((place for place, seen in enumerate(visible) if seen), len(visible))
    return not all(visible[first:])


def give_threshold(
    result: SpecimenResult, visible: Mapping[float, bool], parameters: ScratchParameters
) -> None:
    """Threshold, the force below it without a trace, and the next force to try."""
    forces = list(visible)
    threshold = None
    for force in reversed(forces):
        if not visible[force]:
            break
        threshold = force
    drawn = f"{len(forces)} forces from {in_numbers(forces[0])} to {in_numbers(forces[-1])} N"
    if threshold is None:
        result.give(
            "threshold_force",
            forces[-1],
            "N",
            "no trace at the largest force",
            "F > max",
            drawn,
            ">",
        )
        result.give("no_trace_force", forces[-1], "N", "largest force drawn", "max F", drawn)
        result.flag("upper-side-open", "warn", force_n=forces[-1])
        return
    text = "least force from which on every trace can be seen"
    result.give("threshold_force", threshold, "N", text, "min F visible", drawn)
    below = [force for force in forces if force < threshold]
    if not below:
        result.lacks("no_trace_force", "N")
        result.flag("lower-side-open", "warn", threshold=threshold)
        return
    unseen = below[-1]
    text = "greatest force below it without a trace"
    result.give("no_trace_force", unseen, "N", text, "max F not visible", drawn)
    steps = round((threshold - unseen) / parameters.step_n)
    if steps > 1:
        middle = floor((threshold + unseen) / 2 / parameters.step_n + 0.5 + SAME_WITHIN)
        result.give(
            "next_force",
            middle * parameters.step_n,
            "N",
            "next force to try, halfway on a step",
            "(F_visible + F_not) / 2",
            f"({in_numbers(threshold)} + {in_numbers(unseen)}) / 2",
        )


METHOD = Method(
    id="scratch",
    title="Scratch threshold",
    family="Surface",
    directions=(),
    label_prefixes={},
    properties=(
        Property("threshold_force", "Threshold force", "N", decimals=1),
        Property("no_trace_force", "Greatest force without a trace", "N", decimals=1),
        Property("next_force", "Next force to try", "N", decimals=1, summed=False),
    ),
    parameters=ScratchParameters,
    readings=ScratchReadings,
    guide=GUIDE,
    analyse=analyse,
    review=review_count,
)
METHODS = {METHOD.id: METHOD}
