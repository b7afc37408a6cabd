"""A station as a page shows it, with what its device reports."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.bench.status import Status
from endurant.store import clock
from endurant.store.tables import Run, Station
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
    text: str
    state: str
    readings: list[ReadingView]
    busy_run_id: int | None


def has_line(station: Station) -> bool:
    """False for a device that tells nothing: a person works it and reads it."""
    return station.port > 0


def station_view(
    session: Session, station: Station, status: Status | None, message: str
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
        text=message,
        state=status.state if status else "away" if has_line(station) else "idle",
        readings=[
            ReadingView(name=name, value=float(value))
            for name, value in facts.items()
            if isinstance(value, float)
        ],
        busy_run_id=busy,
    )
