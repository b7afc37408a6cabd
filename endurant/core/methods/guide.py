"""The page on the wall: what a bench, a sheet and a learner need to know of a method."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from string import ascii_lowercase
from typing import Any, Literal

from endurant.core.methods.results import Severity
from endurant.core.moves import Move
from endurant.core.rounding import in_numbers

BenchProcedure = Literal[
    "trace",
    "paired-trace",
    "burst",
    "rig",
    "swing",
    "staircase",
    "cuts",
    "burn",
    "looks",
    "grades",
    "weigh",
    "drops",
    "leak",
]


@dataclass(frozen=True)
class Observation:
    """A code that the technician may choose for a specimen."""

    code: str
    title: str
    severity: Severity
    text: str


AskKind = Literal["number", "numbers", "choice", "text"]


@dataclass(frozen=True)
class Ask:
    """A value that the bench asks for; it enters the readings under its name.

    A `gauge` (caliper, thickness gauge, balance) can give it; a `whole` value counts. The meaning
    of a choice in `means` is stored in its place, `explanations` explain the choices, and `preset`
    is the value that the field shows first. A value below `low` or above `high` is refused.
    """

    name: str
    title: str
    unit: str = ""
    kind: AskKind = "number"
    choices: tuple[str, ...] = ()
    gauge: str = ""
    required: bool = True
    whole: bool = False
    means: Mapping[str, Any] = field(default_factory=dict)
    preset: float | str | None = None
    explanations: Mapping[str, str] = field(default_factory=dict)
    low: float | None = None
    high: float | None = None


def yes_or_no(name: str, title: str, no: str, yes: str) -> Ask:
    """Return a question with two answers, kept as false and true."""
    return Ask(name, title, kind="choice", choices=(no, yes), means={no: False, yes: True})


Reads = Literal[
    "zeroed",
    "displacements-zeroed",
    "force-zeroed",
    "travel-zeroed",
    "force-released",
    "gauge-length",
    "at-start",
    "speed",
    "force-limit",
    "drain-shut",
    "clamped",
    "seated",
    "touches",
    "sign",
    "limit",
    "pretension",
    "settled",
    "fan-off",
    "count-set",
]
"""What a sensor of the device can prove; see `core.bench.status`."""


@dataclass(frozen=True)
class ReadyCheck:
    """One item of the list that is gone through before a run.

    It is sensed, answered or confirmed, and no other fact ticks it. `reads` names the sensor fact
    that proves it; `asks` are the numbers that answer it; otherwise a person confirms it. A
    `hold` item is confirmed before every run. With `tells` the device does it as it is confirmed.
    The title may show set-up and parameters, as in "Die {die}". `when` says under which
    parameters the item is asked at all. An `early` item comes before conditioning. One about the
    `set_up` does not change from one specimen to the next, and is confirmed once for all of them.
    """

    code: str
    title: str
    reason: str
    reads: Reads | None = None
    hold: bool = False
    tells: Literal["", "release", "grip"] = ""
    asks: tuple[Ask, ...] = ()
    when: Callable[[Mapping[str, Any]], bool] | None = None
    early: bool = False
    set_up: bool = False

    def under(self, aims: Mapping[str, Any]) -> ReadyCheck | None:
        """Return the item under this set-up, its title filled in; None where it is not asked."""
        if self.when is not None and not self.when(aims):
            return None
        return replace(self, title=self.title.format_map(_Filled(aims)))

    def in_general(self) -> ReadyCheck:
        """Return the item as the page of the method shows it: "…" for what the set-up gives."""
        return replace(self, title=self.title.format_map(_Filled({})))


class _Filled(dict[str, str]):
    """Set-up and parameters as a title shows them."""

    def __init__(self, aims: Mapping[str, Any]) -> None:
        super().__init__({name: _shown(value) for name, value in aims.items()})

    def __missing__(self, name: str) -> str:
        return "{label}" if name == "label" else "…"


def _shown(value: object) -> str:
    if value is None or value == "":
        return "…"
    if isinstance(value, list | tuple):
        return ", ".join(map(_shown, value))
    is_number = isinstance(value, int | float) and not isinstance(value, bool)
    return in_numbers(float(str(value))) if is_number else str(value)


@dataclass(frozen=True)
class InnerMark:
    """A line drawn on the specimen, in mm from its middle; y runs along the long side."""

    name: str
    points_mm: tuple[tuple[float, float], ...]


SlipShape = Literal["trousers", "strip", "square", "disc", "dumbbell", "block"]
Stagger = Literal["lengthwise", "both", "none"]


MOULDED_EDGE_MM = 5.0
"""What is kept from every edge of a moulded sheet, where the flow may have left a rim."""


@dataclass(frozen=True)
class Blank:
    """The blank of one specimen and the rules that it is cut by.

    `points_mm` is the outline of a die, from its middle, the long side along y; a rectangle
    and a disc need none. `fails_across`: the yarns that the test works on lie across the
    long side, so that a long side along the warp tests the weft. `stagger`: see
    `cutting.rules`. From either selvedge `selvedge_margin_mm` are kept, and at least the
    share `selvedge_share` of the width. Where the sheet has room, specimens that
    `keeps_crossing_apart` share no crossing yarns either. Punched with a die, neighbours may touch
    (`die_cut`). A moulded sheet has edges in place of selvedges, and one direction of its grain,
    which its longer side tells. Yarns of high strength are cut with a `hot_knife`, because
    shears fray them.
    """

    outline: Literal["rectangle", "disc", "die"]
    long_mm: float
    short_mm: float
    works_on: str
    inner_marks: tuple[InnerMark, ...] = ()
    points_mm: tuple[tuple[float, float], ...] = ()
    fails_across: bool = False
    selvedge_margin_mm: float = 10
    selvedge_share: float = 0
    stagger: Stagger = "none"
    keeps_crossing_apart: bool = False
    die_cut: bool = False
    cut_from: Literal["roll", "moulded-sheet"] = "roll"
    hot_knife: bool = False

    @property
    def slip_shape(self) -> SlipShape:
        """The shape by which a specimen is known at a glance."""
        if any(mark.name == "slit" for mark in self.inner_marks):
            return "trousers"
        if self.outline == "die":
            return "dumbbell"
        if self.outline == "disc":
            return "disc"
        return "square" if self.long_mm == self.short_mm else "strip"

    def size_in_words(self) -> str:
        """Return the size as it is said: 200 x 50 mm, or a disc of 113 mm."""
        if self.outline == "disc":
            return f"disc of {self.long_mm:g} mm"
        return f"{self.long_mm:g} x {self.short_mm:g} mm"


@dataclass(frozen=True)
class GuideStage:
    """A conditioning period that a method requires before its test, times in minutes.

    The greatest wait after it is fixed, or a parameter of the method that is in seconds.
    """

    atmosphere: str
    least_minutes: float
    most_wait_minutes: float | None = None
    wait_parameter_s: str = ""
    why: str = ""


@dataclass(frozen=True)
class Age:
    """How old a material may be when it is tested, in hours since an event such as moulding.

    The least age may be a `parameter` in hours. `reading` keeps the age in hours with each
    specimen. A `needed` moment has to be recorded before the test, `when` it is asked at all.
    """

    event: str
    min_hours: float
    max_hours: float
    parameter: str = ""
    reading: str = ""
    needed: bool = False
    when: Callable[[Mapping[str, Any]], bool] | None = None

    def least_for(self, parameters: Mapping[str, Any]) -> float:
        """Return the least age in hours under these parameters."""
        return float(parameters.get(self.parameter) or self.min_hours)

    def requested(self, parameters: Mapping[str, Any]) -> bool:
        """True where the moment matters under these parameters."""
        return self.when is None or self.when(parameters)


AFTER_VULCANISING = Age("vulcanising", 16, 28 * 24)


@dataclass(frozen=True)
class Measure:
    """A size that is read off each specimen: its field in `dimensions`, and at how many places.

    The places lie along the long side within `span_mm` around the middle; `nominal_mm` is what
    the die or the mould should give. A round specimen has one that is read `instead`.
    """

    field: str
    count: int
    span_mm: float = 0
    nominal_mm: float | None = None
    instead: bool = False


@dataclass(frozen=True)
class Go:
    """The start of a rig before a turn: what it is set to, and how long it runs in s.

    `counts` is the count at which it stops, where it has a counter.
    """

    title: str
    why: str
    button: str
    seconds: float
    counts: float | None = None
    caution: str = ""


@dataclass(frozen=True)
class Turn:
    """One more drop, look or cut of a series: what is next, why, and what is asked for after it.

    What it `sets` enters the item beside the answers. A turn that `goes` begins with the start of
    a rig. A next one is due after `every_s`. `refuses` raises Invalid for answers that cannot go
    together.
    """

    title: str
    why: str
    button: str
    asks: tuple[Ask, ...]
    sets: Mapping[str, Any] = field(default_factory=dict)
    goes: Go | None = None
    every_s: float = 0.0
    refuses: Callable[[Mapping[str, Any]], None] | None = None


@dataclass(frozen=True)
class Advice:
    """What the specimens so far say of the next one, and what they preset of its answers.

    `proposes` is set-up that they propose in place of what is set.
    """

    text: tuple[str, ...]
    presets: Mapping[str, float | str] = field(default_factory=dict)
    proposes: Mapping[str, float] = field(default_factory=dict)


Advises = Callable[[Mapping[str, Any], Sequence[Mapping[str, Any]], Mapping[str, Any]], Advice]
"""From the parameters, the entries of the specimens so far, and what is known of this one."""


@dataclass(frozen=True)
class Due:
    """Specimens that the rule of a method calls: how many of a direction, and their presets.

    Those of `treated` cloth are cut after its treatment.
    """

    direction: str
    count: int
    presets: Mapping[str, str]
    treated: bool = False


@dataclass(frozen=True)
class SeriesGuide:
    """A test that goes turn by turn: drops of a dart, looks at counts, grades by assessors.

    `turn` says what is next from the parameters and the items so far; None when it is through.
    The items become the list `reading`, each its answers or the `plain` one alone; with `blind`
    nobody sees them before, and each is given by another person. It may be ended earlier where
    `may_end` says so in words. `then` is a series that follows. `first` is one start of the rig
    before the whole series.
    """

    code: str
    reading: str
    turn: Callable[[Mapping[str, Any], Sequence[Any]], Turn | None]
    plain: str = ""
    blind: bool = False
    may_end: str = ""
    then: SeriesGuide | None = None
    first: Callable[[Mapping[str, Any]], Go] | None = None


@dataclass(frozen=True)
class StepsGuide:
    """A test that is a few steps of its kind, which its procedure lays out (a leak, a flame)."""


@dataclass(frozen=True)
class FrameGuide:
    """How a frame runs a method.

    It ends when the specimen breaks or at its travel, and always stops at `travel_mm` of the
    crosshead. `usual_speed_mm_min` and `usual_start_mm` are what is set where the test names no
    speed and no distance of the jaws; a start of 0 is where the platens or the probe touch.
    `usual_max_n` is the greatest force that is usual, by which a frame is proposed;
    `jagged` says that the force falls and rises by nature, as in a tear or a peel.
    `after` names the readings that are asked for once it has ended. With an `extensometer` the
    strain is recorded too; where the test says at which strain it comes off, the frame pauses.
    `moves` is the sequence that the parameters ask for, where it is more than one pull; what it
    records becomes the readings `parts`, one for each of a pair. Where it pauses under load,
    `held` names the reading that is measured then, and `held_why` says how. With `pilot` the
    pretension comes from a specimen that is pulled first and does not count. With `off_past_peak`
    the extensometer comes off where the force has fallen by that share of its highest.
    `pretension` gives it from the parameters where it is no parameter itself.
    The jaws stand at the gauge length unless the method has `own_grips`: then the grip separation
    is a length of its own. With `force_first` the force is zeroed before both grips are closed.
    A load cell of more than `most_cell_n` reads the forces of this method too coarsely.
    `holder` is what holds the specimen; `platens` do not grip it.
    """

    travel_mm: float
    until: Literal["break", "travel"] = "break"
    usual_speed_mm_min: float = 100
    usual_start_mm: float = 0
    usual_max_n: float = 400
    jagged: bool = False
    after: tuple[str, ...] = ()
    extensometer: bool = False
    moves: Callable[[Mapping[str, Any]], tuple[Move, ...]] | None = None
    parts: tuple[str, ...] = ("trace",)
    held: str = ""
    held_why: str = ""
    pilot: bool = False
    off_past_peak: float = 0.0
    own_grips: bool = False
    force_first: bool = False
    pretension: Callable[[Mapping[str, Any]], float] | None = None
    max_cell_n: float = 0.0
    holder: Literal["grips", "platens", "clamp"] = "grips"


@dataclass(frozen=True)
class RigGuide:
    """How a bursting rig runs a method: until it bursts, or `longest_s` are over.

    The burst should come within `window_s`, where the method says so.
    """

    longest_s: float = 60
    window_s: tuple[float, float] | None = None


@dataclass(frozen=True)
class Sensor:
    """A displacement sensor of a rig, and where it stands in the plan."""

    name: str
    x_mm: float
    y_mm: float


@dataclass(frozen=True)
class PressGuide:
    """How a compression rig bends a pallet, and where its sensors stand."""

    sensors: tuple[Sensor, ...]


@dataclass(frozen=True)
class WeighGuide:
    """What is weighed before and after, and what happens between.

    `before` and `after` name readings in g. Water stands for exactly the seconds of the parameter
    `clock`; or a rig `rubs` in between.
    """

    before: str
    after: str
    clock: str = ""
    rubs: Callable[[Mapping[str, Any]], Go] | None = None


@dataclass(frozen=True)
class SwingGuide:
    """What is read off a pendulum: `reading` off its scale, `also` by looking.

    Where bars come from a chamber, `transfer` names the parameter with the longest way to the
    strike in seconds, and the reading in which that way is kept.
    """

    reading: str
    also: tuple[str, ...] = ()
    transfer: tuple[str, str] | None = None


@dataclass(frozen=True)
class Demand:
    """What one test uses beside the specimens that are wanted in each direction.

    Each of those is tested in so many `states`; `before` come first and do not count, `later` are
    kept for rounds that only some results ask for; the last `treated` of those are cut from one
    piece of cloth after its treatment. A specimen is of so many `pieces`, each a `piece`, or is
    cut into `halves` that are tested together. `text` puts it in words.
    """

    states: int = 1
    before: int = 0
    later: int = 0
    treated: int = 0
    pieces: int = 1
    piece: str = ""
    halves: tuple[str, ...] = ()
    text: str = ""

    def planned(self, requested: int) -> int:
        """Return how many specimens of a direction are planned where so many are wanted."""
        return requested * self.states + self.before


def piece_letter(place: int) -> str:
    """Return what the piece at this place, from 0, is called: a to z, then .27 and so on."""
    return ascii_lowercase[place] if place < len(ascii_lowercase) else f".{place + 1}"


def one_piece(_parameters: Mapping[str, Any]) -> Demand:
    """Return what most methods use: a specimen, in one piece, for each that is wanted."""
    return Demand()


def nothing_more(_parameters: Mapping[str, Any]) -> Sequence[str]:
    """Return what most methods need beside what their model requires: nothing."""
    return ()


def nothing_proposed(_parameters: Mapping[str, Any]) -> Mapping[str, Any]:
    """Return what most methods propose for a set-up that is missing: nothing."""
    return {}


Live = FrameGuide | RigGuide | PressGuide | WeighGuide | SwingGuide | SeriesGuide | StepsGuide


@dataclass(frozen=True)
class Guide:
    """The page on the wall: what a bench, a sheet and a learner need to know.

    `blank` and `atmosphere` are None where nothing is cut from a sheet or nothing is
    conditioned; `live` says how the bench runs it, None where its readings are brought in. Where
    `stages` are the periods before the test where one atmosphere is not enough,
    `measures` what is read off each specimen, and `age` how old the material may be. Where
    the parameter `cut_by` decides on the die, `blanks` has the blank of each of its values that
    is not `cut`. `station` names the device where it is not the usual one of its procedure;
    `wears` is what a specimen of it uses up a little of, and has to be changed in time; where that
    is not counted in specimens, `worn` is how much one wore from its readings and the parameters,
    in `worn_unit`;
    `forms` are the forms of a sample that it is done on, where they are not the usual ones;
    `advises` says what the specimens so far mean for the next; `demand` what a test uses under
    its parameters, and `resized` what a set-up makes of its blank. `needs` names the parameters
    that the bench cannot start without, beside those that the model requires, and `proposes`
    gives a usual value for them. `calls`
    names the specimens of the next round, where the rule of the method decides that. `given` are
    readings that a parameter gives, by their names; a parameter that `splits` makes one test of
    each of its values, where it says both.
    """

    purpose: str
    specimen: str
    count_per_direction: int
    blank: Blank | None
    atmosphere: str | None
    bench: BenchProcedure
    ready_checks: tuple[ReadyCheck, ...]
    cautions: tuple[str, ...]
    observations: tuple[Observation, ...]
    steps: tuple[str, ...]
    computes: tuple[str, ...]
    mistakes: tuple[str, ...]
    watch: str = ""
    live: Live | None = None
    spares_per_direction: int = 1
    stages: tuple[GuideStage, ...] | None = None
    measures: tuple[Measure, ...] = ()
    age: Age | None = None
    cut_by: str = ""
    blanks: Mapping[str, Blank] = field(default_factory=dict)
    station: Literal["", "rub-rig", "shaking-table"] = ""
    wears: tuple[str, ...] = ()
    worn: Callable[[Mapping[str, Any], Mapping[str, Any]], int] | None = None
    worn_unit: str = "specimens"
    forms: tuple[str, ...] = ()
    advises: Advises | None = None
    resized: Callable[[Blank, Mapping[str, Any]], Blank] | None = None
    demand: Callable[[Mapping[str, Any]], Demand] = one_piece
    calls: Callable[[Mapping[str, Any], Sequence[Mapping[str, Any]]], Sequence[Due]] | None = None
    given: Mapping[str, str] = field(default_factory=dict)
    splits: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    needs: Callable[[Mapping[str, Any]], Sequence[str]] = nothing_more
    proposes: Callable[[Mapping[str, Any]], Mapping[str, Any]] = nothing_proposed
