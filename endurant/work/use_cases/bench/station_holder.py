"""Who has a station in hand: between making ready and the end, it is somebody's.

Two people may look at one station; its jaws must move for one of them only. Whoever tells it
something holds it, until the specimen is through, void, or left alone for a while.
"""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.bench.pictures import picture_of, station_kind_of
from endurant.core.bench.procedure import Action, State
from endurant.core.devices import device_kind
from endurant.core.methods import find_method
from endurant.core.refusals import Conflict, Invalid, NeedsReason
from endurant.store import clock
from endurant.store.tables import BenchEvent, Run, Specimen, Station
from endurant.work.facts.bench_events import state_at_bench
from endurant.work.facts.status import last_run, standing_void
from endurant.work.use_cases.bench.stations import station_or_refuse

HELD_FOR = timedelta(minutes=20)
"""A station that nobody touched for so long is free again."""
MAX_EVENTS = 60


def station_for(
    session: Session, specimen: Specimen, station_id: int | None, wanted: Action, why: str | None
) -> Station | None:
    """The station that an act is done at; None where no device is needed, or none is named.

    What a device is told, it is told by one person at a time: the station is locked until the
    transaction ends. Raises Invalid where a station is needed and none is named, Conflict for
    one that runs another specimen, NeedsReason for one that somebody else made ready unless
    `why` says why it is taken over.
    """
    method = find_method(specimen.test.method)
    kind = station_kind_of(method)
    if kind is None:
        return None
    if station_id is None and picture_of(method).device is None:
        return None
    if station_id is None:
        raise Invalid("station.missing", kind=kind, field="station_id")
    station = station_or_refuse(session, station_id)
    if station.kind != kind:
        raise Conflict(
            "station.other-kind", station=station.name, expected=device_kind(kind).title.lower()
        )
    if not (wanted.tells or wanted.records or wanted.resumes):
        return station
    session.refresh(station, with_for_update=True)
    busy = session.scalar(select(Run).where(Run.busy_station_id == station.id))
    if busy is not None and busy.specimen_id != specimen.id:
        raise Conflict("station.running", station=station.name, code=busy.specimen.code)
    holder = "" if why else held_by_another(session, specimen, station)
    if holder:
        raise NeedsReason("station.in-use", holder=holder)
    return station


def held_by_another(session: Session, specimen: Specimen, station: Station) -> str:
    """Who has the station in hand for another specimen, in words; empty where nobody has."""
    latest = _latest_told(session, station)
    if latest is None or latest.specimen_id == specimen.id:
        return ""
    other = session.get_one(Specimen, latest.specimen_id)
    run = last_run(other)
    if standing_void(other) is not None or (run is not None and run.state in ("ended", "settled")):
        return ""
    if not _is_in_hand(state_at_bench(session, other)):
        return ""
    who = f" by {latest.by.name}" if latest.by else ""
    return f"{station.name} was made ready for {other.code}{who} at {latest.at:%H:%M} UTC"


def _latest_told(session: Session, station: Station) -> BenchEvent | None:
    """The last thing that somebody told a station to do; what is ticked by hand moves nothing."""
    rows = session.scalars(
        select(BenchEvent)
        .where(
            BenchEvent.station_id == station.id,
            BenchEvent.by_id.is_not(None),
            BenchEvent.at > clock.now() - HELD_FOR,
        )
        .order_by(BenchEvent.id.desc())
        .limit(MAX_EVENTS)
    )
    for row in rows:
        test = session.get_one(Specimen, row.specimen_id).test
        method = find_method(test.method)
        acts = picture_of(method).acts(method, test.parameters)
        if any(act.code == row.kind and (act.tells or act.records) for act in acts):
            return row
    return None


def _is_in_hand(state: State) -> bool:
    """The device was told something, and the specimen is not through with it."""
    is_touched = any(act.tells or act.records for act in state.acts if act.code in state.done)
    if state.phase == "complete" or not is_touched:
        return False
    return state.phase != "after" or any(
        act.tells and act.code not in state.done for act in state.in_phase()
    )
