"""Figures against limits: the verdict of a row and of a report."""

from __future__ import annotations

import re
from collections.abc import Sequence
from decimal import Decimal
from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from endurant.core.methods.method import Strict
from endurant.core.quantities import (
    RoundingRule,
    as_decimal,
    equal_at_limit,
    last_place,
    round_to_decimals,
)
from endurant.core.statistics import summarise

Verdict = Literal["meets", "does not meet", "cannot say", "not judged"]
Comparison = Literal["as-rounded", "unrounded"]
Operator = Literal[">=", "<="]

_PLAIN_NUMBER = re.compile(r"\d{1,9}(\.\d{1,6})?")


def _limit_text(text: str) -> str:
    if not _PLAIN_NUMBER.fullmatch(text):
        raise ValueError(
            f"expected a plain number of 0 or more such as 25 or 25.0; “{text[:20]}” was given"
        )
    return text


LimitText = Annotated[str, AfterValidator(_limit_text)]
"""A limit as it is written: its last place says to where figures are rounded."""


class Criterion(Strict):
    """What a property must be: its mean, its median or every single value."""

    on: Literal["mean", "median", "every"] = Field("mean", description="Which figure is judged.")
    op: Operator = Field(">=", description="At least or at most.")
    limit: LimitText = Field(description="The limit as text, so that its last place is known.")

    def in_words(self, unit: str) -> str:
        """The limit as it is read, such as mean ≥ 25.0 N, with a no-break space before the unit."""
        sign = "≥" if self.op == ">=" else "≤"
        return f"{self.on} {sign} {self.limit}\u00a0{unit}"


class RowVerdict(Strict):
    """The verdict of one row.

    `compared` is the text that was compared (the rounded mean or median; None for `every`
    and for `unrounded`). `other_school_differs`: the other comparison decides otherwise.
    """

    verdict: Verdict
    compared: str | None
    other_school_differs: bool


def judge_row(
    criterion: Criterion,
    values: Sequence[float],
    n_required: int,
    comparison: Comparison = "as-rounded",
    rounding: RoundingRule = "half-even",
) -> RowVerdict:
    """Judge the valid values of one row; fewer than `n_required` are not judged."""
    if len(values) < max(n_required, 1):
        return RowVerdict(verdict="not judged", compared=None, other_school_differs=False)
    other: Comparison = "unrounded" if comparison == "as-rounded" else "as-rounded"
    meets = _meets(criterion, values, comparison, rounding)
    compared = None
    if criterion.on != "every" and comparison == "as-rounded":
        figure = _figure(criterion, values)
        compared = round_to_decimals(figure, last_place(criterion.limit), rounding)
    return RowVerdict(
        verdict="meets" if meets else "does not meet",
        compared=compared,
        other_school_differs=meets != _meets(criterion, values, other, rounding),
    )


def report_verdict(rows: Sequence[Verdict]) -> Verdict:
    """The verdict over all required rows; without any it is not judged."""
    if not rows or "not judged" in rows:
        return "not judged"
    if "does not meet" in rows:
        return "does not meet"
    return "cannot say" if "cannot say" in rows else "meets"


def _figure(criterion: Criterion, values: Sequence[float]) -> float:
    found = summarise(values)
    return found.mean if criterion.on == "mean" else found.median


def _meets(
    criterion: Criterion, values: Sequence[float], comparison: Comparison, rounding: RoundingRule
) -> bool:
    figures = values if criterion.on == "every" else [_figure(criterion, values)]
    return all(_figure_meets(figure, criterion, comparison, rounding) for figure in figures)


def _figure_meets(
    figure: float, criterion: Criterion, comparison: Comparison, rounding: RoundingRule
) -> bool:
    limit = Decimal(criterion.limit)
    if comparison == "as-rounded":
        compared = Decimal(round_to_decimals(figure, last_place(criterion.limit), rounding))
    elif equal_at_limit(figure, float(limit)):
        return True
    else:
        compared = as_decimal(figure)
    return compared >= limit if criterion.op == ">=" else compared <= limit
