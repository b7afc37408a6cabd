"""Stations: which there are, what they report of themselves, and who speaks to them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.bench.pictures import station_kind_of
from endurant.core.bench.status import Status
from endurant.core.methods.guide import FrameGuide
from endurant.core.methods.method import Method
from endurant.core.refusals import Forbidden, NotFound, Unavailable
from endurant.devices.driver import Indicator, Recorder
from endurant.devices.recorder import LineRecorder
from endurant.devices.registry import INDICATORS, RECORDERS
from endurant.store import clock
from endurant.store.tables import Instrument, Run, Station
from endurant.work.base.actors import Actor
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View


class ReadingView(View):
    """A fact that a device reports, such as a force."""

    name: str
    value: float


class StationView(View):
    """A station with what it reports of itself; `reachable` is False when it does not answer.

    One without a line is worked and read by a person.
    """

    id: int
    name: str
    kind: str
    simulated: bool
    pace: float
    instrument: str
    serial: str
    calibration_due_at: datetime
    overdue: bool
    reachable: bool
    has_line: bool
    says: str
    state: str
    readings: list[ReadingView]
    busy_run_id: int | None


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


def has_line(station: Station) -> bool:
    """False for a device that tells nothing: a person works it and reads it."""
    return station.port > 0


def stations() -> list[StationView]:
    """All stations."""
    with transaction() as session:
        rows = list(session.scalars(select(Station).order_by(Station.id)))
    statuses = [status_of(row) for row in rows]
    with transaction() as session:
        return [
            station_view(session, row, status, says)
            for row, (status, says) in zip(rows, statuses, strict=True)
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
    most_n = live.usual_most_n if isinstance(live, FrameGuide) else 0.0

    def fitness(station: Station) -> tuple[bool, bool, float]:
        capacity_n = station.instrument.capacity_n
        is_out = station.instrument.out_since is not None
        return (is_out, capacity_n < most_n, capacity_n if capacity_n >= most_n else -capacity_n)

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


def station_view(
    session: Session, station: Station, status: Status | None, says: str
) -> StationView:
    """A station as it is shown."""
    busy = session.scalar(select(Run.id).where(Run.busy_station_id == station.id))
    facts = status.facts if status else {}
    return StationView(
        id=station.id,
        name=station.name,
        kind=station.kind,
        simulated=station.simulated,
        pace=status.number("pace", 1.0) if status else 1.0,
        instrument=station.instrument.name,
        serial=station.instrument.serial,
        calibration_due_at=station.instrument.calibration_due_at,
        overdue=station.instrument.calibration_due_at < clock.now(),
        reachable=status is not None or not has_line(station),
        has_line=has_line(station),
        says=says,
        state=status.state if status else "away" if has_line(station) else "idle",
        readings=[
            ReadingView(name=name, value=float(value))
            for name, value in facts.items()
            if isinstance(value, float)
        ],
        busy_run_id=busy,
    )
