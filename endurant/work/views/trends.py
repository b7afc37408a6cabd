"""A property of a product over its lots: a control chart, run rules and capability.

A lot counts with the mean that was released. Only lots that are comparable stand on one chart:
the same method, edition and parameters, the same state of the specimens. The others are named.
"""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from endurant.core.field_names import spoken
from endurant.core.messages import worded
from endurant.core.methods import MODULES, find_method
from endurant.core.methods.designation import designation
from endurant.core.refusals import Invalid
from endurant.core.tables import Table
from endurant.core.trends import capability as capable
from endurant.core.trends.control_chart import (
    LEAST_BASE,
    RULES,
    ControlLimits,
    Rule,
    control_limits,
    moving_ranges,
    signals,
)
from endurant.store.tables import Job, Report, ReportWithdrawal, Test, TestCard
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View

MOST_LOTS = 500
OF_THE_REPORT = ("reported_to", "rounding", "specimens_wanted")
"""Parameters that say how a mean is written and of how many it is, and not what was done."""
ORDINAL = ("grade", "class", "rank")


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


@dataclass(frozen=True)
class _Lot:
    """One released figure of one lot."""

    key: str
    title: str
    unit: str
    conditions: str
    row: dict[str, Any]
    job: Any
    withdrawn: bool
    limits: list[Any]


def trends(request: TrendsRequest) -> TrendsView:
    """The chart of one property of a product.

    Raises Invalid for a series that no lot has.
    """
    with transaction() as session:
        lots = _lots(session, request.client, request.product)
    counts = Counter(lot.key for lot in lots if not lot.withdrawn)
    series = [_series(key, next(x for x in lots if x.key == key), n) for key, n in counts.items()]
    series.sort(key=lambda each: (-each.lots, each.title))
    chosen = next((each for each in series if each.key == request.series), None)
    if request.series and chosen is None:
        raise Invalid("trend.unknown-series", field="series")
    chosen = chosen or (series[0] if series else None)
    own = [lot for lot in lots if chosen is not None and lot.key == chosen.key]
    kept, left_out = _comparable(own)
    return _view(request, series, chosen, kept, left_out)


def _lots(session: Session, client: str, product: str) -> list[_Lot]:
    """Every mean of every released lot, in the order of receipt."""
    newest = (
        select(Report.job_id, func.max(Report.id).label("id")).group_by(Report.job_id).subquery()
    )
    rows = session.execute(
        select(
            Job.id,
            Job.number,
            Job.lot,
            Job.received_at,
            Test.method,
            Test.parameters,
            Test.limits,
            TestCard.figures,
            ReportWithdrawal.report_id,
        )
        .join(Test, Test.job_id == Job.id)
        .join(TestCard, TestCard.test_id == Test.id)
        .join(newest, newest.c.job_id == Job.id)
        .outerjoin(ReportWithdrawal, ReportWithdrawal.report_id == newest.c.id)
        .where(
            Job.client == client,
            Job.product == product,
            Job.released_at.is_not(None),
            Test.dropped_at.is_(None),
            TestCard.figures.is_not(None),
        )
        .order_by(Job.received_at.desc(), Job.id.desc(), Test.id)
        .limit(MOST_LOTS)
    ).all()
    found = []
    for row in reversed(rows):
        for figure in json.loads(row.figures)["summary"]:
            lot = _lot(row, figure)
            if lot is not None:
                found.append(lot)
    return found


def _lot(row: Any, figure: dict[str, Any]) -> _Lot | None:
    """A figure that can stand on a chart; None for a grade, a class or none at all."""
    if row.method not in MODULES or not isinstance(figure.get("mean"), int | float):
        return None
    known = {each.name: each for each in find_method(row.method).properties}
    own = known.get(figure["property"])
    if figure["unit"] in ORDINAL or (own is not None and own.grade):
        return None
    state = figure.get("state") or "original"
    where = [figure["direction"], "" if state == "original" else state]
    name = own.title if own is not None else spoken(figure["property"])
    title = ", ".join((name, *(each for each in where if each)))
    return _Lot(
        key="|".join((row.method, figure["property"], figure["direction"], state)),
        title=f"{designation(row.method)}: {title}",
        unit=figure["unit"],
        conditions=json.dumps(_conditions(row.parameters), sort_keys=True),
        row=figure,
        job=row,
        withdrawn=row.report_id is not None,
        limits=row.limits,
    )


def _conditions(parameters: dict[str, Any]) -> dict[str, Any]:
    """What has to be alike for two means to be compared."""
    return {name: value for name, value in parameters.items() if name not in OF_THE_REPORT}


def _series(key: str, lot: _Lot, lots: int) -> TrendSeries:
    return TrendSeries(key=key, title=lot.title, unit=lot.unit, lots=lots)


