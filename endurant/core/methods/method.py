"""What every method has: parameters, readings, results, and a guide for the bench."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from endurant.core.quantities import RoundingRule, round_to_decimals, round_to_significant
from endurant.core.trace import Samples

Severity = Literal["void", "warn", "note"]
Statistic = Literal["mean", "median"]
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

Number = Annotated[float, Field(strict=True, allow_inf_nan=False)]
Positive = Annotated[float, Field(strict=True, allow_inf_nan=False, gt=0)]
Column = list[Number]


class Strict(BaseModel):
    """Unknown fields are refused, and what was read is not changed afterwards."""

    model_config = ConfigDict(extra="forbid", frozen=True)


class TraceColumns(Strict):
    """The columns of one trace, of equal length; a method says which it needs."""

    time_s: Column | None = None
    extension_mm: Column | None = None
    force_n: Column | None = None
    strain: list[Number | None] | None = None
    pressure_kpa: Column | None = None
    height_mm: Column | None = None
    displacement_mm: list[Column] | None = None

    def samples(self, column: str) -> Samples:
        """One column as an array of float64."""
        return np.asarray(getattr(self, column), dtype=np.float64)


class Dimensions(Strict):
    """Repeated readings of one specimen; the mean is used unless the method says otherwise."""

    width_mm: list[Positive] | None = None
    thickness_mm: list[Positive] | None = None
    diameter_mm: list[Positive] | None = None


class Parameters(Strict):
    """Parameters that every method has."""

    rounding: RoundingRule = Field(
        "half-even", description="How a tie is rounded: to the even digit, or away from zero."
    )
    specimens_wanted: int = Field(
        1, strict=True, ge=1, le=1000, description="Valid specimens wanted in each direction."
    )


class Readings(Strict):
    """What is read from one specimen."""

    label: str = Field(min_length=1, max_length=64)
    direction: str | None = Field(None, min_length=1, max_length=32)
    state: str = Field("original", min_length=1, max_length=64)
    dimensions: Dimensions | None = None
    observations: list[str] = Field(default_factory=list, max_length=32)


@dataclass(frozen=True)
class Flag:
    """Something that the reviewer or the report must know, with its weight."""

    code: str
    severity: Severity
    text: str


@dataclass(frozen=True)
class Working:
    """How a figure came about, one line of the slip that opens from it."""

    says: str
    formula: str
    with_: str
    gives: str


@dataclass(frozen=True)
class Mark:
    """Something to draw on a trace, in the units of its axes.

    `points`: dots; `line`: a line through the points; `bands`: upright bands whose edges
    are the x of the points, with a name each; `end`: the x where the reading ends.
    """

    kind: Literal["points", "line", "bands", "end"]
    says: str
    points: tuple[tuple[float, float], ...]
    names: tuple[str, ...] = ()


@dataclass(frozen=True)
class Value:
    """One figure of one specimen, unrounded; None when it cannot be had (a flag says why)."""

    value: float | None
    unit: str
    qualifier: Literal["<", ">"] | None = None


@dataclass
class SpecimenResult:
    """What came of one specimen."""

    label: str
    direction: str | None
    state: str
    values: dict[str, Value] = field(default_factory=dict)
    flags: list[Flag] = field(default_factory=list)
    working: list[Working] = field(default_factory=list)
    marks: list[Mark] = field(default_factory=list)

    @property
    def valid(self) -> bool:
        """It counts: no flag voids it."""
        return all(flag.severity != "void" for flag in self.flags)


@dataclass(frozen=True)
class Property:
    """A figure that a method reports, and the way it is written."""

    name: str
    title: str
    unit: str
    statistic: Statistic = "mean"
    significant: int | None = None
    decimals: int | None = None

    def reported(self, figure: float, rule: RoundingRule) -> str:
        """The text that stands in the report."""
        if self.significant is not None:
            return round_to_significant(figure, self.significant, rule)
        return round_to_decimals(figure, self.decimals or 0, rule)


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


@dataclass(frozen=True)
class Cut:
    """The blank of one specimen and the rules that it is cut by.

    `fails_across`: the yarns that the test works on lie across the long side, so that a
    long side along the warp tests the weft. `stagger`: see `cutting.rules`.
    """

    outline: Literal["rectangle"]
    long_mm: float
    short_mm: float
    inner_marks: tuple[InnerMark, ...]
    fails_across: bool
    works_on: str
    selvedge_margin_mm: float
    stagger: Literal["lengthwise", "both", "none"]
    count_per_direction: int
    spares_per_direction: int = 1


@dataclass(frozen=True)
class Guide:
    """The page on the wall: what a bench, a sheet and a learner need to know."""

    purpose: str
    cut: Cut
    atmosphere: str
    bench: BenchPicture
    ready_checks: tuple[ReadyCheck, ...]
    cautions: tuple[str, ...]
    observations: tuple[Observation, ...]
    steps: tuple[str, ...]
    watch: str
    mistakes: tuple[str, ...]
    run_end_mm: float
    """Crosshead travel at which a frame stops by itself."""


@dataclass(frozen=True)
class Method:
    """One method: found by its id, run by `analyse`, explained by its guide."""

    id: str
    title: str
    directions: tuple[str, ...]
    label_prefixes: dict[str, str]
    properties: tuple[Property, ...]
    parameters: type[Any]
    readings: type[Any]
    guide: Guide
    analyse: Callable[[Any, Any], SpecimenResult]
    review: Callable[[Sequence[SpecimenResult], Any], list[Flag]]

    def property_named(self, name: str) -> Property:
        """The reported property of that name; raises KeyError."""
        return next(found for found in self.properties if found.name == name)
