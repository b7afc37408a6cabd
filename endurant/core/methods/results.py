"""What comes of a specimen: figures with their working, marks and flags."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from endurant.core.messages import Message
from endurant.core.rounding import in_numbers
from endurant.core.statistics import Qualifier

Severity = Literal["void", "warn", "note"]


@dataclass(frozen=True)
class Flag:
    """Something that the reviewer or the report must know, with its weight."""

    code: str
    severity: Severity
    message: Message

    @classmethod
    def of(cls, code: str, severity: Severity, /, *, sentence: str = "", **params: object) -> Flag:
        """Return the flag; its sentence is `flag.` and its code, where no other one is named."""
        return cls(code, severity, Message(sentence or f"flag.{code}", params))

    @property
    def text(self) -> str:
        """The sentence for the reviewer."""
        return self.message.text

    def as_json(self) -> dict[str, Any]:
        """Return the flag as a result document holds it."""
        return {
            "code": self.code,
            "severity": self.severity,
            "text": self.text,
            "params": self.message.plain_params(),
        }


@dataclass(frozen=True)
class Working:
    """How a figure came about, one line of the slip that opens from it.

    `value` names the value of the specimen that the line leads to.
    """

    text: str
    formula: str
    with_: str
    gives: str
    value: str | None = None


@dataclass(frozen=True)
class Mark:
    """Something to draw on a trace, in the units of its axes.

    `points`: dots, each with its name where it has one; `line`: a line through the points;
    `bands`: upright bands whose edges are the x of the points, with a name each; `area`: the
    area under the trace between the x of two points; `end`: the x where the reading ends.
    `trace` names the readings' field when a specimen has more than one trace.
    """

    kind: Literal["points", "line", "bands", "area", "end"]
    text: str
    points: tuple[tuple[float, float], ...]
    names: tuple[str, ...] = ()
    trace: str = "trace"


@dataclass(frozen=True)
class Value:
    """One figure of one specimen, unrounded; None when it cannot be had (a flag says why)."""

    value: float | None
    unit: str
    qualifier: Qualifier | None = None


@dataclass
class SpecimenResult:
    """What came of one specimen.

    `facts` parts the summary further than direction and state do (the temperature of an
    impact); a specimen that does not `count` (a pilot) is valid and enters no summary;
    `more` is carried into the output beside the values; values that are `left_out` are given and
    enter no summary.
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
    left_out: set[str] = field(default_factory=set)

    @property
    def valid(self) -> bool:
        """It counts: no flag voids it."""
        return all(flag.severity != "void" for flag in self.flags)

    @property
    def enters(self) -> bool:
        """It enters the summary."""
        return self.counts and self.valid

    def figure(self, name: str) -> float | None:
        """Return the value of that name; None when it is not there or cannot be had."""
        known = self.values.get(name)
        return None if known is None else known.value

    def has_flag(self, code: str) -> bool:
        """A flag with this code stands on the specimen."""
        return any(flag.code == code for flag in self.flags)

    def flag(
        self, code: str, severity: Severity, /, *, sentence: str = "", **params: object
    ) -> None:
        """Add a flag; its sentence is `flag.` and its code, where no other one is named."""
        self.flags.append(Flag.of(code, severity, sentence=sentence, **params))

    def give(
        self,
        name: str,
        value: float,
        unit: str,
        text: str,
        formula: str,
        with_: str,
        qualifier: Qualifier | None = None,
    ) -> None:
        """Set a value together with the line of working that leads to it."""
        self.values[name] = Value(float(value), unit, qualifier)
        bound = f"{qualifier} " if qualifier else ""
        self.explain(text, formula, with_, f"{bound}{in_numbers(value)} {unit}".strip(), name)

    def explain(
        self, text: str, formula: str, with_: str, gives: str, value: str | None = None
    ) -> None:
        """Add a line of working."""
        self.working.append(Working(text, formula, with_, gives, value))

    def lacks(self, name: str, unit: str) -> None:
        """Set a value that cannot be had; a flag says why."""
        self.values[name] = Value(None, unit)


Results = Sequence[SpecimenResult]


def no_review(_results: Results, _parameters: Any) -> list[Flag]:
    """Return the review of a method that has nothing to say over all its specimens."""
    return []
