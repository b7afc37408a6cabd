"""What every method has: parameters, readings, results, and a guide for the bench."""

from __future__ import annotations

from array import array
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, ClassVar, Literal, Self

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, PlainValidator, WithJsonSchema, model_validator
from pydantic_core import PydanticCustomError

from endurant.core.bounds import first_out_of_range
from endurant.core.quantities import (
    RoundingRule,
    above,
    at_least,
    grade_text,
    half_step_down,
    in_numbers,
    round_to_decimals,
    round_to_significant,
    round_to_step,
)
from endurant.core.refusals import Invalid, quoted
from endurant.core.trace import Samples

Severity = Literal["void", "warn", "note"]
Bound = Literal["<", ">"]
Statistic = Literal["mean", "median", "count", "class"]
BenchPicture = Literal[
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

LARGEST = 1e12
"""No reading of a bench is larger; a larger one is a slip, and its square would overflow."""

Number = Annotated[float, Field(strict=True, allow_inf_nan=False, ge=-LARGEST, le=LARGEST)]
Positive = Annotated[float, Field(strict=True, allow_inf_nan=False, gt=0, le=LARGEST)]
NotNegative = Annotated[float, Field(strict=True, allow_inf_nan=False, ge=0, le=LARGEST)]
Whole = Annotated[int, Field(strict=True, ge=1, le=1_000_000_000)]
Sections = Annotated[list[Positive], Field(min_length=1, max_length=200)]
Name = Annotated[str, Field(strict=True, min_length=1, max_length=80)]


def refuse_column(column: str, sentence: str) -> PydanticCustomError:
    """What a validator raises when one column of a trace makes no sense."""
    return PydanticCustomError("column", "{sentence}", {"field": column, "sentence": sentence})


def _as_samples(column: object) -> Samples:
    """A list of finite numbers as an array; a loop over pydantic's numbers is 30 times slower."""
    if isinstance(column, np.ndarray):
        samples = column.astype(np.float64, copy=False)
    elif not isinstance(column, list):
        raise PydanticCustomError("list_type", "must be a list")
    elif set(map(type, column)) <= {float, int}:
        try:
            samples = np.frombuffer(array("d", column), dtype=np.float64)
        except OverflowError:
            raise PydanticCustomError("column", "holds a number that is too large") from None
    else:
        place, odd = next((n, x) for n, x in enumerate(column) if type(x) not in (float, int))
        raise PydanticCustomError(
            "column",
            "must hold numbers; sample {place} is {given}",
            {"place": place + 1, "given": "null" if odd is None else f"{quoted(odd)}"},
        )
    if samples.size and not (samples.min() >= -LARGEST and samples.max() <= LARGEST):
        within = np.abs(samples) <= LARGEST
        place = int(np.argmin(within))
        raise PydanticCustomError(
            "column",
            "must hold finite numbers; sample {place} is {given}",
            {"place": place + 1, "given": f"{samples[place]:g}"},
        )
    return samples


def _as_strain(column: object) -> Samples:
    """Strain with NaN where the extensometer is off, which is from one sample on to the end."""
    if isinstance(column, np.ndarray):
        off = np.isnan(column)
        on = int(np.argmax(off)) if off.any() else column.size
        column = [*column[:on].tolist(), *([None] * (column.size - on))]
        if not off[on:].all():
            raise PydanticCustomError("column", "goes on after the extensometer came off")
    if not isinstance(column, list):
        raise PydanticCustomError("list_type", "must be a list")
    on = column.index(None) if type(None) in set(map(type, column)) else len(column)
    if any(one is not None for one in column[on:]):
        raise PydanticCustomError(
            "column", "holds a number after a null; once off, the extensometer stays off"
        )
    if column and on == 0:
        raise PydanticCustomError("column", "begins with null; expected the strain at the start")
    return np.concatenate([_as_samples(column[:on]), np.full(len(column) - on, np.nan)])


def _as_channels(column: object) -> list[Samples]:
    """One channel, or a list of channels."""
    if isinstance(column, list) and column and isinstance(column[0], list | np.ndarray):
        return [_as_samples(channel) for channel in column]
    return [_as_samples(column)]


def _list_schema(item: dict[str, Any]) -> WithJsonSchema:
    return WithJsonSchema({"type": "array", "items": item})


Column = Annotated[Any, PlainValidator(_as_samples), _list_schema({"type": "number"})]
StrainColumn = Annotated[
    Any,
    PlainValidator(_as_strain),
    _list_schema({"anyOf": [{"type": "number"}, {"type": "null"}]}),
]
Channels = Annotated[
    Any,
    PlainValidator(_as_channels),
    _list_schema({"anyOf": [{"type": "number"}, {"type": "array", "items": {"type": "number"}}]}),
]

MOST_SAMPLES = 1_000_000


class Strict(BaseModel):
    """Unknown fields are refused, as are numbers that no bench reads; it is never changed."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    @model_validator(mode="after")
    def _numbers_in_bounds(self) -> Self:
        """Every number lies within the bounds of the unit that its field's name ends in."""
        for name, value in self.__dict__.items():
            if value is None or isinstance(value, str):
                continue
            wrong = first_out_of_range(name, value)
            if wrong is not None:
                raise PydanticCustomError("bounds", "{words}", {"words": wrong, "field": name})
        return self


class TraceColumns(Strict):
    """The columns of one trace, of equal length; a method's own trace says which it needs.

    Each column is read as an array of float64, shape (n,). `strain` is mm/mm, NaN once the
    extensometer is off; `displacement_mm` is a list of channels.
    """

    time_s: Column | None = None
    extension_mm: Column | None = None
    force_n: Column | None = None
    strain: StrainColumn | None = None
    pressure_kpa: Column | None = None
    height_mm: Column | None = None
    displacement_mm: Channels | None = None

    @model_validator(mode="after")
    def _makes_sense(self) -> Self:
        """Columns of equal length, two samples or more, and time that does not fall."""
        lengths = {name: len(column) for name, column in self._single()}
        for number, channel in enumerate(self.displacement_mm or [], start=1):
            lengths[f"displacement_mm channel {number}"] = len(channel)
        if not lengths:
            raise refuse_column("trace", "holds no column")
        first, expected = next(iter(lengths.items()))
        for name, length in lengths.items():
            if length != expected:
                raise refuse_column(
                    name.split()[0],
                    f"{name} has {length} samples, {first} has {expected}; "
                    "the columns of a trace are equally long",
                )
        if expected < 2:
            raise refuse_column(first, f"the trace has {expected} samples; two at least are needed")
        if expected > MOST_SAMPLES:
            raise refuse_column(
                first, f"the trace has {expected} samples; {MOST_SAMPLES} at most are read"
            )
        if self.time_s is not None and bool((falls := np.diff(self.time_s) < 0).any()):
            row = int(np.argmax(falls)) + 2
            raise refuse_column("time_s", f"time_s falls at sample {row}; time runs on")
        return self

    def _single(self) -> list[tuple[str, Samples]]:
        """The columns of one channel, force and extension first."""
        order = ("extension_mm", "force_n", "pressure_kpa", "time_s", "strain", "height_mm")
        return [(name, getattr(self, name)) for name in order if getattr(self, name) is not None]


class ForceTrace(TraceColumns):
    """A trace of a pull or a push: force over crosshead travel."""

    extension_mm: Column
    force_n: Column


class Dimensions(Strict):
    """Repeated readings of one specimen; the mean is used unless the method says otherwise."""

    width_mm: Sections | None = None
    thickness_mm: Sections | None = None
    diameter_mm: Sections | None = None
    length_mm: Sections | None = None
    remaining_width_mm: Sections | None = None


Owner = Literal["asked", "set-up", "house"]


class Digits(Strict):
    """To how many digits, decimals or in which step a figure is reported; one of the three."""

    significant: Annotated[int, Field(strict=True, ge=1, le=12)] | None = None
    decimals: Annotated[int, Field(strict=True, ge=0, le=9)] | None = None
    step: Annotated[str, Field(pattern=r"^\d{1,6}(\.\d{1,6})?$")] | None = None

    @model_validator(mode="after")
    def _one_of_three(self) -> Self:
        given = [self.significant, self.decimals, self.step]
        if sum(way is not None for way in given) != 1 or (
            self.step is not None and not float(self.step)
        ):
            raise ValueError("expected one of significant, decimals and a step above 0")
        return self


class Parameters(Strict):
    """Parameters that every method has.

    Each has an owner: what client and method ask for, what is `set_up` at the bench from what
    the laboratory has, and what is a rule of the `house`. A class names its own; those of the
    classes it is made from count too.
    """

    set_up: ClassVar[tuple[str, ...]] = ()
    house: ClassVar[tuple[str, ...]] = ("rounding", "reported_to")

    reported_to: dict[Name, Digits] = Field(
        default_factory=dict,
        max_length=40,
        description="Digits that the laboratory reports a property to, where they are not the "
        "method's.",
    )
    rounding: RoundingRule = Field(
        "half-even", description="How a tie is rounded: to the even digit, or away from zero."
    )
    specimens_wanted: int = Field(
        1, strict=True, ge=1, le=1000, description="Valid specimens wanted in each direction."
    )


def owner_of(parameters: type[BaseModel], name: str) -> Owner:
    """Who settles a parameter."""
    classes = parameters.__mro__
    if any(name in vars(kind).get("set_up", ()) for kind in classes):
        return "set-up"
    return "house" if any(name in vars(kind).get("house", ()) for kind in classes) else "asked"


def wanted(count: int) -> Any:
    """The field `specimens_wanted` of a method that asks for `count` in each direction."""
    return Field(
        count, strict=True, ge=1, le=1000, description="Valid specimens wanted in each direction."
    )


class Readings(Strict):
    """What is read from one specimen."""

    label: str = Field(min_length=1, max_length=64, description="Name of the specimen.")
    direction: str | None = Field(None, min_length=1, max_length=32, description="Way it lay.")
    state: str = Field("original", min_length=1, max_length=64, description="State it was in.")
    dimensions: Dimensions | None = Field(None, description="Repeated readings of its size.")
    observations: list[str] = Field(
        default_factory=list, max_length=32, description="What the technician saw."
    )

    def refuse(self, field: str, sentence: str) -> Invalid:
        """The refusal of a field of this specimen, to be raised."""
        return Invalid(
            f"specimen {self.label}: {field}: {sentence}", field=field, specimen=self.label
        )

    def sections(self, name: str) -> list[float]:
        """The readings of one dimension; raises Invalid when it was not measured."""
        found = getattr(self.dimensions, name) if self.dimensions is not None else None
        if found is None:
            raise self.refuse(f"dimensions.{name}", "is missing; this method needs it")
        return list(found)


class TraceReadings(Readings):
    """What is read from a specimen that was pulled or pushed."""

    trace: ForceTrace = Field(description="Force over crosshead travel.")


@dataclass(frozen=True)
class Flag:
    """Something that the reviewer or the report must know, with its weight."""

    code: str
    severity: Severity
    text: str


@dataclass(frozen=True)
class Working:
    """How a figure came about, one line of the slip that opens from it.

    `value` names the value of the specimen that the line leads to.
    """

    says: str
    formula: str
    with_: str
    gives: str
    value: str | None = None


@dataclass(frozen=True)
class Mark:
    """Something to draw on a trace, in the units of its axes.

    `points`: dots; `line`: a line through the points; `bands`: upright bands whose edges
    are the x of the points, with a name each; `area`: the area under the trace between the
    x of two points; `end`: the x where the reading ends. `trace` names the readings' field
    when a specimen has more than one trace.
    """

    kind: Literal["points", "line", "bands", "area", "end"]
    says: str
    points: tuple[tuple[float, float], ...]
    names: tuple[str, ...] = ()
    trace: str = "trace"


@dataclass(frozen=True)
class Value:
    """One figure of one specimen, unrounded; None when it cannot be had (a flag says why)."""

    value: float | None
    unit: str
    qualifier: Bound | None = None


@dataclass
class SpecimenResult:
    """What came of one specimen.

    `facts` parts the summary further than direction and state do (the temperature of an
    impact); a specimen that does not `count` (a pilot) is valid and enters no summary;
    `more` is carried into the output beside the values.
    """

    label: str
    direction: str | None
    state: str
    values: dict[str, Value] = field(default_factory=dict)
    flags: list[Flag] = field(default_factory=list)
    working: list[Working] = field(default_factory=list)
    marks: list[Mark] = field(default_factory=list)
    facts: dict[str, Any] = field(default_factory=dict)
    counts: bool = True
    more: dict[str, Any] = field(default_factory=dict)

    @property
    def valid(self) -> bool:
        """It counts: no flag voids it."""
        return all(flag.severity != "void" for flag in self.flags)

    @property
    def enters(self) -> bool:
        """It enters the summary."""
        return self.counts and self.valid

    def figure(self, name: str) -> float | None:
        """The value of that name; None when it is not there or cannot be had."""
        found = self.values.get(name)
        return None if found is None else found.value

    def has_flag(self, code: str) -> bool:
        """A flag with this code stands on the specimen."""
        return any(flag.code == code for flag in self.flags)

    def flag(self, code: str, severity: Severity, text: str) -> None:
        """Add a flag."""
        self.flags.append(Flag(code, severity, text))

    def give(
        self,
        name: str,
        value: float,
        unit: str,
        says: str,
        formula: str,
        with_: str,
        qualifier: Bound | None = None,
    ) -> None:
        """Set a value together with the line of working that leads to it."""
        self.values[name] = Value(float(value), unit, qualifier)
        bound = f"{qualifier} " if qualifier else ""
        self.explain(says, formula, with_, f"{bound}{in_numbers(value)} {unit}".strip(), name)

    def explain(
        self, says: str, formula: str, with_: str, gives: str, value: str | None = None
    ) -> None:
        """Add a line of working."""
        self.working.append(Working(says, formula, with_, gives, value))

    def lacks(self, name: str, unit: str) -> None:
        """Set a value that cannot be had; a flag says why."""
        self.values[name] = Value(None, unit)


@dataclass(frozen=True)
class Band:
    """Figures below a limit, or up to and with it, that are rounded to a step of their own."""

    limit: float
    step: str
    inside: bool = False

    def holds(self, figure: float) -> bool:
        """The unrounded figure belongs to this band."""
        return at_least(self.limit, figure) if self.inside else above(self.limit, figure)

    def in_words(self) -> str:
        """Which figures it is for."""
        return f"{'up to' if self.inside else 'below'} {self.limit:g}"


@dataclass(frozen=True)
class Property:
    """A figure that a method gives, and the way it is written.

    Rounded to `significant` digits (with `most_decimals` at most), to `decimals`, or to a
    `step`, which `bands` of smaller figures have of their own; a `grade` is rounded down to a
    half step and written as 3-4. A figure that is not `summed` belongs to its specimen alone.
    """

    name: str
    title: str
    unit: str
    statistic: Statistic = "mean"
    significant: int | None = None
    most_decimals: int | None = None
    decimals: int | None = None
    step: str | None = None
    bands: tuple[Band, ...] = ()
    grade: bool = False
    summed: bool = True

    def reported_by(self, digits: Digits) -> Property:
        """The same property, written to the digits of the laboratory."""
        return replace(
            self,
            significant=digits.significant,
            most_decimals=None,
            decimals=digits.decimals,
            step=digits.step,
            bands=(),
        )

    def reported(self, figure: float, rule: RoundingRule) -> str:
        """The text that stands in the report."""
        for band in self.bands:
            if band.holds(figure):
                return round_to_step(figure, band.step, rule)
        if self.grade:
            return grade_text(half_step_down(figure))
        if self.step is not None:
            return round_to_step(figure, self.step, rule)
        if self.significant is not None:
            return round_to_significant(figure, self.significant, rule, self.most_decimals)
        return round_to_decimals(figure, self.decimals or 0, rule)

    def rounded_in_words(self) -> str:
        """How `reported` rounds: "to 3 significant digits"."""
        if self.grade:
            return "down to a half step"
        if self.step is not None:
            bands = [f"{band.in_words()} to {band.step}" for band in self.bands]
            return ", ".join([*bands, f"{'above ' if bands else ''}to {self.step} {self.unit}"])
        if self.significant is not None:
            most = "" if self.most_decimals is None else f", {self.most_decimals} decimals at most"
            return f"to {self.significant} significant digits{most}"
        return f"to {self.decimals or 0} decimals"


@dataclass(frozen=True)
class Observation:
    """A code that the technician may choose for a specimen."""

    code: str
    title: str
    severity: Severity
    says: str


@dataclass(frozen=True)
class ReadyCheck:
    """One item of the list gone through before a run.

    `reads` names the state of the instrument that ticks it (`zeroed`, `gauge-length`,
    `speed`); None is confirmed by hand. A `hold` item is confirmed before every run.
    """

    code: str
    title: str
    reason: str
    reads: Literal["zeroed", "gauge-length", "speed"] | None = None
    hold: bool = False


@dataclass(frozen=True)
class InnerMark:
    """A line drawn on the specimen, in mm from its middle; y runs along the long side."""

    name: str
    points_mm: tuple[tuple[float, float], ...]


Stagger = Literal["lengthwise", "both", "none"]


@dataclass(frozen=True)
class Cut:
    """The blank of one specimen and the rules that it is cut by.

    `points_mm` is the outline of a die, from its middle, the long side along y; a rectangle
    and a disc need none. `fails_across`: the yarns that the test works on lie across the
    long side, so that a long side along the warp tests the weft. `stagger`: see
    `cutting.rules`. From either selvedge `selvedge_margin_mm` are kept, and at least the
    share `selvedge_share` of the width. Punched with a die, neighbours may touch
    (`die_cut`). Yarns of high strength are cut with a `hot_knife`, because shears fray them.
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
    die_cut: bool = False
    hot_knife: bool = False

    def size_in_words(self) -> str:
        """The size as it is said: 200 x 50 mm, or a disc of 113 mm."""
        if self.outline == "disc":
            return f"disc of {self.long_mm:g} mm"
        return f"{self.long_mm:g} x {self.short_mm:g} mm"


@dataclass(frozen=True)
class GuideStage:
    """A stay that a method asks for before its test, times in minutes.

    The greatest wait after it is fixed, or a parameter of the method that is in seconds.
    """

    atmosphere: str
    least_minutes: float
    most_wait_minutes: float | None = None
    wait_parameter_s: str = ""
    why: str = ""


@dataclass(frozen=True)
class Age:
    """How old a material may be when it is tested, in hours since an event such as moulding."""

    event: str
    least_hours: float
    most_hours: float


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
class Guide:
    """The page on the wall: what a bench, a sheet and a learner need to know.

    `cut` and `atmosphere` are None where nothing is cut from a sheet or nothing is
    conditioned; `run_end_mm` is the crosshead travel at which a frame stops by itself. Where
    `stages` are the stays before the test where one atmosphere does not say it all,
    `measures` what is read off each specimen, and `age` how old the material may be. Where
    the parameter `cut_by` decides on the die, `cuts` has the blank of each of its values that
    is not `cut`.
    """

    purpose: str
    specimen: str
    count_per_direction: int
    cut: Cut | None
    atmosphere: str | None
    bench: BenchPicture
    ready_checks: tuple[ReadyCheck, ...]
    cautions: tuple[str, ...]
    observations: tuple[Observation, ...]
    steps: tuple[str, ...]
    computes: tuple[str, ...]
    mistakes: tuple[str, ...]
    watch: str = ""
    run_end_mm: float | None = None
    spares_per_direction: int = 1
    stages: tuple[GuideStage, ...] | None = None
    measures: tuple[Measure, ...] = ()
    age: Age | None = None
    cut_by: str = ""
    cuts: Mapping[str, Cut] = field(default_factory=dict)


Results = Sequence[SpecimenResult]
Family = Literal[
    "Tear and seam",
    "Tension",
    "Puncture, burst, compression",
    "Surface",
    "Fire",
    "Melt flow",
    "Impact",
    "Packaging",
]

WAYS = ("warp", "weft", "md", "cd", "length", "width", "face-out", "face-in")
"""Directions that any method takes unless it names its own."""


def no_review(_results: Results, _parameters: Any) -> list[Flag]:
    """The review of a method that has nothing to say over all its specimens."""
    return []


@dataclass(frozen=True)
class Method:
    """One method: found by its id, run by `analyse`, explained by its guide.

    `directions` are those that a job asks for; `also_directions` are understood in a
    document too. `together` amends the results where specimens matter to one another;
    `review` flags the whole test; `more_properties` depend on the parameters; `summarise`
    replaces the rows by direction and state; `more` is put beside the summary. Specimens are
    planned for each direction when a sample is received, or named by the document that
    brings their readings in; `runs_at_frame` when the bench can pull them live.
    """

    id: str
    title: str
    family: Family
    properties: tuple[Property, ...]
    parameters: type[Any]
    readings: type[Any]
    guide: Guide
    analyse: Callable[[Any, Any], SpecimenResult]
    directions: tuple[str, ...] = ()
    also_directions: tuple[str, ...] = WAYS
    direction_required: bool = False
    planned: Literal["by-direction", "by-document"] = "by-direction"
    runs_at_frame: bool = False
    label_prefixes: dict[str, str] = field(default_factory=dict)
    review: Callable[[Results, Any], list[Flag]] = no_review
    together: Callable[[list[SpecimenResult], Sequence[Any], Any], None] | None = None
    more_properties: Callable[[Any], tuple[Property, ...]] | None = None
    summarise: Callable[[Method, Results, Any], list[Any]] | None = None
    more: Callable[[Results, Any], dict[str, Any]] | None = None

    @property
    def known_directions(self) -> tuple[str, ...]:
        """All directions that a document may give."""
        return tuple(dict.fromkeys(self.directions + self.also_directions))

    def cut_for(self, parameters: Mapping[str, Any]) -> Cut | None:
        """The blank under these parameters; None where nothing is cut from a sheet."""
        guide = self.guide
        return guide.cuts.get(str(parameters.get(guide.cut_by)), guide.cut)

    def properties_for(self, parameters: Any) -> tuple[Property, ...]:
        """The properties under these parameters."""
        more = self.more_properties(parameters) if self.more_properties else ()
        digits = parameters.reported_to
        return tuple(
            known.reported_by(digits[known.name]) if known.name in digits else known
            for known in self.properties + more
        )

    def label_prefix(self, direction: str | None) -> str:
        """What labels of this direction begin with: its own letter, or its initials."""
        if direction is None:
            return "S"
        initials = "".join(word[0] for word in direction.split("-")).upper()
        return self.label_prefixes.get(direction, initials)
