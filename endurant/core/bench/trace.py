"""A pull or a push at a frame: force over the travel of the crosshead."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from endurant.core.bench.actions import Action
from endurant.core.bench.procedure import (
    Axis,
    Drawing,
    act_of,
    asks_for,
    checks_of,
    holds_of,
    is_by_hand,
    reading_facts,
    reads_of,
)
from endurant.core.bench.sequence_suspicions import ExpectedSequence, expected_sequence
from endurant.core.bench.state import State
from endurant.core.bench.status import separation_mm
from endurant.core.bench.suspicions import Expected
from endurant.core.devices import RecorderKind
from endurant.core.messages import worded
from endurant.core.methods.guide import FrameGuide, ReadyCheck
from endurant.core.methods.method import Method
from endurant.core.moves import Move, path_of, read_moves, to_word
from endurant.core.rounding import in_numbers


class TraceProcedure:
    """One specimen, one trace."""

    device: RecorderKind | None = "frame"

    def actions(self, method: Method, parameters: Mapping[str, Any]) -> tuple[Action, ...]:
        """Set up, grip, zero, run; then the specimen is taken out before anything moves."""
        frame = frame_of(method)
        checks = checks_of(self, method, parameters)
        return (
            _prepare(frame, checks),
            *([ZERO_FORCE] if frame.force_first else []),
            *_in_order(checks),
            *_pretension(frame, parameters),
            _zero(frame, checks),
            _start(method, frame, checks, parameters),
            *_while_paused(method, frame, parameters),
            _removed(frame),
            *_looked(method, frame, parameters),
        )

    def readings(self, method: Method, state: State) -> dict[str, Any]:
        """Return what was recorded by hand beside the trace."""
        return reading_facts(method, state.facts)

    def drawing(self, method: Method, parameters: Mapping[str, Any]) -> Drawing:
        """Return force over travel."""
        frame = frame_of(method)
        moves = moves_of(method, parameters)
        reach = frame.travel_mm if frame.until == "travel" else frame.travel_mm / 8
        if moves:
            gauge_mm = start_mm_of(frame, parameters)
            reach = max(point.extension_mm for point in path_of(moves, gauge_mm)) or reach
        return Drawing(
            Axis("extension_mm", "Extension", "mm"), Axis("force_n", "Force", "N"), reach
        )

    def setup(self, method: Method, parameters: Mapping[str, Any]) -> dict[str, float | str]:
        """Jaws, speed, limits, and where it ends."""
        frame = frame_of(method)
        set_to: dict[str, float | str] = {
            "speed_mm_min": speed_of(frame, parameters),
            "end_mm": float(parameters.get("travel_limit_mm") or frame.travel_mm),
            "until": frame.until,
        }
        start_mm = start_mm_of(frame, parameters)
        if start_mm:
            set_to["gauge_mm"] = start_mm
        for name in ("force_limit_n", "pretension_n"):
            if parameters.get(name):
                set_to[name] = float(parameters[name])
        moves = moves_of(method, parameters)
        if moves:
            speeds = [move.speed_mm_min for move in moves if move.speed_mm_min]
            set_to |= {"moves": to_word(moves), "speed_mm_min": speeds[0]}
        if has_extensometer(frame, parameters):
            set_to["off_strain"] = float(parameters.get("extensometer_off_strain") or 0)
            set_to["strain_over_mm"] = float(parameters.get("gauge_length_mm") or 0) or 50.0
            if frame.off_past_peak and not moves:
                set_to["off_fall"] = frame.off_past_peak
        return set_to


def moves_of(method: Method, parameters: Mapping[str, Any]) -> tuple[Move, ...]:
    """Return the sequence that a frame runs: the one set up at the bench, else the method's own.

    None where it is one pull.
    """
    chosen = parameters.get("moves")
    if chosen:
        return read_moves(str(chosen))
    frame = frame_of(method)
    return frame.moves(parameters) if frame.moves is not None else ()


def expected_of(method: Method, parameters: Mapping[str, Any]) -> Expected:
    """Return what a trace of this method should be like."""
    frame = frame_of(method)
    ends = frame.until == "travel"
    return Expected(
        jagged=frame.jagged,
        breaks=not ends and not frame.jagged,
        speed_mm_min=speed_of(frame, parameters),
        travel_mm=frame.travel_mm if ends and frame.jagged else None,
        straight_over_mm=float(parameters.get("gauge_length_mm") or 0) or None
        if has_extensometer(frame, parameters) and not frame.off_past_peak
        else None,
    )


def sequence_of(method: Method, parameters: Mapping[str, Any]) -> ExpectedSequence | None:
    """Return what the sequence that a frame runs should give; None where it is one pull."""
    moves = moves_of(method, parameters)
    if not moves:
        return None
    frame = frame_of(method)
    return expected_sequence(moves, start_mm_of(frame, parameters), jagged=frame.jagged)


def start_mm_of(frame: FrameGuide, parameters: Mapping[str, Any]) -> float:
    """Return how far apart the jaws stand at the start, in mm; 0 where platens or a probe touch."""
    return separation_mm(parameters, frame.own_grips) or frame.usual_start_mm


def has_extensometer(frame: FrameGuide, parameters: Mapping[str, Any]) -> bool:
    """Strain is recorded: by the method, or because the test measures elongation so."""
    return frame.extensometer or parameters.get("elongation_by") == "extensometer"


def speed_of(frame: FrameGuide, parameters: Mapping[str, Any]) -> float:
    """The speed of the crosshead in mm per minute: as asked for, by a rate, or the usual one."""
    speed = float(parameters.get("speed_mm_min") or 0)
    if speed:
        return speed
    rate = float(parameters.get("rate_percent_per_min") or 0)
    start_mm = start_mm_of(frame, parameters)
    return rate / 100 * start_mm if rate and start_mm else frame.usual_speed_mm_min


def frame_of(method: Method) -> FrameGuide:
    """Return how a frame runs this method; raises TypeError for one that no frame runs."""
    if not isinstance(method.guide.live, FrameGuide):
        raise TypeError(f"{method.id} is not run by a frame")
    return method.guide.live


ZERO_FORCE = Action(
    code="zero-force",
    title=worded("step.zero-the-force-the-specimen-in-one-grip"),
    why=worded("step.force-that-closing-the-second-grip-adds"),
    button=worded("step.zero-force"),
    tells="zero-force",
    reads=("force-zeroed",),
    only_before="upper-gripped",
)


def _prepare(frame: FrameGuide, checks: Sequence[ReadyCheck]) -> Action:
    """Jaws or platens come to their start; nothing may be held while they move."""
    is_gripped = frame.holder == "grips"
    return Action(
        code="prepare",
        title=worded("step.set-up-the-frame")
        if is_gripped
        else worded("step.bring-the-crosshead-to-its-start"),
        why=worded("step.the-jaws-move-to-their-distance-and-the")
        if is_gripped
        else worded("step.the-crosshead-moves-up-to-its-start-and"),
        button=worded("step.set-jaws-and-speed") if is_gripped else worded("step.move-to-start"),
        tells="prepare",
        reads=reads_of(checks, "gauge-length", "at-start", "speed", "force-limit"),
        moves=True,
    )


def _in_order(checks: Sequence[ReadyCheck]) -> list[Action]:
    """What a person does in the order of the guide; released force is proved by the cell."""
    return [
        replace(act_of(check), reads=("force-released",), confirms={})
        if check.tells == "release"
        else act_of(check)
        for check in checks
        if is_by_hand(check) or check.tells == "release"
    ]


def _pretension(frame: FrameGuide, parameters: Mapping[str, Any]) -> tuple[Action, ...]:
    """The pretension is applied at the frame, where the method asks for one before the run."""
    if not frame.pilot or parameters.get("is_pilot") or not parameters.get("pretension_n"):
        return ()
    pretension = in_numbers(round(float(parameters["pretension_n"]), 1))
    return (
        Action(
            code="pretensioned",
            title=worded("step.apply-a-pretension-of-n", pretension=pretension),
            why=worded("step.extension-counts-from-here-the-force"),
            button=worded("step.apply-pretension"),
            tells="pretension",
            reads=("pretension",),
        ),
    )


def _zero(frame: FrameGuide, checks: Sequence[ReadyCheck]) -> Action:
    if frame.force_first:
        return Action(
            code="zero",
            title=worded("step.zero-the-crosshead")
            + (worded("step.and-the-extensometer") if frame.extensometer else ""),
            why=worded("step.extension-and-strain-count-from-here-the"),
            button=worded("step.zero-extension"),
            tells="zero-travel",
            reads=reads_of(checks, "travel-zeroed"),
        )
    platens = frame.holder == "platens"
    return Action(
        code="zero",
        title=worded("step.zero-force-and-extension")
        + (worded("step.the-platens-clear") if platens else ""),
        why=worded("step.a-force-that-is-on-already-would-be-lost")
        if platens
        else worded("step.a-force-or-extension-shown-before-the-run"),
        button="Zero",
        tells="zero",
        reads=reads_of(checks, "zeroed"),
    )


def _start(
    method: Method, frame: FrameGuide, checks: Sequence[ReadyCheck], parameters: Mapping[str, Any]
) -> Action:
    holds = holds_of(checks)
    is_pilot = frame.pilot and bool(parameters.get("is_pilot"))
    limits = _limits(method, parameters)
    return Action(
        code="start",
        title=worded("step.confirm", values="; ".join(holds.values()) or "everything is clear"),
        why=worded(
            "step.the-crosshead-then-moves-at-mm-min", speed=in_numbers(speed_of(frame, parameters))
        )
        + (worded("step.it-stops-at", limits=limits) if limits else "")
        + (worded("step.is-the-pilot-its-highest-force-gives-the") if is_pilot else ""),
        button=worded("step.start"),
        confirms=holds,
        records=True,
        hold=True,
        caution=worded("step.jaws-and-platens-pinch-and-crush-local"),
        sets={"pilot": True} if is_pilot else {},
    )


def _limits(method: Method, parameters: Mapping[str, Any]) -> str:
    """The limits that the order carries and the test names, in words."""
    limits = []
    if parameters.get("force_limit_n"):
        limits.append(f"{in_numbers(float(parameters['force_limit_n']))} N")
    if parameters.get("travel_limit_mm"):
        limits.append(
            worded(
                "step.mm-of-travel",
                travel_limit_mm=in_numbers(float(parameters["travel_limit_mm"])),
            )
        )
    return " or ".join(limits)


def _removed(frame: FrameGuide) -> Action:
    """Nothing moves while a specimen or its halves are held."""
    where = {
        "grips": worded("step.both-grips"),
        "platens": worded("step.between-the-platens"),
        "clamp": worded("step.the-clamp"),
    }
    out_of = where[frame.holder].removeprefix("between ")
    return Action(
        code="removed",
        title=worded("step.remove-from", out_of=out_of),
        why=worded("step.nothing-moves-until-it-is-out-the-jaws")
        if frame.holder == "grips"
        else worded("step.nothing-moves-until-it-is-out"),
        button=worded("step.confirm-removed"),
        phase="after",
        confirms={"removed": worded("step.specimen-removed-from", out_of=out_of)},
        tells="unload",
        unloads=True,
        caution=worded("step.broken-ends-are-sharp") if frame.extensometer else "",
    )


def _looked(method: Method, frame: FrameGuide, parameters: Mapping[str, Any]) -> tuple[Action, ...]:
    asks = [
        replace(ask, required=ask.required or ask.name == _needed_after(parameters))
        for ask in asks_for(method, frame.after, gauge="caliper")
        if ask.name in readings_after(frame, parameters)
    ]
    if not asks:
        return ()
    return (
        Action(
            code="looked",
            title=worded("step.examine-and-record-the-readings"),
            why=worded("step.the-trace-does-not-show-them"),
            button="Record",
            phase="after",
            asks=tuple(asks),
        ),
    )


def readings_after(frame: FrameGuide, parameters: Mapping[str, Any]) -> tuple[str, ...]:
    """Return the readings asked for after the run; marks only where they were followed by hand."""
    by = parameters.get("elongation_by")
    is_by_marks = by is None or by == "marks"
    return tuple(name for name in frame.after if name != BY_HAND or is_by_marks)


def _needed_after(parameters: Mapping[str, Any]) -> str:
    return BY_HAND if parameters.get("elongation_by") == "marks" else ""


BY_HAND = "length_at_break_mm"
"""The reading of marks that a person followed."""


def _while_paused(
    method: Method, frame: FrameGuide, parameters: Mapping[str, Any]
) -> tuple[Action, ...]:
    """What is done while the frame pauses: the extensometer, the other half, a measurement."""
    if frame.extensometer and parameters.get("extensometer_off_strain"):
        return _OFF
    if frame.off_past_peak:
        return tuple(
            replace(act, why=PAST_PEAK) if act.code == "extensometer-off" else act for act in _OFF
        )
    if len(frame.parts) > 1:
        return _EXCHANGE
    if frame.held:
        measure = Action(
            code="measured",
            title=worded("step.measure-while-the-force-is-held"),
            why=frame.held_why,
            button="Record",
            phase="paused",
            asks=tuple(
                replace(ask, required=True)
                for ask in asks_for(method, (frame.held,), gauge="caliper")
            ),
            caution=worded("step.the-specimen-is-under-load-no-finger"),
        )
        return (
            measure,
            replace(
                _GO_ON,
                title=worded("step.return-to-the-start"),
                button=worded("step.release-the-load"),
            ),
        )
    return ()


PAST_PEAK = worded("step.the-highest-force-is-past-and-the-break")

_GO_ON = Action(
    code="go-on",
    title=worded("step.continue-the-run"),
    why=worded("step.the-frame-goes-on-from-its-position-it"),
    button=worded("step.continue-to-the-break"),
    phase="paused",
    confirms={"fingers-clear": worded("step.fingers-clear-of-the-jaws")},
    tells="go-on",
    resumes=True,
    hold=True,
)
_EXCHANGE = (
    Action(
        code="taken-out",
        title=worded("step.remove-the-unsewn-half-from-both-grips"),
        why=worded("step.the-sewn-half-of-the-same-pair-is-pulled"),
        button=worded("step.confirm-removed"),
        phase="paused",
        confirms={"unsewn-removed": worded("step.unsewn-half-removed")},
        tells="unload",
    ),
    Action(
        code="returned",
        title=worded("step.return-the-jaws-to-their-distance"),
        why=worded("step.both-halves-start-from-the-same-length"),
        button=worded("step.return-jaws"),
        phase="paused",
        tells="return",
    ),
    Action(
        code="sewn-in",
        title=worded("step.clamp-the-sewn-half-of-the-seam-midway"),
        why=worded("step.a-half-of-another-pair-would-compare-two"),
        button=worded("step.confirm-clamped"),
        phase="paused",
        confirms={"partner": worded("step.the-sewn-half-carries-the-same-code")},
    ),
    Action(
        code="zeroed-again",
        title=worded("step.zero-force-and-extension"),
        why=worded("step.both-curves-count-from-one-zero"),
        button="Zero",
        phase="paused",
        tells="zero",
    ),
    replace(
        _GO_ON,
        title=worded("step.pull-the-sewn-half"),
        why=worded("step.both-curves-are-drawn-on-one-graph-the"),
        button=worded("step.start-the-sewn-half"),
    ),
)
_OFF = (
    Action(
        code="extensometer-off",
        title=worded("step.remove-the-extensometer"),
        why=worded("step.the-frame-pauses-at-the-set-strain-the"),
        button=worded("step.confirm-removed"),
        phase="paused",
        confirms={"extensometer-off": worded("step.extensometer-off-the-specimen")},
    ),
    Action(
        code="pin-back",
        title=worded("step.put-the-locking-pin-back-and-lay-the"),
        why=worded("step.the-pin-protects-it-until-it-is-fitted"),
        button=worded("step.confirm-pin-in"),
        phase="paused",
    ),
    _GO_ON,
)
