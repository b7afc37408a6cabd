"""One path from a limit and what was found to a verdict."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

import numpy as np

from endurant.core.fields import Strict
from endurant.core.judging.criteria import Criterion, Operator
from endurant.core.quantities import equal_at_limit, grade_text, half_step_down, read_grade
from endurant.core.rounding import RoundingRule, as_decimal, round_to_decimals
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


@dataclass(frozen=True)
class Evidence:
    """What came of one row, of which its criterion takes what it judges.

    `values` in the unit of the property (grades as numbers), with `expanded_u`, the expanded
    uncertainty that guards a limit; the class of a flame test; `failures` of so many `tested`.
    """

    values: Sequence[Measured] = ()
    expanded_u: float | None = None
    fire_class: int | None = None
    failures: int = 0
    tested: int = 0


def judge(criterion: Criterion, evidence: Evidence, n_required: int, rules: Rules) -> RowVerdict:
    """Evaluate one row against its criterion, under the decision rule of `rules`.

    A mean, a median, single values, a count and a grade are not evaluated below `n_required`
    values.
    """
    if criterion.on == "report-only":
        return NOT_JUDGED
    if criterion.on == "class":
        return _judge_class(criterion, evidence.fire_class)
    if criterion.on == "no-failures":
        return _judge_failures(criterion, evidence.failures, evidence.tested)
    if len(evidence.values) < max(n_required, 1):
        return NOT_JUDGED
    if criterion.on == "grade":
        return _judge_grade(criterion, [measured.value for measured in evidence.values])
    if criterion.on == "count":
        unrounded = rules.model_copy(update={"comparison": "unrounded"})
        verdict = _verdict(criterion, evidence.values, unrounded, Decimal(0))
        return RowVerdict(verdict=verdict)
    return _judge_figures(criterion, evidence, rules)


def _judge_figures(criterion: Criterion, evidence: Evidence, rules: Rules) -> RowVerdict:
    """Judge a mean, a median or every value, and say whether the other school would differ."""
    values, u = evidence.values, evidence.expanded_u
    guard = Decimal(repr(u)) if rules.decision == "guarded" and u is not None else Decimal(0)
    other: Comparison = "unrounded" if rules.comparison == "as-rounded" else "as-rounded"
    verdict = _verdict(criterion, values, rules, guard)
    by_other = _verdict(criterion, values, rules.model_copy(update={"comparison": other}), guard)
    compared = None
    if criterion.on != "every" and rules.comparison == "as-rounded":
        figure, _ = _figure(criterion, values)
        compared = round_to_decimals(figure, criterion.places(), rules.rounding)
    return RowVerdict(verdict=verdict, compared=compared, other_school_differs=verdict != by_other)


def _judge_class(criterion: Criterion, fire_class: int | None) -> RowVerdict:
    """Judge a class; none is not judged."""
    if fire_class is None:
        return NOT_JUDGED
    meets = fire_class <= Decimal(criterion.limit or 0)
    return RowVerdict(verdict="meets" if meets else "does not meet", compared=str(fire_class))


def _judge_grade(criterion: Criterion, grades: Sequence[float]) -> RowVerdict:
    """Judge the median of grades, rounded down to a half step."""
    grade = half_step_down(float(np.median(grades)))
    meets = grade >= read_grade(criterion.limit)
    return RowVerdict(verdict="meets" if meets else "does not meet", compared=grade_text(grade))


def _judge_failures(criterion: Criterion, failures: int, tested: int) -> RowVerdict:
    """Judge failures of so many tested; too few without one are not judged."""
    if failures == 0 and tested < (criterion.of or 1):
        return NOT_JUDGED
    verdict: Verdict = "does not meet" if failures else "meets"
    return RowVerdict(verdict=verdict, compared=f"{failures} of {tested}")


def report_verdict(rows: Sequence[Verdict]) -> Verdict:
    """Return the verdict over all required rows; "not judged" without any."""
    if not rows or "not judged" in rows:
        return "not judged"
    return _worst(rows)


def _worst(verdicts: Sequence[Verdict]) -> Verdict:
    if "does not meet" in verdicts:
        return "does not meet"
    return "cannot say" if "cannot say" in verdicts else "meets"


def _figure(criterion: Criterion, values: Sequence[Measured]) -> tuple[float, Mixed | None]:
    statistics = summarise([value.value for value in values])
    if criterion.on == "mean":
        return statistics.mean, bound_of_mean(values)
    return statistics.median, bound_of_median(values)


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
        verdicts = [specimen for value in values for specimen in held(value.value, value.qualifier)]
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
        _against(value.value, value.qualifier, ">=", floor, places, Decimal(0), rules)
        for value in values
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

    more_sign = ">" if op == ">=" else "<"
    if reaches(inside):
        return "meets" if bound in (None, more_sign) else "cannot say"
    if beyond(outside):
        return "does not meet" if bound is None or bound != more_sign else "cannot say"
    return "cannot say"
