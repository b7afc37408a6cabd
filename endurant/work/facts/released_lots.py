"""Released figures of lots, and which of them may be compared.

A lot counts with the figure that was released: the mean, or the median where that is reported.
"""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import Row, func, select
from sqlalchemy.orm import Session

from endurant.core.field_names import spoken
from endurant.core.judging.criteria import FIGURES, Criterion
from endurant.core.messages import worded
from endurant.core.methods import MODULES, find_method
from endurant.core.methods.designation import designation
from endurant.core.methods.summary import fact_in_words
from endurant.store.tables import Job, Report, ReportWithdrawal, Test, TestCard

MOST_LOTS = 500
OF_THE_REPORT = ("reported_to", "rounding", "specimens_wanted")
"""Parameters that say how a figure is written and of how many it is, and not what was done."""
ORIGINAL = "original"


@dataclass(frozen=True)
class ReleasedLot:
    """One released figure of one lot, in the unit of its property.

    `key` tells the property, direction and conditions of the specimens; `conditions` are the
    parameters that have to be alike. `low` and `high` are the requirement of this lot. A figure
    that is only a bound has a `qualifier`.
    """

    key: str
    title: str
    unit: str
    conditions: dict[str, Any]
    value: float
    text: str
    n: int
    qualifier: str | None
    low: float | None
    high: float | None
    is_withdrawn: bool
    job_id: int
    number: str
    lot: str
    received_at: datetime


def released_lots(session: Session, client: str, product: str) -> list[ReleasedLot]:
    """Every figure of the newest 500 released lots of a product, in the order of receipt."""
    lots = (
        select(Job.id, Job.number, Job.lot, Job.received_at)
        .where(Job.client == client, Job.product == product, Job.released_at.is_not(None))
        .order_by(Job.received_at.desc(), Job.id.desc())
        .limit(MOST_LOTS)
        .subquery()
    )
    newest = (
        select(func.max(Report.id).label("id"))
        .join(lots, lots.c.id == Report.job_id)
        .group_by(Report.job_id)
        .subquery()
    )
    rows = session.execute(
        select(
            lots,
            *(Test.method, Test.parameters, Test.limits, TestCard.figures),
            ReportWithdrawal.report_id.label("withdrawn"),
        )
        .join(Test, Test.job_id == lots.c.id)
        .join(TestCard, TestCard.test_id == Test.id)
        .join(Report, Report.job_id == lots.c.id)
        .join(newest, newest.c.id == Report.id)
        .outerjoin(ReportWithdrawal, ReportWithdrawal.report_id == Report.id)
        .where(Test.dropped_at.is_(None), TestCard.figures.is_not(None))
        .order_by(lots.c.received_at, lots.c.id, Test.id)
    ).all()
    figures = (_lot(row, figure) for row in rows for figure in json.loads(row.figures)["summary"])
    return [lot for lot in figures if lot is not None]


def _lot(row: Row[Any], figure: dict[str, Any]) -> ReleasedLot | None:
    """A figure that can stand on a chart; None for a grade, a class, a count or none at all."""
    value = figure.get(figure.get("statistic") or "")
    if row.method not in MODULES or not isinstance(value, int | float):
        return None
    known = {each.name: each for each in find_method(row.method).properties}
    own = known.get(figure["property"])
    if own is not None and own.grade:
        return None
    state = figure.get("state") or ORIGINAL
    facts = figure.get("facts") or {}
    conditions = [figure["direction"], "" if state == ORIGINAL else state]
    conditions += [fact_in_words(name, fact) for name, fact in sorted(facts.items())]
    name = own.title if own is not None else spoken(figure["property"])
    title = ", ".join((name, *(each for each in conditions if each)))
    low, high = _requirement(row.limits, figure)
    return ReleasedLot(
        key="|".join((row.method, figure["property"], *(str(each) for each in conditions))),
        title=f"{designation(row.method)}: {title}",
        unit=figure["unit"],
        conditions={
            name: given for name, given in row.parameters.items() if name not in OF_THE_REPORT
        },
        value=float(value),
        text=figure.get("reported") or "",
        n=figure["n"],
        qualifier=figure.get("qualifier"),
        low=low,
        high=high,
        is_withdrawn=row.withdrawn is not None,
        job_id=row.id,
        number=row.number,
        lot=row.lot,
        received_at=row.received_at,
    )


def _requirement(
    limits: Sequence[dict[str, Any]], figure: dict[str, Any]
) -> tuple[float | None, float | None]:
    """The limits of a figure, below and above: those of its direction, or else of any."""
    own = {
        limit["direction"]: Criterion.model_validate(limit["criterion"])
        for limit in limits
        if limit["property"] == figure["property"]
    }
    given = own.get(figure["direction"], own.get(""))
    if given is None or given.on not in FIGURES:
        return None, None
    if given.op == "between":
        return float(given.low or 0), float(given.high or 0)
    limit = float(given.limit or 0)
    return (None, limit) if given.op == "<=" else (limit, None)


def comparable(
    lots: Sequence[ReleasedLot],
) -> tuple[list[ReleasedLot], list[tuple[ReleasedLot, str]]]:
    """The lots of one key that were tested as most were, and the others with why they are not."""
    usual = _usual([lot for lot in lots if not lot.is_withdrawn])
    kept: list[ReleasedLot] = []
    left_out: list[tuple[ReleasedLot, str]] = []
    seen: set[int] = set()
    for lot in lots:
        why = _why_not(lot, usual, seen)
        if why is None:
            seen.add(lot.job_id)
            kept.append(lot)
        else:
            left_out.append((lot, why))
    return kept, left_out


def _usual(lots: Sequence[ReleasedLot]) -> dict[str, Any]:
    counted = Counter(json.dumps(lot.conditions, sort_keys=True) for lot in lots)
    usual: dict[str, Any] = json.loads(counted.most_common(1)[0][0]) if counted else {}
    return usual


def _why_not(lot: ReleasedLot, usual: dict[str, Any], seen: set[int]) -> str | None:
    if lot.is_withdrawn:
        return worded("lot-line.withdrawn")
    if lot.qualifier is not None:
        return worded("lot-line.bound")
    if lot.conditions != usual:
        differences = ", ".join(_differences(lot.conditions, usual))
        return worded("lot-line.tested-otherwise", differences=differences)
    return worded("lot-line.tested-twice") if lot.job_id in seen else None


def _differences(own: dict[str, Any], usual: dict[str, Any]) -> list[str]:
    return [
        worded(
            "lot-line.parameter-differs",
            parameter=spoken(name),
            own=own.get(name, "–"),
            usual=usual.get(name, "–"),
        )
        for name in sorted({*usual, *own})
        if usual.get(name) != own.get(name)
    ]
