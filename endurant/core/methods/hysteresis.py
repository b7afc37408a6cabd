"""Loading and return: what a stretch puts in, what it gives back, and what stays."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from pydantic import Field

from endurant.core.curve import first_fall
from endurant.core.fields import NotNegative, Positive, Whole
from endurant.core.methods.guide import Blank, FrameGuide, Guide, InnerMark, ReadyCheck
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
from endurant.core.methods.safety import LOCAL, PINCH, SNAP, frame_checks
from endurant.core.moves import Move, Until
from endurant.core.quantities import at_least
from endurant.core.rounding import in_numbers
from endurant.core.trace import Samples, find_maxima

TURN_SHARE = 0.5
USUAL_SPEED_MM_MIN = 100.0
UNITS_OF_TARGETS: Mapping[str, Until] = {"target_mm": "mm", "target_n": "N"}


class Parameters(PullParameters):
    """Parameters of loading and return."""

    cycles: Whole | None = Field(None, description="Cycles asked for; none: those there are.")
    target_mm: Positive | None = Field(None, description="Extension at which it turns.")
    target_n: Positive | None = Field(None, description="Force at which it turns.")
    force_limit_n: Positive | None = Field(
        None, description="Force at which the frame stops; none: the capacity of its load cell."
    )
    travel_limit_mm: Positive | None = Field(
        None, description="Extension at which the frame stops."
    )
    slack_force_n: NotNegative = Field(0.05, description="Force at which the return is slack.")


def loops(parameters: Mapping[str, Any]) -> tuple[Move, ...]:
    """As often as asked for to the target and back to zero; none without a target."""
    speed = float(parameters.get("speed_mm_min") or USUAL_SPEED_MM_MIN)
    times = int(parameters.get("cycles") or 1)
    for name, unit in UNITS_OF_TARGETS.items():
        if parameters.get(name):
            return (Move("cycle", float(parameters[name]), unit, speed, times=times),)
    return ()


def _lacks_target(parameters: Mapping[str, Any]) -> tuple[str, ...]:
    """What tells the frame where to turn: an extension, a force, or a sequence of moves."""
    names = (*UNITS_OF_TARGETS, "moves")
    return () if any(parameters.get(name) for name in names) else ("target_mm",)


GUIDE = Guide(
    **guide_texts("hysteresis"),
    count_per_direction=3,
    blank=Blank(
        outline="rectangle",
        long_mm=200,
        short_mm=25,
        inner_marks=(
            InnerMark("grip line", ((-12.5, -50), (12.5, -50))),
            InnerMark("grip line", ((-12.5, 50), (12.5, 50))),
        ),
        works_on="stretches along {yarns}",
    ),
    atmosphere="plastics-23-50",
    bench="trace",
    live=FrameGuide(travel_mm=400, usual_max_n=200, moves=loops),
    needs=lambda parameters: ("gauge_length_mm", *_lacks_target(parameters)),
    proposes=lambda _: {"gauge_length_mm": 100.0},
    ready_checks=frame_checks(
        ReadyCheck("slack-taken-up", "Slack taken up", "slack counts as length that stayed"),
        ReadyCheck(
            "force-limit",
            "Force limit of {force_limit_n} N set on the frame",
            "one cycle too far breaks the specimen or the load cell",
            reads="force-limit",
            set_up=True,
        ),
    ),
    cautions=(PINCH, SNAP, LOCAL),
    observations=OBSERVATIONS,
)

UNITS = {
    "energy_in": "mJ",
    "energy_out": "mJ",
    "hysteresis_energy": "mJ",
    "hysteresis_percent": "%",
    "residual_extension": "mm",
    "peak_force": "N",
}


@dataclass(frozen=True)
class Cycle:
    """Sample indices at which a cycle begins, turns and ends."""

    start: int
    turn: int
    end: int


def cycles_of(extension_mm: Samples) -> list[Cycle]:
    """Return the cycles of a pull, cut at the maxima of extension and the minima between them.

    `extension_mm` has shape (n,).
    """
    span = float(extension_mm.max() - extension_mm.min())
    if span <= 0:
        return []
    turns = find_maxima(extension_mm, TURN_SHARE * span).tolist()
    if not turns:
        return []
    ends = [*(turn + 1 for turn in turns[1:]), extension_mm.size]
    cycles, start = [], 0
    for turn, stop in zip(turns, ends, strict=True):
        end = turn + int(np.argmin(extension_mm[turn:stop]))
        cycles.append(Cycle(start, turn, end))
        start = end
    return cycles


def figures_of(pull: Pull, cycle: Cycle, slack_force_n: float) -> dict[str, float | None]:
    """Return the figures of one cycle, in the units that `UNITS` names."""
    up, down = slice(cycle.start, cycle.turn + 1), slice(cycle.turn, cycle.end + 1)
    energy_in = float(np.trapezoid(pull.force_n[up], pull.extension_mm[up]))
    energy_out = -float(np.trapezoid(pull.force_n[down], pull.extension_mm[down]))
    slack = first_fall(pull.force_n[down], slack_force_n)
    return {
        "energy_in": energy_in,
        "energy_out": energy_out,
        "hysteresis_energy": energy_in - energy_out,
        "hysteresis_percent": 100 * (energy_in - energy_out) / energy_in if energy_in > 0 else None,
        "residual_extension": None if slack is None else slack.of(pull.extension_mm[down]),
        "peak_force": float(pull.force_n[cycle.start : cycle.end + 1].max()),
    }


def _stopped_by(pull: Pull, parameters: Parameters) -> str:
    """The limit that ended the run, in words; empty where none was reached."""
    limit_n, limit_mm = parameters.force_limit_n, parameters.travel_limit_mm
    if limit_n is not None and at_least(float(pull.force_n[-1]), limit_n):
        return f": the force limit of {in_numbers(limit_n)} N stopped the run"
    if limit_mm is not None and at_least(float(pull.extension_mm[-1]), limit_mm):
        return f": the travel limit of {in_numbers(limit_mm)} mm stopped the run"
    return ""


def analyse(readings: PullReadings, parameters: Parameters) -> SpecimenResult:
    """Return the values of the last cycle, and those of all cycles beside them.

    Energies are in J, losses and sets in %.
    """
    result, pull = begin_pull(readings, parameters, GUIDE, strain="none")
    cycles = [] if pull is None else cycles_of(pull.extension_mm)
    result.more["cycles"] = []
    if pull is None or not cycles:
        for name, unit in UNITS.items():
            result.lacks(name, unit)
        if pull is not None:
            result.flag("no-cycle", "void", stopped_by=_stopped_by(pull, parameters))
        return result
    listed = [figures_of(pull, cycle, parameters.slack_force_n) for cycle in cycles]
    result.more["cycles"] = listed
    give_last(result, listed[-1], len(cycles), parameters)
    if parameters.cycles is not None and len(cycles) < parameters.cycles:
        result.flag(
            "fewer-cycles",
            "warn",
            count=len(cycles),
            requested=parameters.cycles,
            stopped_by=_stopped_by(pull, parameters),
        )
    slackless = [
        str(n) for n, result in enumerate(listed, 1) if result["residual_extension"] is None
    ]
    if slackless:
        result.flag("no-slack-on-return", "note", cycles=list(slackless))
    if listed[-1]["hysteresis_percent"] is None:
        result.flag("no-energy-in", "note")
    mark_cycles(result, pull, cycles)
    return result


def give_last(
    result: SpecimenResult, figures: dict[str, float | None], number: int, parameters: Parameters
) -> None:
    """The values of a specimen from its last cycle."""
    energy_in, energy_out = figures["energy_in"] or 0.0, figures["energy_out"] or 0.0
    parts = f"{in_numbers(energy_in)} - {in_numbers(energy_out)}"
    how = {
        "energy_in": ("area under the loading", "sum of (F1 + F2) / 2 · dx", "way up"),
        "energy_out": ("area under the return", "sum of (F1 + F2) / 2 · dx", "way back"),
        "hysteresis_energy": ("what did not come back", "in - out", parts),
        "hysteresis_percent": (
            "the same in percent of what went in",
            "100 · (in - out) / in",
            f"100 · ({parts}) / {in_numbers(energy_in)}",
        ),
        "residual_extension": (
            "extension where the return first falls to the slack force",
            "x where F = slack force",
            f"slack force {in_numbers(parameters.slack_force_n)} N",
        ),
        "peak_force": ("highest force", "max F", f"cycle {number}"),
    }
    for name, unit in UNITS.items():
        figure = figures[name]
        if figure is None:
            result.lacks(name, unit)
        else:
            text, formula, with_ = how[name]
            result.give(name, figure, unit, f"cycle {number}: {text}", formula, with_)


def mark_cycles(result: SpecimenResult, pull: Pull, cycles: list[Cycle]) -> None:
    """The turning points, and the return of the last cycle as an area."""
    turns = [(pull.drawn_mm[cycle.turn], pull.force_n[cycle.turn]) for cycle in cycles]
    points = tuple((float(x), float(y)) for x, y in turns)
    result.marks.append(Mark("points", "turning points", points))


METHOD = Method(
    id="hysteresis",
    title="Loading and return",
    family="Tension",
    directions=(),
    label_prefixes={},
    properties=tuple(
        Property(name, title, UNITS[name], significant=3)
        for name, title in (
            ("energy_in", "Energy in"),
            ("energy_out", "Energy out"),
            ("hysteresis_energy", "Hysteresis energy"),
            ("hysteresis_percent", "Hysteresis"),
            ("residual_extension", "Residual extension"),
            ("peak_force", "Peak force"),
        )
    ),
    parameters=Parameters,
    readings=PullReadings,
    guide=GUIDE,
    analyse=analyse,
    review=review_pull,
)
METHODS = {METHOD.id: METHOD}
