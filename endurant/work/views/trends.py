"""A property of a product over its lots: a control chart, run rules and capability.

Only lots that may be compared stand on one chart; the others are named with the reason.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from datetime import datetime
from typing import Annotated, Literal

import numpy as np
from pydantic import Field
from sqlalchemy import func, select

from endurant.core.messages import worded
from endurant.core.refusals import Invalid
from endurant.core.tables import Table
from endurant.core.trends import capability as capable
from endurant.core.trends.control_chart import (
    LEAST_BASE,
    RULES,
    ControlLimits,
    Rule,
    Values,
    control_limits,
    moving_ranges,
    signals,
)
from endurant.store.tables import Job
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.released_lots import MOST_LOTS, ReleasedLot, comparable, released_lots


class TrendProduct(View):
    """A product of a client with released lots."""

    client: str
    product: str
    lots: int


class TrendsRequest(RequestBody):
    """Which property of which product; the first that has most lots where it is left out.

    `base` is how many of the first lots give the limits: all where it is left out.
    """

    client: Annotated[str, Field(max_length=120)]
    product: Annotated[str, Field(max_length=120)]
    series: Annotated[str, Field(max_length=240)] = ""
    base: Annotated[int | None, Field(ge=1, le=MOST_LOTS)] = None


class TrendSeries(View):
    """A property of a method in a direction and state, that lots of this product have."""

    key: str
    title: str
    unit: str
    lots: int


class TrendPoint(View):
    """A lot: its mean, and the rules that are completed by it. `moving_range` has none at first."""

    job_id: int
    number: str
    lot: str
    at: datetime
    value: float
    text: str
    n: int
    moving_range: float | None
    signals: list[Rule]
    in_base: bool


class LeftOut(View):
    """A lot that is not on the chart, and why."""

    job_id: int
    number: str
    lot: str
    reason: str


class IndexView(View):
    """A capability index with its interval of 95 %."""

    name: Literal["Cp", "Cpk", "Pp", "Ppk"]
    value: float
    low: float | None
    high: float | None


class RuleView(View):
    """A run rule in words."""

    rule: Rule
    text: str


class TrendsView(View):
    """The chart. `limits` is None, and `problem` says why, where none can be computed."""

    client: str
    product: str
    series: list[TrendSeries]
    chosen: TrendSeries | None
    points: list[TrendPoint]
    left_out: list[LeftOut]
    base: int
    limits: ControlLimits | None
    problem: str
    rules: list[RuleView]
    required_low: float | None
    required_high: float | None
    indices: list[IndexView]
    capability_remark: str


def trend_products() -> list[TrendProduct]:
    """Every product that has released lots, those with most first."""
    with transaction() as session:
        lots = func.count(Job.id)
        rows = session.execute(
            select(Job.client, Job.product, lots)
            .where(Job.released_at.is_not(None))
            .group_by(Job.client, Job.product)
            .order_by(lots.desc(), Job.product, Job.client)
        )
        return [TrendProduct(client=c, product=p, lots=n) for c, p, n in rows]


def trends(request: TrendsRequest) -> TrendsView:
    """The chart of one property of a product.

    Raises Invalid for a series that no lot has.
    """
    with transaction() as session:
        lots = released_lots(session, request.client, request.product)
    series = _series(lots)
    chosen = next((each for each in series if each.key == request.series), None)
    if request.series and chosen is None:
        raise Invalid("trend.unknown-series", field="series")
    chosen = chosen or (series[0] if series else None)
    return _view(request, series, chosen, lots)


def _series(lots: Sequence[ReleasedLot]) -> list[TrendSeries]:
    """Every property that lots have, those with most lots first."""
    counts = Counter(lot.key for lot in lots)
    named = {lot.key: lot for lot in lots}
    series = [
        TrendSeries(key=key, title=lot.title, unit=lot.unit, lots=counts[key])
        for key, lot in named.items()
    ]
    return sorted(series, key=lambda each: (-each.lots, each.title))


def _view(
    request: TrendsRequest,
    series: list[TrendSeries],
    chosen: TrendSeries | None,
    lots: Sequence[ReleasedLot],
) -> TrendsView:
    own = [lot for lot in lots if chosen is not None and lot.key == chosen.key]
    kept, left_out = comparable(own)
    values = np.array([lot.value for lot in kept], float)
    base = min(request.base or len(kept), len(kept))
    limits, problem = None, ""
    if kept and base < LEAST_BASE:
        problem = worded("trend.base-too-short", least=LEAST_BASE, lots=base)
    elif kept:
        limits = control_limits(values[:base])
    low, high = (kept[-1].low, kept[-1].high) if kept else (None, None)
    indices, remark = _capability(values, low, high)
    return TrendsView(
        client=request.client,
        product=request.product,
        series=series,
        chosen=chosen,
        points=_points(kept, values, limits, base),
        left_out=[
            LeftOut(job_id=lot.job_id, number=lot.number, lot=lot.lot, reason=reason)
            for lot, reason in left_out
        ],
        base=base,
        limits=limits,
        problem=problem,
        rules=[RuleView(rule=rule, text=worded(f"run-rule.{rule}")) for rule in RULES],
        required_low=low,
        required_high=high,
        indices=indices,
        capability_remark=remark,
    )


def _points(
    kept: Sequence[ReleasedLot], values: Values, limits: ControlLimits | None, base: int
) -> list[TrendPoint]:
    completed = signals(values, limits) if limits is not None else {}
    ranges = [None, *moving_ranges(values).tolist()]
    return [
        TrendPoint(
            job_id=lot.job_id,
            number=lot.number,
            lot=lot.lot,
            at=lot.received_at,
            value=lot.value,
            text=lot.text,
            n=lot.n,
            moving_range=ranges[place],
            signals=[rule for rule, where in completed.items() if where[place]],
            in_base=place < base,
        )
        for place, lot in enumerate(kept)
    ]


def _capability(
    values: Values, low: float | None, high: float | None
) -> tuple[list[IndexView], str]:
    if low is None and high is None:
        return [], worded("trend.no-requirement")
    if low is not None and high is not None and low >= high:
        return [], worded("trend.limits-crossed", low=low, high=high)
    capability = capable.capability(values, low, high)
    if capability is None:
        return [], worded("trend.too-few-lots", least=capable.LEAST_LOTS)
    named = (
        ("Cp", capability.cp),
        ("Cpk", capability.cpk),
        ("Pp", capability.pp),
        ("Ppk", capability.ppk),
    )
    indices = [
        IndexView(name=name, value=index.value, low=index.low, high=index.high)
        for name, index in named
        if index is not None
    ]
    if capability.is_normal is None:
        return indices, worded("trend.no-scatter")
    if not capability.is_normal:
        return indices, worded("trend.not-normal", p=capability.normality)
    return indices, ""


def trend_tables(view: TrendsView) -> dict[str, list[Table]]:
    """The lots of a chart as a table, and those that are left out."""
    words = {each.rule: each.text for each in view.rules}
    unit = f" ({view.chosen.unit})" if view.chosen and view.chosen.unit else ""
    lots = Table(
        ["job", "lot", "received", f"figure{unit}", "n", f"moving range{unit}", "signals"],
        [
            [
                point.number,
                point.lot,
                f"{point.at:%Y-%m-%d}",
                point.value,
                point.n,
                point.moving_range,
                "; ".join(words[rule] for rule in point.signals),
            ]
            for point in view.points
        ],
    )
    out = Table(
        ["job", "lot", "reason"], [[each.number, each.lot, each.reason] for each in view.left_out]
    )
    return {"Lots": [lots], "Left out": [out]}