def _comparable(lots: Sequence[_Lot]) -> tuple[list[_Lot], list[LeftOut]]:
    """The lots tested as most were, and the others with what differs."""
    standing = [lot for lot in lots if not lot.withdrawn]
    if not standing:
        return [], [_left_out(lot, worded("lot-line.withdrawn")) for lot in lots]
    usual = Counter(lot.conditions for lot in standing).most_common(1)[0][0]
    kept, left_out, seen = [], [], set()
    for lot in lots:
        if lot.withdrawn:
            left_out.append(_left_out(lot, worded("lot-line.withdrawn")))
        elif lot.conditions != usual:
            differs = _differences(json.loads(usual), json.loads(lot.conditions))
            left_out.append(
                _left_out(lot, worded("lot-line.tested-otherwise", differences=differs))
            )
        elif lot.job.id in seen:
            left_out.append(_left_out(lot, worded("lot-line.tested-twice")))
        else:
            seen.add(lot.job.id)
            kept.append(lot)
    return kept, left_out


def _differences(usual: dict[str, Any], own: dict[str, Any]) -> str:
    names = [name for name in sorted({*usual, *own}) if usual.get(name) != own.get(name)]
    return ", ".join(
        worded(
            "lot-line.parameter-differs",
            parameter=spoken(name),
            own=own.get(name, "–"),
            usual=usual.get(name, "–"),
        )
        for name in names
    )


def _left_out(lot: _Lot, reason: str) -> LeftOut:
    return LeftOut(job_id=lot.job.id, number=lot.job.number, lot=lot.job.lot, reason=reason)


def _view(
    request: TrendsRequest,
    series: list[TrendSeries],
    chosen: TrendSeries | None,
    kept: list[_Lot],
    left_out: list[LeftOut],
) -> TrendsView:
    values = np.array([lot.row["mean"] for lot in kept], float)
    base = min(request.base or len(kept), len(kept))
    limits, problem = None, ""
    if kept and base < LEAST_BASE:
        problem = worded("trend.base-too-short", least=LEAST_BASE, lots=base)
    elif kept:
        limits = control_limits(values[:base])
    low, high = _requirement(kept[-1]) if kept else (None, None)
    indices, remark = _capability(values, low, high)
    return TrendsView(
        client=request.client,
        product=request.product,
        series=series,
        chosen=chosen,
        points=_points(kept, limits, base),
        left_out=left_out,
        base=base,
        limits=limits,
        problem=problem,
        required_low=low,
        required_high=high,
        indices=indices,
        capability_remark=remark,
    )


def _points(kept: list[_Lot], limits: ControlLimits | None, base: int) -> list[TrendPoint]:
    values = np.array([lot.row["mean"] for lot in kept], float)
    found = signals(values, limits) if limits is not None else {}
    ranges = [None, *moving_ranges(values).tolist()]
    return [
        TrendPoint(
            job_id=lot.job.id,
            number=lot.job.number,
            lot=lot.job.lot,
            at=lot.job.received_at,
            value=lot.row["mean"],
            text=lot.row["reported"] or "",
            n=lot.row["n"],
            moving_range=ranges[place],
            signals=[rule for rule in RULES if rule in found and found[rule][place]],
            in_base=place < base,
        )
        for place, lot in enumerate(kept)
    ]


def _requirement(lot: _Lot) -> tuple[float | None, float | None]:
    """The limits of the mean of the newest lot: those of its direction, or of any."""
    own = [
        limit["criterion"]
        for direction in (lot.row["direction"], "")
        for limit in lot.limits
        if limit["property"] == lot.row["property"]
        and limit["direction"] == direction
        and limit["criterion"].get("on", "mean") in ("mean", "median", "every")
    ]
    if not own:
        return None, None
    given = own[0]
    if given.get("op") == "between":
        return float(given["low"]), float(given["high"])
    limit = float(given["limit"])
    return (None, limit) if given.get("op") == "<=" else (limit, None)


def _capability(values: Any, low: float | None, high: float | None) -> tuple[list[IndexView], str]:
    if low is None and high is None:
        return [], worded("trend.no-requirement")
    found = capable.capability(values, low, high)
    if found is None:
        return [], worded("trend.too-few-lots", least=capable.LEAST_LOTS)
    named = (("Cp", found.cp), ("Cpk", found.cpk), ("Pp", found.pp), ("Ppk", found.ppk))
    indices = [
        IndexView(name=name, value=index.value, low=index.low, high=index.high)
        for name, index in named
        if index is not None
    ]
    if found.is_normal is None:
        return indices, worded("trend.no-scatter")
    if not found.is_normal:
        return indices, worded("trend.not-normal", p=found.normality)
    return indices, ""


def trend_tables(view: TrendsView) -> dict[str, list[Table]]:
    """The lots of a chart as a table, and those that are left out."""
    unit = f" ({view.chosen.unit})" if view.chosen and view.chosen.unit else ""
    lots = Table(
        ["job", "lot", "received", f"mean{unit}", "n", f"moving range{unit}", "signals"],
        [
            [
                point.number,
                point.lot,
                f"{point.at:%Y-%m-%d}",
                point.value,
                point.n,
                point.moving_range,
                ", ".join(point.signals),
            ]
            for point in view.points
        ],
    )
    out = Table(
        ["job", "lot", "reason"], [[each.number, each.lot, each.reason] for each in view.left_out]
    )
    return {"Lots": [lots], "Left out": [out]}
