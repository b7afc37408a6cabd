"""What wears out: which lot is in use, what it has done, and when it is due."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field
from sqlalchemy import select, update
from sqlalchemy.orm import Session

from endurant.core.messages import Message
from endurant.core.methods import all_methods
from endurant.core.methods.method import Method
from endurant.core.refusals import Conflict, NotFound
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.equipment import Supply
from endurant.store.tables import Station
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.consumables import (
    consumable_notice,
    in_use_for,
    unit_of,
    wears_of,
)
from endurant.work.facts.run_facts import SupplyFacts

SHOWN_FINISHED = 30


class SupplyView(View):
    """A lot in use or finished, what it has done, and whether it is due."""

    id: int
    kind: str
    lot: str
    station: str
    opened_at: datetime
    opened_by: str
    used: int
    unit: str
    limit_count: int | None
    limit_days: int | None
    due: bool
    text: str
    finished_at: datetime | None


class SupplyList(View):
    """What is in use, what was finished lately, and what the methods wear out."""

    in_use: list[SupplyView]
    finished: list[SupplyView]
    kinds: list[str]


class SupplyRequest(RequestBody):
    """A lot that is opened; the one of its kind at the same place is finished by it."""

    kind: str = Field(min_length=1, max_length=40)
    lot: str = Field(min_length=1, max_length=60)
    station_id: int | None = None
    limit_count: int | None = Field(None, ge=1, le=10_000_000)
    limit_days: int | None = Field(None, ge=1, le=3650)


def supplies() -> SupplyList:
    """What is in use, the due first, and what was finished lately."""
    with transaction() as session:
        in_use = session.scalars(
            select(Supply).where(Supply.finished_at.is_(None)).order_by(Supply.kind, Supply.id)
        ).all()
        finished = session.scalars(
            select(Supply)
            .where(Supply.finished_at.is_not(None))
            .order_by(Supply.finished_at.desc())
            .limit(SHOWN_FINISHED)
        ).all()
        names = {row.id: row.name for row in session.scalars(select(Station))}
        views = [_view(row, names) for row in in_use]
        return SupplyList(
            in_use=sorted(views, key=lambda view: (not view.due, view.kind, view.id)),
            finished=[_view(row, names) for row in finished],
            kinds=sorted({kind for method in all_methods().values() for kind in wears_of(method)}),
        )


def open_lot(actor: Actor, request: SupplyRequest) -> SupplyList:
    """Open a lot. Raises NotFound for a station that is none."""
    actor.must("test")
    with transaction() as session:
        if request.station_id is not None and session.get(Station, request.station_id) is None:
            raise NotFound("station.unknown", station_id=request.station_id)
        now = clock.now()
        same = Supply.station_id.is_not_distinct_from(request.station_id)
        for row in session.scalars(
            select(Supply)
            .where(Supply.kind == request.kind, Supply.finished_at.is_(None), same)
            .with_for_update()
        ):
            row.finished_at = now
        row = Supply(
            **request.model_dump(), opened_at=now, opened_by_id=actor.id, used=0, finished_at=None
        )
        session.add(row)
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="open-lot",
            entity="supply",
            entity_id=row.id,
            message=Message(
                "audit.open-lot", {"actor": actor.name, "kind": request.kind, "lot": request.lot}
            ),
        )
    return supplies()


def finish_lot(actor: Actor, supply_id: int) -> SupplyList:
    """A lot is used up, or thrown away. Raises NotFound, Conflict."""
    actor.must("test")
    with transaction() as session:
        row = session.get(Supply, supply_id, with_for_update=True)
        if row is None:
            raise NotFound("consumable.unknown", consumable_id=supply_id)
        if row.finished_at is not None:
            raise Conflict("consumable.finished", lot=row.lot)
        row.finished_at = clock.now()
        record(
            session,
            person_id=actor.id,
            action="finish-lot",
            entity="supply",
            entity_id=row.id,
            message=Message(
                "audit.finish-lot",
                {"actor": actor.name, "kind": row.kind, "lot": row.lot, "used": row.used},
            ),
        )
    return supplies()


def use_up(
    session: Session, method: Method, station_id: int | None, worn: int = 1
) -> list[SupplyFacts]:
    """Count on every lot that a specimen uses; which they are, for the run's record."""
    rows = in_use_for(session, method, station_id)
    facts = [SupplyFacts(kind=row.kind, lot=row.lot, count=row.used + worn) for row in rows]
    if rows:
        session.execute(
            update(Supply)
            .where(Supply.id.in_([row.id for row in rows]))
            .values(used=Supply.used + worn)
            .execution_options(synchronize_session=False)
        )
    return facts


def _view(row: Supply, names: dict[int, str]) -> SupplyView:
    message = "" if row.finished_at is not None else consumable_notice(row)
    return SupplyView(
        id=row.id,
        kind=row.kind,
        lot=row.lot,
        station=names.get(row.station_id, "") if row.station_id else "",
        opened_at=row.opened_at,
        opened_by=row.opened_by.name,
        used=row.used,
        unit=unit_of(row.kind),
        limit_count=row.limit_count,
        limit_days=row.limit_days,
        due=bool(message),
        text=message,
        finished_at=row.finished_at,
    )
