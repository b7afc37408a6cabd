"""Uncertainty of a mean: its spread, and contributions of type B."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt
from typing import Annotated, Self

from pydantic import Field, model_validator

from endurant.core.complaints import complaint
from endurant.core.fields import Name, NotNegative, Number, Positive, Strict
from endurant.core.refusals import Invalid
from endurant.core.statistics import Statistics, summarise

COVERAGE = 2.0
"""The factor k of an expanded uncertainty unless another is asked for: about 95 %."""


class Contribution(Strict):
    """One type B contribution: standard, half an interval, or expanded with its k."""

    name: Name
    value: Number
    power: Number = 1
    standard: NotNegative | None = None
    half_interval: NotNegative | None = None
    expanded: NotNegative | None = None
    k: Positive = COVERAGE

    @model_validator(mode="after")
    def _one_of_three(self) -> Self:
        ways = [self.standard, self.half_interval, self.expanded]
        if sum(way is not None for way in ways) != 1:
            raise complaint("review.contribution-form")
        if self.value == 0:
            raise complaint("review.contribution-value-zero")
        return self

    def standard_uncertainty(self) -> float:
        """Standard uncertainty in the unit of the value."""
        if self.standard is not None:
            return self.standard
        if self.half_interval is not None:
            return self.half_interval / sqrt(3)
        return (self.expanded or 0.0) / self.k


class Guard(Strict):
    """A limit that is guarded: by the expanded uncertainty of what is held against it.

    The spread of the specimens is in it by itself; `budget` names what comes to that.
    """

    budget: Annotated[list[Contribution], Field(max_length=40)] = Field(default_factory=list)
    k: Positive = COVERAGE

    def expanded_u(self, values: Sequence[float]) -> float | None:
        """Expanded uncertainty of the mean of these values; None where there is nothing of it."""
        if not values or (len(values) < 2 and not self.budget):
            return None
        return uncertainty(summarise(values), self.budget, self.k).expanded


@dataclass(frozen=True)
class UncertaintyRow:
    """One contribution: its standard uncertainty, and its share relative to the mean."""

    name: str
    standard: float
    relative: float


@dataclass(frozen=True)
class Uncertainty:
    """Standard and expanded uncertainty of a mean, in its unit, with what it is made of."""

    rows: list[UncertaintyRow]
    relative: float
    standard: float
    k: float
    expanded: float


def uncertainty(
    statistics: Statistics, budget: Sequence[Contribution], k: float = COVERAGE
) -> Uncertainty:
    """Return the expanded uncertainty of a mean by its spread and budget (ISO/IEC Guide 98-3).

    `k` is the coverage factor. Raises Invalid for a mean of 0, to which nothing is relative.
    """
    if statistics.mean == 0:
        raise Invalid("review.mean-zero", field="values")
    rows: list[UncertaintyRow] = []
    if statistics.sd is not None:
        standard = statistics.sd / sqrt(statistics.n)
        rows.append(UncertaintyRow("repeat", standard, standard / abs(statistics.mean)))
    for contribution in budget:
        standard = contribution.standard_uncertainty()
        relative = abs(contribution.power) * standard / abs(contribution.value)
        rows.append(UncertaintyRow(contribution.name, standard, relative))
    relative = sqrt(sum(row.relative**2 for row in rows))
    standard = relative * abs(statistics.mean)
    return Uncertainty(rows, relative, standard, k, k * standard)
