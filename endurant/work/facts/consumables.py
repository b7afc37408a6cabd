"""What wears out with every specimen: the lots in use, and which are due."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import timedelta
from typing import Any

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from endurant.core.messages import Message
from endurant.core.methods import all_methods
from endurant.core.methods.method import Method
from endurant.store import clock
from endurant.store.equipment import Supply


def wears_of(method: Method) -> tuple[str, ...]:
    """What one specimen of a method wears out, by kind."""
    return method.guide.wears


def worn_by(method: Method, readings: Mapping[str, Any], parameters: Mapping[str, Any]) -> int:
    """How much a specimen with these readings wore, in the unit of its method."""
    worn = method.guide.worn
    return 1 if worn is None else max(worn(readings, parameters), 1)


def unit_of(kind: str) -> str:
    """What a kind of supply is counted in: specimens, rubs, strokes."""
    units = (each.guide.worn_unit for each in all_methods().values() if kind in wears_of(each))
    return next(units, "specimens")


def in_use_for(session: Session, method: Method, station_id: int | None) -> list[Supply]:
    """The lots that a specimen of this method uses here; those of the station before others."""
    if not wears_of(method):
        return []
    rows = session.scalars(
        select(Supply)
        .where(
            Supply.kind.in_(wears_of(method)),
            Supply.finished_at.is_(None),
            or_(Supply.station_id.is_(None), Supply.station_id == station_id),
        )
        .order_by(Supply.station_id.is_(None), Supply.id)
    )
    by_kind: dict[str, Supply] = {}
    for row in rows:
        by_kind.setdefault(row.kind, row)
    return list(by_kind.values())


def reminders(session: Session, method: Method, station_id: int | None) -> list[str]:
    """What is due to be changed before another specimen, in words."""
    return [
        message
        for row in in_use_for(session, method, station_id)
        if (message := consumable_notice(row))
    ]


def consumable_notice(row: Supply) -> str:
    """Why a lot is due; empty while it is not."""
    if row.limit_count is not None and row.used >= row.limit_count:
        count = {"used": row.used, "limit": row.limit_count, "unit": unit_of(row.kind)}
        return Message("consumable.used-up", {"kind": row.kind, "lot": row.lot, **count}).text
    if row.limit_days is not None:
        days = (clock.now() - row.opened_at) / timedelta(days=1)
        if days >= row.limit_days:
            age = {"days": f"{days:.0f}", "limit": row.limit_days}
            return Message("consumable.too-old", {"kind": row.kind, "lot": row.lot, **age}).text
    return ""
