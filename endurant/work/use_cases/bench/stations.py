"""Stations: which there are, what they report of themselves, and who speaks to them."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.bench.procedures import station_kind_of
from endurant.core.bench.status import Status
from endurant.core.methods.guide import FrameGuide
from endurant.core.methods.method import Method
from endurant.core.refusals import Forbidden, NotFound, Unavailable
from endurant.devices.driver import Indicator, Recorder
from endurant.devices.recorder import LineRecorder
from endurant.devices.registry import INDICATORS, RECORDERS
from endurant.store.tables import Instrument, Station
from endurant.work.base.actors import Actor
from endurant.work.base.transactions import transaction
from endurant.work.views.stations import StationView, has_line, station_view


def recorder_of(station: Station) -> Recorder:
    """The driver of a station that records; raises TypeError for one that does not."""
    driver = device_of(station)
    if not isinstance(driver, LineRecorder):
        raise TypeError(f"{station.name} records nothing")
    return driver


def device_of(station: Station) -> Recorder | Indicator:
    """The driver for a station's kind of device."""
    where = (station.name, (station.host, station.port), station.device)
    for recorder, records in RECORDERS.items():
        if recorder == station.kind:
            return records(*where)
    return next(shows for kind, shows in INDICATORS.items() if kind == station.kind)(*where)


def stations() -> list[StationView]:
    """All stations."""
    with transaction() as session:
        rows = list(session.scalars(select(Station).order_by(Station.id)))
    statuses = [status_of(row) for row in rows]
    with transaction() as session:
        return [
            station_view(session, row, status, message)
            for row, (status, message) in zip(rows, statuses, strict=True)
        ]


def stations_for(session: Session, method: Method) -> Sequence[Station]:
    """The stations that can run a test by this method, the fittest first.

    A frame fits whose load cell holds the greatest force that is usual; of those the one with
    the smallest cell, which reads small forces best. The others come after, the largest first,
    and what is out of service last.
    """
    kind = station_kind_of(method)
    if kind is None:
        return []
    rows = session.scalars(
        select(Station)
        .join(Instrument)
        .where(Station.kind == kind, Instrument.retired_at.is_(None))
        .order_by(Station.id)
    )
    live = method.guide.live
    max_n = live.usual_max_n if isinstance(live, FrameGuide) else 0.0

    def fitness(station: Station) -> tuple[bool, bool, float]:
        capacity_n = station.instrument.capacity_n
        is_out = station.instrument.out_since is not None
        return (is_out, capacity_n < max_n, capacity_n if capacity_n >= max_n else -capacity_n)

    return sorted(rows, key=fitness)


def simulate(actor: Actor, station_id: int, fault: str) -> None:
    """Tell a simulated station how the next specimen shall behave.

    Raises Forbidden for a real one.
    """
    actor.must("test")
    with transaction() as session:
        station = station_or_refuse(session, station_id)
    if not station.simulated:
        raise Forbidden("station.real", station=station.name)
    device_of(station).simulate(fault)


def station_or_refuse(session: Session, station_id: int) -> Station:
    """The station; raises NotFound."""
    station = session.get(Station, station_id)
    if station is None:
        raise NotFound("station.unknown", station_id=station_id)
    return station


def status_of(station: Station | None) -> tuple[Status | None, str]:
    """What a station reports of itself, or why it does not."""
    if station is None or not has_line(station):
        return None, ""
    try:
        return device_of(station).status(), ""
    except Unavailable as lost:
        return None, lost.sentence
