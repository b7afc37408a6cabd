"""Rows of the summary: one property of one group of specimens, over those that count."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from endurant.core.distributions import binomial_upper
from endurant.core.methods.method import Method
from endurant.core.methods.properties import Property
from endurant.core.methods.results import Results, SpecimenResult
from endurant.core.rounding import RoundingRule, in_numbers
from endurant.core.statistics import Measured, Mixed, bound_of_mean, bound_of_median, summarise


@dataclass(frozen=True)
class SummaryRow:
    """One property of one direction, state and further facts over the valid specimens.

    The figures are None where the statistic is a count or a class; `facts` are written
    beside the other fields.
    """

    property: str
    direction: str | None
    state: str
    unit: str
    n: int | None
    mean: float | None
    sd: float | None
    cv_percent: float | None
    minimum: float | None
    maximum: float | None
    median: float | None
    ci95_half_width: float | None
    statistic: str
    reported: str | None
    qualifier: Mixed | None
    facts: dict[str, Any] = field(default_factory=dict)

    def as_json(self) -> dict[str, Any]:
        """Return the row as plain data."""
        plain = {name: value for name, value in vars(self).items() if name != "facts"}
        return plain | self.facts


@dataclass(frozen=True)
class Group:
    """Specimens that are summed up together, whether they count or not."""

    direction: str | None
    state: str
    facts: dict[str, Any]
    members: list[SpecimenResult]

    def in_words(self) -> str:
        """Return how the group is called in a sentence: "warp", "weft, wet", "all specimens"."""
        parts = [self.direction or "", "" if self.state == "original" else self.state]
        parts += [fact_in_words(name, value) for name, value in self.facts.items()]
        return ", ".join(part for part in parts if part) or "all specimens"


def fact_in_words(name: str, value: Any) -> str:
    """Return a fact as a reader takes it: "at −20 °C", "hinge break"."""
    if value is None:
        return ""
    return f"at {in_numbers(value)} °C" if name == "temperature_c" else f"{value}".replace("-", " ")


def groups_of(results: Iterable[SpecimenResult], *facts: str) -> list[Group]:
    """Specimens by direction, state and these facts, groups and members in document order."""
    groups: dict[tuple[Any, ...], Group] = {}
    for result in results:
        own = {name: result.facts[name] for name in facts}
        key = (result.direction, result.state, *own.values())
        if key not in groups:
            groups[key] = Group(result.direction, result.state, own, [])
        groups[key].members.append(result)
    return list(groups.values())


def rows_of(method: Method, parameters: Any, results: Results) -> list[SummaryRow]:
    """The rows of every property: its groups in document order. A row without a figure is none."""
    groups = groups_of(results)
    rows = []
    for requested in method.properties_for(parameters):
        summary_rows = [
            row_of(requested, group, parameters.rounding) for group in groups if requested.summed
        ]
        rows += [row for row in summary_rows if row is not None]
    return rows


def measured(name: str, members: Iterable[SpecimenResult]) -> list[Measured]:
    """Return the values of this name that enter the summary."""
    values = [
        member.values.get(name)
        for member in members
        if member.enters and name not in member.left_out
    ]
    return [
        Measured(value.value, value.qualifier)
        for value in values
        if value is not None and value.value is not None
    ]


def row_of(requested: Property, group: Group, rule: RoundingRule) -> SummaryRow | None:
    """Return the row of one property over one group; None when no specimen has a figure."""
    values = measured(requested.name, group.members)
    if not values:
        return None
    statistics = summarise([value.value for value in values])
    if requested.statistic == "median":
        statistic, qualifier = statistics.median, bound_of_median(values)
    else:
        statistic, qualifier = statistics.mean, bound_of_mean(values)
    return SummaryRow(
        property=requested.name,
        direction=group.direction,
        state=group.state,
        unit=requested.unit,
        n=statistics.n,
        mean=statistics.mean,
        sd=statistics.sd,
        cv_percent=statistics.cv_percent,
        minimum=statistics.minimum,
        maximum=statistics.maximum,
        median=statistics.median,
        ci95_half_width=statistics.ci95_half_width,
        statistic=requested.statistic,
        reported=requested.reported(statistic, rule),
        qualifier=qualifier,
        facts=dict(group.facts),
    )


def text_row(
    requested: Property,
    statistic: str,
    group: Group,
    n: int | None,
    reported: str | None,
    **facts: Any,
) -> SummaryRow:
    """Return a row that reports words and has no figures, such as a class."""
    return SummaryRow(
        property=requested.name,
        direction=group.direction,
        state=group.state,
        unit=requested.unit,
        n=n,
        mean=None,
        sd=None,
        cv_percent=None,
        minimum=None,
        maximum=None,
        median=None,
        ci95_half_width=None,
        statistic=statistic,
        reported=reported,
        qualifier=None,
        facts={**group.facts, **facts},
    )


def count_row(requested: Property, group: Group, *, limit: bool = False) -> SummaryRow | None:
    """Return how many of the specimens that count have a figure of 1; None when there are none.

    With `limit` the one-sided exact 95 % upper limit of the share, in percent, stands beside.
    """
    figures = [figure.value for figure in measured(requested.name, group.members)]
    if not figures:
        return None
    n, count = len(figures), round(sum(figures))
    facts: dict[str, Any] = {"count": count}
    if limit:
        facts["upper95_percent"] = 100 * binomial_upper(count, n, 0.95)
    row = text_row(requested, "count", group, n, f"{count} of {n}", **facts)
    return replace(row, mean=count / n)


def rows_with_all(method: Method, parameters: Any, results: Results) -> list[SummaryRow]:
    """Return the rows of each property, followed by one over all specimens together."""
    groups = [*groups_of(results), pooled(results)]
    rows = []
    for requested in method.properties_for(parameters):
        summary_rows = [row_of(requested, group, parameters.rounding) for group in groups]
        rows += [row for row in summary_rows if row is not None]
    return rows


def pooled(members: Sequence[SpecimenResult], direction: str = "all") -> Group:
    """Return all specimens as one group."""
    return Group(direction, "original", {}, list(members))
