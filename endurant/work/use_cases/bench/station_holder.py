"""Who has a station in hand: between making ready and the end, it is somebody's.

Two people may look at one station; its jaws must move for one of them only. Whoever tells it
something holds it, until the specimen is through, void, or left alone for a while.
"""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.bench.actions import Action
from endurant.core.bench.procedures import procedure_of, station_kind_of
from endurant.core.devices import device_kind
from endurant.core.methods import find_method
from endurant.core.refusals import Conflict, Invalid, NeedsReason
from endurant.store.tables import Run, Specimen, Station
from endurant.work.facts.station_holder import (
    held_by_another,
)
from endurant.work.use_cases.bench.stations import station_or_refuse


def station_for(
    session: Session, specimen: Specimen, station_id: int | None, requested: Action, why: str | None
) -> Station | None:
    """The station that an action is done at; None where no device is needed, or none is named.

    What a device is told, it is told by one person at a time: the station is locked until the
    transaction ends. Raises Invalid where a station is needed and none is named, Conflict for
    one that runs another specimen, NeedsReason for one that somebody else made ready unless
    `why` says why it is taken over.
    """
    method = find_method(specimen.test.method)
    kind = station_kind_of(method)
    if kind is None:
        return None
    if station_id is None and procedure_of(method).device is None:
        return None
    if station_id is None:
        raise Invalid("station.missing", kind=kind, field="station_id")
    station = station_or_refuse(session, station_id)
    if station.kind != kind:
        raise Conflict(
            "station.other-kind", station=station.name, expected=device_kind(kind).title.lower()
        )
    if not (requested.tells or requested.records or requested.resumes):
        return station
    session.refresh(station, with_for_update=True)
    busy = session.scalar(select(Run).where(Run.busy_station_id == station.id))
    if busy is not None and busy.specimen_id != specimen.id:
        raise Conflict("station.running", station=station.name, code=busy.specimen.code)
    holder = "" if why else held_by_another(session, specimen, station)
    if holder:
        raise NeedsReason("station.in-use", holder=holder)
    return station
