"""Who has a station in hand, from making ready to the end of a specimen."""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.bench.procedures import procedure_of
from endurant.core.bench.state import State
from endurant.core.messages import worded
from endurant.core.methods import find_method
from endurant.store import clock
from endurant.store.tables import BenchEvent, Specimen, Station
from endurant.work.facts.bench_events import state_at_bench
from endurant.work.facts.status import last_run, open_void

HELD_FOR = timedelta(minutes=20)
"""A station that nobody touched for so long is free again."""


MAX_EVENTS = 60


def held_by_another(session: Session, specimen: Specimen, station: Station) -> str:
    """Who has the station in hand for another specimen, in words; empty where nobody has."""
    latest = _latest_told(session, station)
    if latest is None or latest.specimen_id == specimen.id:
        return ""
    other = session.get_one(Specimen, latest.specimen_id)
    run = last_run(other)
    if open_void(other) is not None or (run is not None and run.state in ("ended", "settled")):
        return ""
    if not _is_in_hand(state_at_bench(session, other)):
        return ""
    who = worded("device-status.by", name=latest.by.name) if latest.by else ""
    return f"{station.name} was made ready for {other.code}{who} at {latest.at.astimezone():%H:%M}"


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
        actions = procedure_of(method).actions(method, test.parameters)
        if any(act.code == row.kind and (act.tells or act.records) for act in actions):
            return row
    return None


def _is_in_hand(state: State) -> bool:
    """The device was told something, and the specimen is not through with it."""
    is_affected = any(act.tells or act.records for act in state.actions if act.code in state.done)
    if state.phase == "complete" or not is_affected:
        return False
    return state.phase != "after" or any(
        act.tells and act.code not in state.done for act in state.in_phase()
    )
