"""Seam slippage: how far yarns shift at a seam, read from an unsewn and a sewn pull."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Any, Self

import numpy as np
from pydantic import Field, model_validator

from endurant.core.complaints import complaint
from endurant.core.fields import NotNegative, Positive
from endurant.core.methods.checks import begin, review_count, speed_flags
from endurant.core.methods.guide import (
    Blank,
    Demand,
    FrameGuide,
    Guide,
    InnerMark,
    Observation,
    ReadyCheck,
    one_piece,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import Parameters, requested
from endurant.core.methods.properties import Property
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import Mark, SpecimenResult
from endurant.core.methods.safety import BLADES, GRAB_FACES, LOCAL, PINCH, frame_checks
from endurant.core.moves import Move
from endurant.core.quantities import all_at_least, at_least
from endurant.core.recordings import ForceTrace
from endurant.core.rounding import in_numbers
from endurant.core.trace import Samples, mean_speed_mm_min


class SeamParameters(Parameters):
    """Parameters of both readings of a seam."""

    specimens_wanted: int = requested(5)
    slack_force_n: NotNegative = Field(5, description="Force at which slack is taken off.")
    gauge_length_mm: Positive = Field(100, description="Distance between the jaws at the start.")
    speed_mm_min: Positive = Field(50, description="Crosshead speed in mm per minute.")


class OpeningParameters(SeamParameters):
    """Parameters of the force at a fixed opening."""

    opening_mm: Positive = Field(6, description="Opening that is looked for.")
    ceiling_n: Positive = Field(200, description="Force up to which it is looked for.")

    @model_validator(mode="after")
    def _ceiling_above_slack(self) -> Self:
        if self.ceiling_n <= self.slack_force_n:
            raise complaint("seam.ceiling-too-low")
        return self


class LoadParameters(SeamParameters):
    """Parameters of the opening at a fixed load."""

    load_n: Positive = Field(180, description="Load at which the opening is read.")

    @model_validator(mode="after")
    def _load_above_slack(self) -> Self:
        if self.load_n <= self.slack_force_n:
            raise complaint("seam.load-too-low")
        return self


Openings = Annotated[list[NotNegative], Field(min_length=1, max_length=200)]


class SeamReadings(Readings):
    """The two pulls of one pair, both from zero."""

    trace_unsewn: ForceTrace = Field(description="Pull of the unsewn specimen.")
    trace_sewn: ForceTrace = Field(description="Pull of the sewn specimen.")


class LoadedReadings(Readings):
    """One seam let back from its load: the opening measured, or the two pulls to estimate it."""

    seam_opening_mm: Openings | None = Field(
        None, description="Opening across the seam at the slack force; the widest counts."
    )
    trace_unsewn: ForceTrace | None = Field(None, description="Pull of the unsewn specimen.")
    trace_sewn: ForceTrace | None = Field(None, description="Pull of the sewn specimen.")


def pull_both(parameters: Mapping[str, Any]) -> tuple[Move, ...]:
    """Return the unsewn half to the ceiling, then the sewn one."""
    pull = Move("to", float(parameters["ceiling_n"]), "N", float(parameters["speed_mm_min"]))
    return (pull, Move("exchange"), pull)


def pull_to_load(parameters: Mapping[str, Any]) -> tuple[Move, ...]:
    """To the load, back to the slack force, and there until the opening is measured."""
    speed = float(parameters["speed_mm_min"])
    return (
        Move("to", float(parameters["load_n"]), "N", speed),
        Move("to", float(parameters["slack_force_n"]), "N", speed),
        Move("pause"),
    )


GUIDE = Guide(
    demand=lambda _: Demand(
        halves=("sewn", "unsewn"), text="each blank is sewn and parted into a pair"
    ),
    **guide_texts("iso-13936-1"),
    count_per_direction=5,
    blank=Blank(
        outline="rectangle",
        long_mm=400,
        short_mm=100,
        inner_marks=(
            InnerMark("fold", ((-50, -90), (50, -90))),
            InnerMark("seam", ((-50, -110), (50, -110))),
            InnerMark("guide line 38 mm", ((-12, -200), (-12, 200))),
        ),
        fails_across=True,
        works_on="the seam shifts {yarns} yarns",
        selvedge_margin_mm=150,
        stagger="lengthwise",
        keeps_crossing_apart=True,
    ),
    atmosphere="textile-20-65",
    bench="paired-trace",
    wears=("needle",),
    live=FrameGuide(
        travel_mm=150,
        usual_speed_mm_min=50,
        usual_start_mm=100,
        usual_max_n=400,
        moves=pull_both,
        parts=("trace_unsewn", "trace_sewn"),
    ),
    ready_checks=frame_checks(
        GRAB_FACES,
        ReadyCheck(
            "seam-made",
            "Needle size 90, all-polyester thread, 5 stitches per cm",
            "another seam opens at another force",
        ),
        ReadyCheck(
            "guide-line",
            "Guide line 38 mm from the long edge, along the jaw's edge",
            "a pair held at different places stretches differently",
        ),
        ReadyCheck(
            "unsewn-first",
            "The unsewn half is pulled first, both from zero on one graph",
            "its curve is taken off the other",
        ),
        because="the cloth between the jaws stretches, and that is taken off",
    ),
    cautions=(PINCH, BLADES, "Sewing machine: needle guard on, fingers away.", LOCAL),
    observations=(
        Observation("jaw-slip", "Slipped in the jaw", "void", "a specimen slipped in its jaw"),
        Observation("seam-failure", "The seam broke", "warn", "the seam itself gave way"),
        Observation("fabric-failure", "The cloth broke", "warn", "the cloth broke, not the seam"),
    ),
)

LOAD_GUIDE = replace(
    GUIDE,
    demand=one_piece,
    **guide_texts("iso-13936-2"),
    live=FrameGuide(
        travel_mm=150,
        usual_speed_mm_min=50,
        usual_start_mm=100,
        usual_max_n=400,
        moves=pull_to_load,
        parts=("trace_sewn",),
        held="seam_opening_mm",
        held_why="Across the seam with the caliper, in several places; the widest counts. The "
        "slack force stands.",
    ),
    blank=Blank(
        outline="rectangle",
        long_mm=300,
        short_mm=100,
        inner_marks=(
            InnerMark("fold", ((-50, 0), (50, 0))),
            InnerMark("seam", ((-50, -20), (50, -20))),
            InnerMark("guide line 38 mm", ((-12, -150), (-12, 150))),
        ),
        fails_across=True,
        works_on="the seam shifts {yarns} yarns",
        selvedge_margin_mm=150,
        stagger="lengthwise",
        keeps_crossing_apart=True,
    ),
    ready_checks=frame_checks(
        GRAB_FACES,
        *(check for check in GUIDE.ready_checks if check.code in ("seam-made", "guide-line")),
        ReadyCheck(
            "rule-at-hand",
            "Caliper or rule at hand, light on the seam",
            "the opening is measured at the slack force",
            set_up=True,
        ),
        because="it holds the seam midway between the jaws",
    ),
)


@dataclass(frozen=True)
class Inverse:
    """Extension as a function of force: where the running maximum first reaches it.

    `force_n` rises strictly; `reached_mm` is the extension there, `passed_mm` the one just
    beyond that force, which is larger where the curve dips after it.
    """

    force_n: Samples
    reached_mm: Samples
    passed_mm: Samples

    @property
    def max_n(self) -> float:
        """The highest force."""
        return float(self.force_n[-1])

    def at(self, force_n: Samples) -> Samples:
        """Extension where each force is first reached."""
        after = np.searchsorted(self.force_n, force_n, side="left").clip(1, self.force_n.size - 1)
        inside = self._on_piece(after, force_n)
        first = force_n <= self.force_n[0]
        return np.where(first, self.reached_mm[0], inside)

    def beyond(self, force_n: Samples) -> Samples:
        """Extension just beyond each force."""
        after = np.searchsorted(self.force_n, force_n, side="right").clip(1, self.force_n.size - 1)
        inside = self._on_piece(after, force_n)
        return np.where(force_n < self.force_n[0], self.reached_mm[0], inside)

    def _on_piece(self, after: Any, force_n: Samples) -> Samples:
        low, high = self.force_n[after - 1], self.force_n[after]
        share = np.clip((force_n - low) / (high - low), 0, 1)
        start, end = self.passed_mm[after - 1], self.reached_mm[after]
        return np.asarray(start + share * (end - start))


def inverse_of(trace: ForceTrace) -> Inverse:
    """Return extension over force of the running maximum of a curve, interpolated."""
    x, force = trace.extension_mm, trace.force_n
    before = np.concatenate(([-np.inf], np.maximum.accumulate(force)[:-1]))
    records = np.flatnonzero(force > before)
    tops, reached = force[records], x[records]
    passed = reached.copy()
    follow = records[1:]
    low, high = force[follow - 1], force[follow]
    share = (tops[:-1] - low) / (high - low)
    passed[:-1] = x[follow - 1] + share * (x[follow] - x[follow - 1])
    if records.size == 1:
        below = np.array([tops[0] - 1, tops[0]])
        return Inverse(below, reached.repeat(2), passed.repeat(2))
    return Inverse(tops, reached, passed)


@dataclass(frozen=True)
class Pair:
    """The two curves of one pair, and the opening between them."""

    unsewn: Inverse
    sewn: Inverse
    slack_force_n: float

    def gap(self, force_n: Samples) -> Samples:
        """Sewn less unsewn extension where each force is first reached."""
        return self.sewn.at(force_n) - self.unsewn.at(force_n)

    def opening(self, force_n: float) -> float:
        """Opening at one force, slack taken off."""
        gaps_mm = self.gap(np.array([self.slack_force_n, force_n]))
        return float(gaps_mm[1] - gaps_mm[0])

    def force_at(self, opening_mm: float, max_n: float) -> float | None:
        """Lowest force up to `max_n` at which the opening is reached; None when it is not.

        The opening is a broken line with its corners at the samples of both curves, and
        jumps where one of them dips: solved on the piece.
        """
        slack_n = self.slack_force_n
        if max_n < slack_n:
            return None
        tops = np.concatenate((self.unsewn.force_n, self.sewn.force_n))
        inner = tops[(tops > slack_n) & (tops < max_n)]
        corners = np.unique(np.concatenate(([slack_n], inner, [max_n])))
        slack_mm = float(self.gap(corners[:1])[0])
        reached = self.gap(corners) - slack_mm
        passed = self.sewn.beyond(corners) - self.unsewn.beyond(corners) - slack_mm
        passed[-1] = reached[-1]
        open_at = all_at_least(reached, opening_mm)
        wide_enough = open_at | all_at_least(passed, opening_mm)
        if not wide_enough.any():
            return None
        place = int(np.argmax(wide_enough))
        if place == 0 or not open_at[place]:
            return float(corners[place])
        low_mm, high_mm = float(passed[place - 1]), float(reached[place])
        share = min((opening_mm - low_mm) / (high_mm - low_mm), 1.0)
        low_n, high_n = float(corners[place - 1]), float(corners[place])
        return low_n + share * (high_n - low_n)


def flag_speed(result: SpecimenResult, trace: ForceTrace, parameters: SeamParameters) -> None:
    """The check of the mean speed of one pull."""
    if trace.time_s is not None and not result.has_flag("rate-out-of-tolerance"):
        speed = mean_speed_mm_min(trace.time_s, trace.extension_mm)
        result.flags += speed_flags(speed, parameters.speed_mm_min)


def begin_pair(
    readings: Readings,
    traces: tuple[ForceTrace, ForceTrace],
    parameters: SeamParameters,
    guide: Guide,
) -> tuple[SpecimenResult, Pair | None]:
    """Return the observations and speeds of a pair, unsewn first; no curves without any force."""
    result = begin(readings, guide)
    for trace in traces:
        flag_speed(result, trace, parameters)
        if not trace.force_n.max() > 0 and not result.has_flag("no-force"):
            result.flag("no-force", "void", sentence="flag.no-force.trace-pair")
    if result.has_flag("no-force"):
        return result, None
    unsewn, sewn = (inverse_of(trace) for trace in traces)
    return result, Pair(unsewn, sewn, parameters.slack_force_n)


def analyse_opening(readings: SeamReadings, parameters: OpeningParameters) -> SpecimenResult:
    """Return the force in N at which the seam has opened by `opening_mm` (ISO 13936-1)."""
    traces = (readings.trace_unsewn, readings.trace_sewn)
    result, pair = begin_pair(readings, traces, parameters, GUIDE)
    if pair is None:
        result.lacks("slippage_force", "N")
        return result
    ceiling_n = parameters.ceiling_n
    max_n = min(ceiling_n, pair.unsewn.max_n, pair.sewn.max_n)
    force_n = pair.force_at(parameters.opening_mm, max_n)
    formula = "(x_sewn - x_unsewn)(F) - (x_sewn - x_unsewn)(F_slack) = opening"
    if force_n is not None:
        opening = in_numbers(parameters.opening_mm)
        result.give(
            "slippage_force",
            force_n,
            "N",
            f"least force at which the seam has opened by {opening} mm",
            formula,
            f"F_slack = {in_numbers(parameters.slack_force_n)} N, opening = {opening} mm",
        )
        mark_pair(result, pair, force_n)
    elif at_least(pair.unsewn.max_n, ceiling_n) and at_least(pair.sewn.max_n, ceiling_n):
        result.give(
            "slippage_force",
            ceiling_n,
            "N",
            "not opened so far up to the ceiling",
            formula,
            f"opening at {in_numbers(ceiling_n)} N is {in_numbers(pair.opening(ceiling_n))} mm",
            qualifier=">",
        )
        mark_pair(result, pair, ceiling_n)
    elif pair.unsewn.max_n < min(ceiling_n, pair.sewn.max_n):
        result.lacks("slippage_force", "N")
        result.flag(
            "unsewn-too-short",
            "void",
            sentence="flag.unsewn-too-short.before-opening",
            max_n=pair.unsewn.max_n,
        )
    else:
        result.lacks("slippage_force", "N")
        if not result.has_flag("seam-failure") and not result.has_flag("fabric-failure"):
            result.flag("broke-before-opening", "warn")
        result.give(
            "break_force",
            pair.sewn.max_n,
            "N",
            "highest force of the sewn specimen, which gave way before it opened",
            "max F",
            "sewn curve",
        )
    return result


def analyse_load(readings: LoadedReadings, parameters: LoadParameters) -> SpecimenResult:
    """Return the opening of the seam in mm at `load_n` (ISO 13936-2).

    It is measured, else estimated from both curves; there is none when the seam gave way before.
    Raises Invalid when there is neither a measurement nor a pair of curves.
    """
    if readings.seam_opening_mm is not None:
        return measured_opening(readings, readings.seam_opening_mm, parameters)
    unsewn, sewn = readings.trace_unsewn, readings.trace_sewn
    gave_way = sewn is not None and not at_least(float(sewn.force_n.max()), parameters.load_n)
    if unsewn is None and gave_way:
        return measured_opening(readings, (), parameters)
    if unsewn is None or sewn is None:
        raise readings.refuse("seam_opening_mm", "reading.opening-missing")
    result, pair = begin_pair(readings, (unsewn, sewn), parameters, LOAD_GUIDE)
    if pair is None:
        result.lacks("opening_at_load", "mm")
        return result
    load_n = parameters.load_n
    sewn_short = flag_broke_before_load(result, pair.sewn.max_n, load_n)
    unsewn_short = not at_least(pair.unsewn.max_n, load_n)
    if unsewn_short:
        result.flag(
            "unsewn-too-short",
            "void",
            sentence="flag.unsewn-too-short.below-load",
            max_n=pair.unsewn.max_n,
        )
    if sewn_short or unsewn_short:
        result.lacks("opening_at_load", "mm")
        return result
    ends = pair.gap(np.array([parameters.slack_force_n, load_n]))
    result.give(
        "opening_at_load",
        pair.opening(load_n),
        "mm",
        f"opening at {in_numbers(load_n)} N from the curves, slack taken off at "
        f"{in_numbers(parameters.slack_force_n)} N",
        "(x_sewn - x_unsewn)(F) - (x_sewn - x_unsewn)(F_slack)",
        f"{in_numbers(float(ends[1]))} - {in_numbers(float(ends[0]))}",
    )
    result.flag("opening-from-curves", "note")
    mark_pair(result, pair, load_n)
    return result


def measured_opening(
    readings: LoadedReadings, openings_mm: Sequence[float], parameters: LoadParameters
) -> SpecimenResult:
    """The widest of the openings measured; none when the sewn curve broke before the load."""
    result = begin(readings, LOAD_GUIDE)
    if readings.trace_sewn is not None:
        flag_speed(result, readings.trace_sewn, parameters)
        max_n = float(readings.trace_sewn.force_n.max())
        if flag_broke_before_load(result, max_n, parameters.load_n):
            result.lacks("opening_at_load", "mm")
            return result
    listed = ", ".join(in_numbers(opening) for opening in openings_mm)
    result.give(
        "opening_at_load",
        max(openings_mm),
        "mm",
        f"widest opening measured at {in_numbers(parameters.slack_force_n)} N, after "
        f"{in_numbers(parameters.load_n)} N",
        "max of the openings",
        f"{listed} mm",
    )
    return result


def flag_broke_before_load(result: SpecimenResult, max_n: float, load_n: float) -> bool:
    """`broke-before-load` when the sewn curve never reaches the load."""
    if at_least(max_n, load_n):
        return False
    result.flag("broke-before-load", "warn", max_n=max_n)
    return True


def mark_pair(result: SpecimenResult, pair: Pair, force_n: float) -> None:
    """The opening drawn between the two curves, at the slack force and at the force."""
    for text, at_n in (("slack taken off", pair.slack_force_n), ("opening", force_n)):
        at = np.array([at_n])
        ends = ((float(pair.unsewn.at(at)[0]), at_n), (float(pair.sewn.at(at)[0]), at_n))
        result.marks.append(Mark("line", text, ends, trace="trace_sewn"))


METHODS = {
    "iso-13936-1": Method(
        id="iso-13936-1",
        title="Seam slippage at a fixed opening",
        family="Tear and seam",
        directions=("warp", "weft"),
        label_prefixes={"warp": "W", "weft": "F"},
        properties=(
            Property("slippage_force", "Slippage force", "N", decimals=0),
            Property("break_force", "Break force", "N", decimals=0),
        ),
        parameters=OpeningParameters,
        readings=SeamReadings,
        guide=GUIDE,
        analyse=analyse_opening,
        review=review_count,
    ),
    "iso-13936-2": Method(
        id="iso-13936-2",
        title="Seam slippage at a fixed load",
        family="Tear and seam",
        directions=("warp", "weft"),
        label_prefixes={"warp": "W", "weft": "F"},
        properties=(Property("opening_at_load", "Opening at the load", "mm", decimals=1),),
        parameters=LoadParameters,
        readings=LoadedReadings,
        guide=LOAD_GUIDE,
        analyse=analyse_load,
        review=review_count,
    ),
}
