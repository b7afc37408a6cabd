"""A pull or a push at a frame: force over the travel of the crosshead."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from endurant.core.bench.picture import (
    Axis,
    Columns,
    DeviceKind,
    Drawing,
    asks_for,
    by_hand,
    holds_of,
    reads_of,
)
from endurant.core.bench.procedure import Act, State
from endurant.core.bench.sequence_suspicions import ExpectedSequence, expected_sequence
from endurant.core.bench.status import separation_mm
from endurant.core.bench.suspicions import Expected
from endurant.core.methods.guide import FrameGuide
from endurant.core.methods.method import Method
from endurant.core.moves import Move, path_of, read_moves, to_word
from endurant.core.quantities import in_numbers


class TracePicture:
    """One specimen, one trace."""

    device: DeviceKind | None = "frame"

    def acts(self, method: Method, parameters: Mapping[str, Any]) -> tuple[Act, ...]:
        """Set up, clamp, zero, run; with an extensometer also the pause in which it comes off."""
        guide, frame = method.guide, frame_of(method)
        checks = guide.ready_checks
        acts = [
            Act(
                code="prepare",
                title="Set the frame up",
                why="The jaws come to their distance and the speed is set. Keep fingers clear "
                "while they move.",
                button="Set jaws and speed",
                tells="prepare",
                reads=reads_of(checks, "gauge-length", "speed"),
            ),
            *by_hand(checks),
        ]
        if frame.pilot:
            acts.append(_PILOT)
        acts.append(
            Act(
                code="zero",
                title="Zero force and extension",
                why="What the frame shows before the pull would be added to every figure.",
                button="Zero",
                tells="zero",
                reads=reads_of(checks, "zeroed"),
            )
        )
        holds = holds_of(checks)
        acts.append(
            Act(
                code="start",
                title=f"{'; '.join(holds.values()) or 'Everything clear'}?",
                why=f"Then the crosshead starts: {in_numbers(speed_of(frame, parameters))} mm per "
                "minute.",
                button="All is clear, start {label}",
                confirms=holds,
                records=True,
                hold=True,
                caution="Jaws pinch and crush. Local rules for the machine and its guard go "
                "before this page.",
            )
        )
        acts += _while_paused(method, frame, parameters)
        if frame.after:
            acts.append(
                Act(
                    code="looked",
                    title="Look at {label}, and write down what is seen",
                    why="Some of it is not on the trace.",
                    button="Write it down",
                    phase="after",
                    asks=asks_for(method, frame.after),
                )
            )
        return tuple(acts)

    def readings(self, state: State, columns: Columns | None) -> dict[str, Any]:
        """What was written down, and the trace."""
        return dict(state.facts)

    def drawing(self, method: Method, parameters: Mapping[str, Any]) -> Drawing:
        """Force over travel."""
        frame = frame_of(method)
        moves = moves_of(method, parameters)
        reach = frame.travel_mm if frame.until == "travel" else frame.travel_mm / 8
        if moves:
            gauge_mm = separation_mm(parameters) or frame.usual_start_mm
            reach = max(point.extension_mm for point in path_of(moves, gauge_mm)) or reach
        return Drawing(
            Axis("extension_mm", "Extension", "mm"), Axis("force_n", "Force", "N"), reach
        )

    def setup(self, method: Method, parameters: Mapping[str, Any]) -> dict[str, float | str]:
        """Jaws, speed, and where it ends."""
        frame = frame_of(method)
        set_to: dict[str, float | str] = {
            "speed_mm_min": speed_of(frame, parameters),
            "end_mm": frame.travel_mm,
            "until": frame.until,
        }
        start_mm = separation_mm(parameters) or frame.usual_start_mm
        if start_mm:
            set_to["gauge_mm"] = start_mm
        moves = moves_of(method, parameters)
        if moves:
            speeds = [move.speed_mm_min for move in moves if move.speed_mm_min]
            set_to |= {"moves": to_word(moves), "speed_mm_min": speeds[0]}
        if frame.extensometer:
            set_to["off_strain"] = float(parameters.get("extensometer_off_strain") or 0)
            set_to["strain_over_mm"] = float(parameters.get("gauge_length_mm") or 0) or 50.0
            if frame.off_past_peak and not moves:
                set_to["off_fall"] = frame.off_past_peak
        return set_to


def moves_of(method: Method, parameters: Mapping[str, Any]) -> tuple[Move, ...]:
    """The sequence that a frame runs: the one set up at the bench, else the method's own.

    None where it is one pull.
    """
    chosen = parameters.get("moves")
    if chosen:
        return read_moves(str(chosen))
    frame = frame_of(method)
    return frame.moves(parameters) if frame.moves is not None else ()


def lacks_moves(method: Method, parameters: Mapping[str, Any]) -> bool:
    """True for a method that is a sequence, while nothing says what it goes to."""
    live = method.guide.live
    is_sequence = isinstance(live, FrameGuide) and live.moves is not None
    return is_sequence and not moves_of(method, parameters)


def expected_of(method: Method, parameters: Mapping[str, Any]) -> Expected:
    """What a trace of this method should be like."""
    frame = frame_of(method)
    ends = frame.until == "travel"
    return Expected(
        jagged=frame.jagged,
        breaks=not ends and not frame.jagged,
        speed_mm_min=speed_of(frame, parameters),
        travel_mm=frame.travel_mm if ends and frame.jagged else None,
        straight_over_mm=float(parameters.get("gauge_length_mm") or 0) or None
        if frame.extensometer and not frame.off_past_peak
        else None,
    )


def sequence_of(method: Method, parameters: Mapping[str, Any]) -> ExpectedSequence | None:
    """What the sequence that a frame runs should give; None where it is one pull."""
    moves = moves_of(method, parameters)
    if not moves:
        return None
    frame = frame_of(method)
    start_mm = separation_mm(parameters) or frame.usual_start_mm
    return expected_sequence(moves, start_mm, jagged=frame.jagged)


def speed_of(frame: FrameGuide, parameters: Mapping[str, Any]) -> float:
    """The speed of the crosshead in mm per minute: as asked for, by a rate, or the usual one."""
    asked = float(parameters.get("speed_mm_min") or 0)
    if asked:
        return asked
    rate = float(parameters.get("rate_percent_per_min") or 0)
    start_mm = separation_mm(parameters) or frame.usual_start_mm
    return rate / 100 * start_mm if rate and start_mm else frame.usual_speed_mm_min


def frame_of(method: Method) -> FrameGuide:
    """How a frame runs this method; raises TypeError for one that no frame runs."""
    if not isinstance(method.guide.live, FrameGuide):
        raise TypeError(f"{method.id} is not run by a frame")
    return method.guide.live


def _while_paused(
    method: Method, frame: FrameGuide, parameters: Mapping[str, Any]
) -> tuple[Act, ...]:
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
        measure = Act(
            code="measured",
            title="Measure while the force stands",
            why=frame.held_why,
            button="Write it down",
            phase="paused",
            asks=asks_for(method, (frame.held,), gauge="caliper"),
            caution="The specimen is under load: no finger between the jaws.",
        )
        return (measure, replace(_GO_ON, title="Measured? Then let it go", button="Let it go"))
    return ()


PAST_PEAK = "The highest force is past: what still breaks would throw it. The tether stays on."

_PILOT = Act(
    code="pilot",
    title="{label} is the pilot",
    why="Of an unknown material one specimen is pulled first: 1 % of its force is the pretension "
    "of the others. It counts in no mean.",
    button="{label} is the pilot",
    optional=True,
    sets={"pilot": True},
)
_GO_ON = Act(
    code="go-on",
    title="Everything clear? Then go on",
    why="The frame goes on from where it stands; it does not return to zero.",
    button="Go on to the break",
    phase="paused",
    confirms={"fingers-clear": "Fingers clear of the jaws"},
    tells="go-on",
    resumes=True,
    hold=True,
)
_EXCHANGE = (
    Act(
        code="taken-out",
        title="Take the unsewn half out",
        why="The sewn half of the same pair is pulled next, from the same zero.",
        button="It is out",
        phase="paused",
    ),
    Act(
        code="returned",
        title="Bring the jaws back to their distance",
        why="Both halves start from the same length. Keep fingers clear while they move.",
        button="Bring the jaws back",
        phase="paused",
        tells="return",
    ),
    Act(
        code="sewn-in",
        title="Clamp the sewn half of {label}, the seam midway",
        why="A half of another pair compares two cloths.",
        button="It is clamped",
        phase="paused",
        confirms={"partner": "The sewn half carries the same code"},
    ),
    Act(
        code="zeroed-again",
        title="Zero force and extension",
        why="Both curves count from one zero.",
        button="Zero",
        phase="paused",
        tells="zero",
    ),
    replace(
        _GO_ON,
        title="Everything clear? Then pull the sewn half",
        why="Both curves are drawn on one graph; the opening is what lies between them.",
        button="All is clear, pull the sewn half",
    ),
)
_OFF = (
    Act(
        code="extensometer-off",
        title="Take the extensometer off",
        why="The frame pauses at its strain: what breaks would break it too.",
        button="It is off",
        phase="paused",
        confirms={"extensometer-off": "Extensometer off the specimen"},
    ),
    Act(
        code="pin-back",
        title="Put its pin back, and lay it down",
        why="So that it is ready, and nothing hangs in the way.",
        button="The pin is back",
        phase="paused",
    ),
    _GO_ON,
)
