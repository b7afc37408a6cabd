"""The views of the bench: what a screen is given of one specimen, to draw it and to act."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from endurant.work.base.view import View
from endurant.work.views.gauges import GaugeView
from endurant.work.views.stations import StationView


class AskView(View):
    """A value that the step asks for."""

    name: str
    title: str
    unit: str
    kind: Literal["number", "numbers", "choice", "text"]
    choices: list[str]
    gauge: str
    required: bool
    preset: float | str | None
    explanations: dict[str, str]


class StepView(View):
    """The one thing to do next, and why.

    A `suspect` is to be examined before it is accepted. Until `held_until` a reason is needed.
    """

    act: str
    title: str
    why: str
    button: str
    kind: Literal["do", "watch", "look", "suspect", "end"]
    confirms: list[str]
    asks: list[AskView]
    hold: bool
    caution: str
    held_until: datetime | None
    hands_on_min: float
    unattended_min: float


class CheckView(View):
    """One item of the ready check, and what the device or a person says of it.

    `event` is the number of the action that confirmed it, where that can be taken back.
    """

    code: str
    title: str
    reason: str
    reads: str | None
    hold: bool
    ticked: bool
    text: str
    event: int | None


class BenchClock(View):
    """A clock that runs at the bench."""

    code: str
    title: str
    kind: Literal["at-least", "at-most", "exactly"]
    seconds: float
    since: datetime


class FactView(View):
    """Something that was read or written down."""

    name: str
    title: str
    value: str
    unit: str


class EventView(View):
    """Something that happened at the bench."""

    number: int
    kind: str
    at: datetime
    by: str
    taken_back: bool


class UndoView(View):
    """The last thing that a person did here and can take back."""

    number: int
    title: str


class SuspicionView(View):
    """Something that looks odd on the trace, what gave it away, and where."""

    code: str
    text: str
    at_x: float
    at_y: float


class AxisView(View):
    """A column as it is drawn."""

    column: str
    title: str
    unit: str


class ScaleView(View):
    """The scale of a pendulum, and the shares of it between which a reading counts."""

    reading: str
    full: float
    unit: str
    lower: float
    upper: float


class DrawingView(View):
    """What is drawn while a device records, and how far the first axis reaches at the start."""

    x: AxisView
    y: AxisView
    reach: float


class SeriesView(View):
    """What a series gave so far, item by item; hidden where assessors are blind to the others.

    `due` is what the next turn sets by itself: a mass, a position; None when it is through.
    """

    code: str
    reading: str
    due: dict[str, str | float] | None
    items: list[dict[str, Any] | str | float]
    hidden: int


class SensorView(View):
    """A displacement sensor of a rig, and where it stands in the plan."""

    name: str
    x_mm: float
    y_mm: float


class PathView(View):
    """The way that a sequence of moves takes, and the moves in words, one a line."""

    title: str
    moves: list[str]
    points: list[PathPointView]


class SealedAt(View):
    """The mean strength of what was sealed at one temperature, in N/mm."""

    jaw_temperature_c: float
    mean: float


class SealWindowView(View):
    """The window of a sealer as far as it is known: where the strength stays near its best."""

    points: list[SealedAt]
    plateau_c: tuple[float, float]
    setting_c: float
    initiation_c: float | None


class ShownView(View):
    """What the device reads for a value that is asked for; words where it is one of several."""

    name: str
    title: str
    value: float | str


class ProposalView(View):
    """Set-up that the specimens so far propose."""

    name: str
    title: str
    unit: str
    value: float


class StationChoice(View):
    """A station that could run the test, the fittest first."""

    id: int
    name: str


class BenchView(View):
    """Where one specimen stands in its test, at one station.

    `step` is None where nothing is to be done at the bench; `waits` says why, and `waits_code` is
    its code; `also` may be done beside it. `last` is the number of the last event, which an
    action has to name. `may_void` and `may_bring_in` say whether it may be voided, or its trace
    brought in from a file.
    """

    specimen_id: int
    test_id: int
    label: str
    procedure: str
    phase: str
    last: int
    figure_unit: str
    step: StepView | None
    also: list[StepView]
    waits: str
    waits_code: str | None
    set_up: str
    proposals: list[ProposalView]
    checks: list[CheckView]
    clocks: list[BenchClock]
    facts: list[FactView]
    remarks: list[str]
    events: list[EventView]
    undo: UndoView | None
    noted: list[str]
    suspicions: list[SuspicionView]
    drawing: DrawingView | None
    path: PathView | None
    sensors: list[SensorView]
    series: list[SeriesView]
    scale: ScaleView | None
    seal_window: SealWindowView | None
    shows: list[ShownView]
    gauges: list[GaugeView]
    stations: list[StationChoice]
    station: StationView | None
    run_id: int | None
    run_state: str | None
    may_void: bool
    may_bring_in: bool
    now: datetime


class PathPointView(View):
    """A corner of the way that a sequence takes; not `known` where only a run can tell."""

    time_s: float
    extension_mm: float
    known: bool
