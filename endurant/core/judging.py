"""Figures against limits: the verdict of a row and of a report."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from decimal import Decimal
from typing import Annotated, Any, Literal, Self

import numpy as np
from pydantic import AfterValidator, Field, model_validator

from endurant.core.methods.method import Positive, Strict, Whole
from endurant.core.quantities import (
    RoundingRule,
    as_decimal,
    equal_at_limit,
    grade_text,
    half_step_down,
    last_place,
    read_grade,
    round_to_decimals,
)
from endurant.core.refusals import quoted
from endurant.core.statistics import (
    Measured,
    Mixed,
    bound_of_mean,
    bound_of_median,
    summarise,
)

Verdict = Literal["meets", "does not meet", "cannot say", "not judged"]
Comparison = Literal["as-rounded", "unrounded"]
Decision = Literal["simple", "guarded"]
Operator = Literal[">=", "<=", "between"]
On = Literal["mean", "median", "every", "class", "grade", "count", "no-failures", "report-only"]
FIGURES = ("mean", "median", "every")

_PLAIN_NUMBER = re.compile(r"-?\d{1,12}(\.\d{1,9})?|[1-4]-[2-5]")
_SIGNS = {">=": "≥", "<=": "≤"}
_OWN_OPERATOR: dict[str, Operator] = {"class": "<=", "grade": ">=", "count": ">="}


def _limit_text(text: str) -> str:
    if not _PLAIN_NUMBER.fullmatch(text):
        raise ValueError(f"expected a plain number such as 25 or 25.0; {quoted(text)} was given")
    return text


LimitText = Annotated[str, AfterValidator(_limit_text)]
"""A limit as it is written: its last place says to where figures are rounded."""


class Criterion(Strict):
    """What a property must be.

    A mean, a median or every single value against a limit or between two; a class, a grade,
    a count; no failures of so many; or nothing, when it is only reported.
    """

    on: On = Field("mean", description="Which figure is judged.")
    op: Operator | None = Field(None, description="At least, at most, or between two limits.")
    limit: LimitText | None = Field(
        None, description="The limit as text, so that its last place is known."
    )
    low: LimitText | None = Field(None, description="The lower limit of two.")
    high: LimitText | None = Field(None, description="The upper limit of two.")
    none_below_percent: Positive | None = Field(
        None, description="No single value below this many percent of the limit."
    )
    of: Whole | None = Field(None, description="How many are tested without a failure.")

    @model_validator(mode="before")
    @classmethod
    def _own_operator(cls, data: Any) -> Any:
        """Give a class, a grade, a count and a plain limit their own operator."""
        if not isinstance(data, dict) or data.get("op") is not None:
            return data
        on = data.get("on", "mean")
        if not isinstance(on, str):
            return data
        if on in _OWN_OPERATOR:
            return data | {"op": _OWN_OPERATOR[on]}
        return data | {"op": ">="} if on in FIGURES else data

    @model_validator(mode="after")
    def _fields_go_together(self) -> Self:
        """Each kind has its own fields, and no others."""
        wanted = _fields_wanted(self)
        for name in ("limit", "low", "high", "of"):
            given = getattr(self, name) is not None
            if given and name not in wanted:
                raise ValueError(f"{name} does not go with {self.on}")
            if not given and name in wanted:
                raise ValueError(f"{name} is missing; {self.on} needs it")
        if self.on in _OWN_OPERATOR and self.op != _OWN_OPERATOR[self.on]:
            raise ValueError(f"op must be {_OWN_OPERATOR[self.on]} for {self.on}")
        if self.on in ("no-failures", "report-only") and self.op is not None:
            raise ValueError(f"op does not go with {self.on}")
        if self.none_below_percent is not None and (
            self.on not in ("mean", "median") or self.op != ">="
        ):
            raise ValueError("none_below_percent goes with a mean or a median of at least a limit")
        if self.on == "grade":
            read_grade(self.limit)
        elif any("-" in (text or "")[1:] for text in (self.limit, self.low, self.high)):
            raise ValueError("expected a plain number such as 25 or 25.0")
        if self.op == "between" and Decimal(self.low or 0) > Decimal(self.high or 0):
            raise ValueError("low must not be above high")
        return self

    def in_words(self, unit: str) -> str:
        """The limit as it is read, such as mean ≥ 25.0 N, with a no-break space before the unit."""
        after = f"\u00a0{unit}" if unit and unit != "grade" else ""
        if self.on == "report-only":
            return "report only"
        if self.on == "no-failures":
            return f"no failures of {self.of}"
        if self.op == "between":
            return f"{self.on} from {self.low} to {self.high}{after}"
        words = f"{self.on} {_SIGNS[self.op or '>=']} {self.limit}{after}"
        if self.none_below_percent is not None:
            words += f", none below {self.none_below_percent:g}\u00a0%"
        return words

    def limits(self) -> list[tuple[Operator, str]]:
        """The limits that a figure is held against, each with its operator."""
        if self.op == "between":
            return [(">=", self.low or ""), ("<=", self.high or "")]
        return [(self.op or ">=", self.limit or "")]

    def places(self) -> int:
        """Decimals to which a figure is rounded: those of the finer limit."""
        return max(last_place(text) for _, text in self.limits())


def _fields_wanted(criterion: Criterion) -> tuple[str, ...]:
    if criterion.on == "report-only":
        return ()
    if criterion.on == "no-failures":
        return ("of",)
    return ("low", "high") if criterion.op == "between" else ("limit",)


class RowVerdict(Strict):
    """The verdict of one row.

    `compared` is the text that was compared (the rounded mean or median; None for `every`,
    `count` and `unrounded`). `other_school_differs`: the other comparison decides otherwise.
    """

    verdict: Verdict
    compared: str | None = None
    other_school_differs: bool = False


NOT_JUDGED = RowVerdict(verdict="not judged")


class Rules(Strict):
    """How a laboratory compares."""

    comparison: Comparison = "as-rounded"
    decision: Decision = "simple"
    rounding: RoundingRule = "half-even"


def judge_row(
    criterion: Criterion,
    values: Sequence[Measured],
    n_required: int,
    rules: Rules,
    u: float | None = None,
) -> RowVerdict:
    """Judge the values of one row by mean, median, every single one, count or grade.

    Fewer than `n_required` are not judged. `u` is the guard band of a guarded decision.
    """
    if criterion.on == "report-only" or len(values) < max(n_required, 1):
        return NOT_JUDGED
    if criterion.on == "grade":
        return judge_grade(criterion, [one.value for one in values])
    guard = Decimal(repr(u)) if rules.decision == "guarded" and u is not None else Decimal(0)
    if criterion.on == "count":
        unrounded = rules.model_copy(update={"comparison": "unrounded"})
        return RowVerdict(verdict=_verdict(criterion, values, unrounded, Decimal(0)))
    other: Comparison = "unrounded" if rules.comparison == "as-rounded" else "as-rounded"
    verdict = _verdict(criterion, values, rules, guard)
    by_other = _verdict(criterion, values, rules.model_copy(update={"comparison": other}), guard)
    compared = None
    if criterion.on != "every" and rules.comparison == "as-rounded":
        figure, _ = _figure(criterion, values)
        compared = round_to_decimals(figure, criterion.places(), rules.rounding)
    return RowVerdict(verdict=verdict, compared=compared, other_school_differs=verdict != by_other)


def judge_class(criterion: Criterion, fire_class: int | None) -> RowVerdict:
    """Judge a class; none is not judged."""
    if fire_class is None:
        return NOT_JUDGED
    meets = fire_class <= Decimal(criterion.limit or 0)
    return RowVerdict(verdict="meets" if meets else "does not meet", compared=str(fire_class))


def judge_grade(criterion: Criterion, grades: Sequence[float]) -> RowVerdict:
    """Judge the median of grades, rounded down to a half step."""
    grade = half_step_down(float(np.median(grades)))
    meets = grade >= read_grade(criterion.limit)
    return RowVerdict(verdict="meets" if meets else "does not meet", compared=grade_text(grade))


def judge_failures(criterion: Criterion, failures: int, n: int) -> RowVerdict:
    """Judge failures of so many tested; too few without one are not judged."""
    if failures == 0 and n < (criterion.of or 1):
        return NOT_JUDGED
    verdict: Verdict = "does not meet" if failures else "meets"
    return RowVerdict(verdict=verdict, compared=f"{failures} of {n}")


def report_verdict(rows: Sequence[Verdict]) -> Verdict:
    """The verdict over all required rows; without any it is not judged."""
    if not rows or "not judged" in rows:
        return "not judged"
    return _worst(rows)


def _worst(verdicts: Sequence[Verdict]) -> Verdict:
    if "does not meet" in verdicts:
        return "does not meet"
    return "cannot say" if "cannot say" in verdicts else "meets"


def _figure(criterion: Criterion, values: Sequence[Measured]) -> tuple[float, Mixed | None]:
    found = summarise([one.value for one in values])
    if criterion.on == "mean":
        return found.mean, bound_of_mean(values)
    return found.median, bound_of_median(values)


def _verdict(
    criterion: Criterion, values: Sequence[Measured], rules: Rules, guard: Decimal
) -> Verdict:
    """The verdict of one row under one comparison."""
    places = criterion.places()

    def held(figure: float, bound: Mixed | None) -> list[Verdict]:
        return [
            _against(figure, bound, op, Decimal(limit), places, guard, rules)
            for op, limit in criterion.limits()
        ]

    if criterion.on in ("every", "count"):
        verdicts = [one for value in values for one in held(value.value, value.qualifier)]
    else:
        figure, bound = _figure(criterion, values)
        verdicts = held(figure, bound)
    if criterion.none_below_percent is not None:
        verdicts += _above_floor(criterion, values, rules)
    return _worst(verdicts)


def _above_floor(criterion: Criterion, values: Sequence[Measured], rules: Rules) -> list[Verdict]:
    """Every single value against its percent of the limit, without a guard band."""
    percent = Decimal(repr(criterion.none_below_percent))
    floor = (percent * Decimal(criterion.limit or 0) / 100).normalize()
    exponent = floor.as_tuple().exponent
    own = max(-exponent, 0) if isinstance(exponent, int) else 0
    places = max(own, criterion.places())
    return [
        _against(one.value, one.qualifier, ">=", floor, places, Decimal(0), rules) for one in values
    ]


def _against(
    figure: float,
    bound: Mixed | None,
    op: Operator,
    limit: Decimal,
    places: int,
    guard: Decimal,
    rules: Rules,
) -> Verdict:
    """One figure against one limit; of a bound only what it proves counts."""
    if bound == "both":
        return "cannot say"
    better: Callable[[Decimal, Decimal], bool]
    inside, outside = limit + guard, limit - guard
    if op == "<=":
        inside, outside = outside, inside
    compared = (
        Decimal(round_to_decimals(figure, places, rules.rounding))
        if rules.comparison == "as-rounded"
        else as_decimal(figure)
    )
    better = (lambda a, b: a >= b) if op == ">=" else (lambda a, b: a <= b)

    def reaches(edge: Decimal) -> bool:
        same = rules.comparison == "unrounded" and equal_at_limit(figure, float(edge))
        return same or better(compared, edge)

    def beyond(edge: Decimal) -> bool:
        """At the edge of a guard band or worse; without one the limit itself is inside."""
        if guard == 0:
            return not reaches(edge)
        same = rules.comparison == "unrounded" and equal_at_limit(figure, float(edge))
        return same or better(edge, compared)

    says_more = ">" if op == ">=" else "<"
    if reaches(inside):
        return "meets" if bound in (None, says_more) else "cannot say"
    if beyond(outside):
        return "does not meet" if bound is None or bound != says_more else "cannot say"
    return "cannot say"
