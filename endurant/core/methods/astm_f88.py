"""Seal strength of flexible packs: peel force for the width, and the window of a sealer."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field, model_validator

from endurant.core.bounds import first_out_of_range
from endurant.core.curve import Place, area_under, first_reach
from endurant.core.fields import Number, Positive
from endurant.core.methods.guide import Blank, FrameGuide, Guide, InnerMark, Measure, ReadyCheck
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.properties import Property
from endurant.core.methods.pulling import (
    OBSERVATIONS,
    Pull,
    PullParameters,
    PullReadings,
    begin_pull,
    review_pull,
)
from endurant.core.methods.results import Mark, SpecimenResult
from endurant.core.methods.safety import LOCAL, PINCH, frame_checks
from endurant.core.quantities import all_at_least, at_least
from endurant.core.rounding import in_numbers
from endurant.core.statistics import Qualifier

PEEL_SHARE = 0.2
MIDDLE_SHARE = 0.8
PLATEAU_SHARE = 0.9

PeelSpeed = Annotated[float, Field(strict=True, ge=200, le=500)]


class Parameters(PullParameters):
    """Parameters of the peel."""

    speed_mm_min: PeelSpeed | None = Field(300, description="Crosshead speed, 200 to 500.")
    technique: Literal["A", "B", "C"] = Field(
        description="A: free tails; B: supported; C: hinged. Always recorded."
    )
    strip_width_mm: Annotated[float, Field(strict=True, ge=10, le=50)] = Field(
        25.0, description="Width that the strips are cut to: 15, 25 or 25.4."
    )
    initiation_n_per_mm: Positive | None = Field(
        None, description="Strength at which a seal counts as begun."
    )
    window_property: Literal["seal_strength_max", "seal_strength_mean"] = Field(
        "seal_strength_max", description="The value from which the seal window is drawn."
    )


class Readings(PullReadings):
    """One peeled strip; without a state, the jaw temperature is its state."""

    failure_mode: Literal[
        "adhesive-peel",
        "cohesive-peel",
        "delamination",
        "material-break",
        "remote-break",
        "elongation",
    ] = Field(description="How it failed.")
    jaw_temperature_c: Number | None = Field(None, description="Temperature of the sealing jaws.")

    @model_validator(mode="before")
    @classmethod
    def _temperature_is_state(cls, data: Any) -> Any:
        """Strips sealed at different temperatures are summed up apart."""
        if not isinstance(data, dict) or "state" in data:
            return data
        at_c = data.get("jaw_temperature_c")
        if isinstance(at_c, int | float) and first_out_of_range("jaw_temperature_c", at_c) is None:
            return data | {"state": f"{at_c:g} °C"}
        return data


def as_wide(blank: Blank, parameters: Mapping[str, Any]) -> Blank:
    """Return a strip across the seal, as wide as it is asked for."""
    return replace(blank, short_mm=float(parameters.get("strip_width_mm") or blank.short_mm))


GUIDE = Guide(
    resized=as_wide,
    **guide_texts("astm-f88"),
    count_per_direction=5,
    blank=Blank(
        outline="rectangle",
        long_mm=150,
        short_mm=25,
        inner_marks=(
            InnerMark("seal", ((-12.5, -5), (12.5, -5))),
            InnerMark("seal", ((-12.5, 5), (12.5, 5))),
        ),
        works_on="peels across {yarns}",
    ),
    atmosphere="film-23-50",
    bench="trace",
    wears=("blade",),
    live=FrameGuide(
        travel_mm=60,
        usual_speed_mm_min=300,
        own_grips=True,
        jagged=True,
        after=("failure_mode", "jaw_temperature_c"),
    ),
    needs=lambda _: ("grip_separation_mm",),
    proposes=lambda _: {"grip_separation_mm": 25.0},
    measures=(Measure("width_mm", 3, span_mm=20, nominal_mm=25),),
    ready_checks=frame_checks(
        ReadyCheck(
            "technique",
            "Technique {technique}: A free tails, B supported, C hinged",
            "the angle of the peel changes the force; the three do not compare",
            set_up=True,
        ),
        ReadyCheck("square", "Seal square across the strip", "an oblique seal peels from a corner"),
        because="tails of another length peel at another angle",
    ),
    cautions=(PINCH, "Sealing jaws are hot and close fast: keep hands out.", LOCAL),
    observations=OBSERVATIONS,
)


def analyse(readings: Readings, parameters: Parameters) -> SpecimenResult:
    """Return the highest and the mean seal strength of one strip in N per width (ASTM F88/F88M)."""
    result, pull = begin_pull(readings, parameters, GUIDE, strain="none")
    widths = readings.sections("width_mm")
    width_mm = sum(widths) / len(widths)
    if readings.jaw_temperature_c is not None:
        result.more["jaw_temperature_c"] = readings.jaw_temperature_c
    result.more["failure_mode"] = readings.failure_mode
    if pull is None:
        result.lacks("seal_strength_max", "N/mm")
        result.lacks("seal_strength_mean", "N/mm")
        return result
    bound: Qualifier | None = ">" if readings.failure_mode == "remote-break" else None
    result.give(
        "seal_strength_max",
        pull.max_force_n / width_mm,
        "N/mm",
        "highest force for the width",
        "F_max / width",
        f"{in_numbers(pull.max_force_n)} / {in_numbers(width_mm)}",
        bound,
    )
    result.marks.append(pull.point("highest force", pull.top))
    give_mean(result, pull, width_mm, bound)
    return result


def give_mean(result: SpecimenResult, pull: Pull, width_mm: float, bound: Qualifier | None) -> None:
    """Give the mean force of the peel per width, between its 20 % points."""
    level_n = PEEL_SHARE * pull.max_force_n
    first, last = first_reach(pull.force_n, level_n), last_hold(pull, level_n)
    x = pull.extension_mm
    peel_mm = last.of(x) - first.of(x) if first is not None else 0.0
    if first is None or not peel_mm > 0:
        result.lacks("seal_strength_mean", "N/mm")
        result.flag("no-peel", "warn")
        return
    edge_mm = (1 - MIDDLE_SHARE) / 2 * peel_mm
    low_mm, high_mm = first.of(x) + edge_mm, last.of(x) - edge_mm
    start = first_reach(x, low_mm, max(first.index - 1, 0)) or first
    end = first_reach(x, high_mm, start.index) or last
    area, length_mm = area_under(x, pull.force_n, start, end), high_mm - low_mm
    result.give(
        "seal_strength_mean",
        area / length_mm / width_mm,
        "N/mm",
        "mean force over the middle 80 % of the peel between its 20 % points, for the width",
        "(area under F / length) / width",
        f"({in_numbers(area)} / {in_numbers(length_mm)}) / {in_numbers(width_mm)}",
        bound,
    )
    edges = ((low_mm + pull.zero_mm, 0.0), (high_mm + pull.zero_mm, 0.0))
    result.marks.append(Mark("area", "peel that is averaged", edges))


def last_hold(pull: Pull, level_n: float) -> Place:
    """Return where the line through the force last holds a level in N.

    It is the last sample when the trace ends above the level.
    """
    force = pull.force_n
    held = all_at_least(force, level_n)
    last = int(force.size - 1 - np.argmax(held[::-1]))
    if last == force.size - 1:
        return Place(last, 1.0)
    share = (float(force[last]) - level_n) / float(force[last] - force[last + 1])
    return Place(last + 1, min(max(share, 0.0), 1.0))


def seal_window(results: Sequence[SpecimenResult], parameters: Parameters) -> dict[str, Any]:
    """Return the windows of a series at several jaw temperatures, one for each direction."""
    sealed = [result for result in results if "jaw_temperature_c" in result.more]
    if not sealed:
        return {}
    directions = dict.fromkeys(result.direction for result in sealed)
    windows = [
        window_of(
            direction, [result for result in sealed if result.direction == direction], parameters
        )
        for direction in directions
    ]
    return {"seal_window": [window for window in windows if window is not None]}


def window_of(
    direction: str | None, members: list[SpecimenResult], parameters: Parameters
) -> dict[str, Any] | None:
    """Return the window of one direction; None when no strip of it counts."""
    by_temperature: dict[float, list[float]] = {}
    for member in members:
        figure = member.figure(parameters.window_property)
        if member.enters and figure is not None:
            by_temperature.setdefault(member.more["jaw_temperature_c"], []).append(figure)
    points = [(at, float(np.mean(by_temperature[at]))) for at in sorted(by_temperature)]
    if not points:
        return None
    means = [mean for _, mean in points]
    best = means.index(max(means))
    low = high = best
    while low > 0 and at_least(means[low - 1], PLATEAU_SHARE * means[best]):
        low -= 1
    while high < len(means) - 1 and at_least(means[high + 1], PLATEAU_SHARE * means[best]):
        high += 1
    initiation_c, qualifier = initiation(points, parameters.initiation_n_per_mm)
    return {
        "direction": direction,
        "points": [{"jaw_temperature_c": at, "mean": mean} for at, mean in points],
        "initiation_c": initiation_c,
        "initiation_qualifier": qualifier,
        "plateau_c": [points[low][0], points[high][0]],
        "setting_c": (points[low][0] + points[high][0]) / 2,
    }


def initiation(
    points: Sequence[tuple[float, float]], requested: float | None
) -> tuple[float | None, Qualifier | None]:
    """Return the lowest temperature in °C at which the mean strength reaches `requested`.

    `points` are (temperature, strength); values between them are interpolated linearly.
    """
    if requested is None:
        return None, None
    temperatures = np.array([at for at, _ in points])
    means = np.array([mean for _, mean in points])
    place = first_reach(means, requested)
    if place is None:
        return None, None
    return place.of(temperatures), "<" if place.index == 0 else None


METHOD = Method(
    id="astm-f88",
    title="Seal strength",
    family="Tension",
    directions=("md", "cd"),
    label_prefixes={"md": "M", "cd": "C"},
    properties=(
        Property("seal_strength_max", "Maximum seal strength", "N/mm", significant=3),
        Property("seal_strength_mean", "Mean seal strength", "N/mm", significant=3),
    ),
    parameters=Parameters,
    readings=Readings,
    guide=GUIDE,
    analyse=analyse,
    more=seal_window,
    review=review_pull,
)
METHODS = {METHOD.id: METHOD}
