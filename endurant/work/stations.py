"""Stations: what they report of themselves, and the ready check before a run."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from endurant.core.methods import find_method
from endurant.core.methods.method import ReadyCheck
from endurant.core.refusals import Conflict, Forbidden, NotFound, Unavailable
from endurant.stations.driver import FrameDriver, FrameStatus
from endurant.stations.tcp_frame import TcpFrame
from endurant.store import clock
from endurant.store.engine import transaction
from endurant.store.tables import Run, Station
from endurant.work.people import Actor
from endurant.work.states import test_or_refuse
from endurant.work.views import View

GAUGE_TOLERANCE_MM = 1.0


class CheckView(View):
    """One item of the ready check, ticked by the instrument or still to be confirmed."""

    code: str
    title: str
    reason: str
    reads: str | None
    hold: bool
    ticked: bool
    says: str


class StationView(View):
    """A station with what it reports of itself; `reachable` is False when it does not answer."""

    id: int
    name: str
    simulated: bool
    pace: float
    instrument: str
    serial: str
    calibration_due_at: datetime
    overdue: bool
    reachable: bool
    says: str
    state: str
    force_n: float | None
    extension_mm: float | None
    gauge_length_mm: float | None
    checks: list[CheckView]
    busy_run_id: int | None


def driver_of(station: Station) -> FrameDriver:
    """The driver for a station's kind of device."""
    return TcpFrame(station.name, station.host, station.port)


def stations(test_id: int | None = None) -> list[StationView]:
    """All stations, with the ready check of a test when one is named."""
    with transaction() as session:
        found = list(session.scalars(select(Station).order_by(Station.id)))
        test = test_or_refuse(session, test_id) if test_id is not None else None
        busy = {
            run.busy_station_id: run.id
            for run in session.scalars(select(Run).where(Run.busy_station_id.is_not(None)))
        }
    runs_here = test is not None and find_method(test.method).runs_at_frame
    checks = find_method(test.method).guide.ready_checks if test and runs_here else ()
    parameters = test.parameters if test and runs_here else {}
    return [_station_view(station, checks, parameters, busy.get(station.id)) for station in found]


def prepare(actor: Actor, station_id: int, test_id: int) -> StationView:
    """Bring a station to the gauge length and speed of a test."""
    actor.must("test")
    station, checks, parameters = _station_and_test(station_id, test_id)
    driver_of(station).prepare(parameters["gauge_length_mm"], parameters["speed_mm_min"])
    return _station_view(station, checks, parameters, None)


def zero(actor: Actor, station_id: int, test_id: int) -> StationView:
    """Zero force and extension at a station."""
    actor.must("test")
    station, checks, parameters = _station_and_test(station_id, test_id)
    driver_of(station).zero()
    return _station_view(station, checks, parameters, None)


def pretend(actor: Actor, station_id: int, fault: str) -> None:
    """Tell a simulated station how the next specimen shall behave.

    Raises Forbidden for a real one.
    """
    actor.must("test")
    with transaction() as session:
        station = station_or_refuse(session, station_id)
    if not station.simulated:
        raise Forbidden(f"{station.name} is a real device; only a simulated one can pretend")
    driver_of(station).pretend(fault)


def station_or_refuse(session: Session, station_id: int) -> Station:
    """The station; raises NotFound."""
    station = session.get(Station, station_id)
    if station is None:
        raise NotFound(f"there is no station with id {station_id}")
    return station


def _station_and_test(
    station_id: int, test_id: int
) -> tuple[Station, tuple[ReadyCheck, ...], dict[str, Any]]:
    with transaction() as session:
        station = station_or_refuse(session, station_id)
        test = test_or_refuse(session, test_id)
        method = find_method(test.method)
        if not method.runs_at_frame:
            raise Conflict(f"{method.title} is not run at {station.name}; bring its readings in")
        if session.scalar(
            select(func.count()).select_from(Run).where(Run.busy_station_id == station_id)
        ):
            raise Conflict(f"{station.name} is running a test; wait for its end or stop it")
        return station, method.guide.ready_checks, test.parameters


def ticked(
    checks: tuple[ReadyCheck, ...],
    status: FrameStatus | None,
    parameters: dict[str, Any],
    confirmed: Collection[str],
) -> list[CheckView]:
    """The ready check: items read from the instrument tick themselves, the rest by hand."""
    return [_check_view(check, status, parameters, check.code in confirmed) for check in checks]


def _check_view(
    check: ReadyCheck, status: FrameStatus | None, parameters: dict[str, Any], by_hand: bool
) -> CheckView:
    ticked, says = by_hand, "confirmed by hand" if by_hand else ""
    if check.reads is not None:
        ticked, says = False, "the station does not answer"
    if status is not None and check.reads == "gauge-length":
        off = abs(status.gauge_length_mm - parameters["gauge_length_mm"])
        ticked = off <= GAUGE_TOLERANCE_MM and abs(status.extension_mm) <= GAUGE_TOLERANCE_MM
        apart = status.gauge_length_mm + status.extension_mm
        says = f"jaws {apart:.1f} mm apart"
    if status is not None and check.reads == "speed":
        ticked = abs(status.speed_mm_min - parameters["speed_mm_min"]) < 1e-6
        says = f"{status.speed_mm_min:g} mm/min"
    if status is not None and check.reads == "zeroed":
        ticked, says = status.zeroed, f"{status.force_n:.2f} N"
    return CheckView(
        code=check.code,
        title=check.title,
        reason=check.reason,
        reads=check.reads,
        hold=check.hold,
        ticked=ticked,
        says=says,
    )


def _station_view(
    station: Station,
    checks: tuple[ReadyCheck, ...],
    parameters: dict[str, Any],
    busy_run_id: int | None,
) -> StationView:
    status, says = None, ""
    try:
        status = driver_of(station).status()
    except Unavailable as lost:
        says = lost.sentence
    return StationView(
        id=station.id,
        name=station.name,
        simulated=station.simulated,
        pace=status.pace if status else 1,
        instrument=station.instrument.name,
        serial=station.instrument.serial,
        calibration_due_at=station.instrument.calibration_due_at,
        overdue=station.instrument.calibration_due_at < clock.now(),
        reachable=status is not None,
        says=says,
        state=status.state if status else "away",
        force_n=status.force_n if status else None,
        extension_mm=status.extension_mm if status else None,
        gauge_length_mm=status.gauge_length_mm if status else None,
        checks=ticked(checks, status, parameters, []),
        busy_run_id=busy_run_id,
    )
