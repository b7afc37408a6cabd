"""Whether an instrument may be used now: its service, its checks, its calibration."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.departures import Departure
from endurant.core.messages import worded
from endurant.core.refusals import Conflict
from endurant.store import clock
from endurant.store.equipment import ReferenceCheck
from endurant.store.tables import Gauge, Instrument
from endurant.work.base.read_scope import once

InstrumentStatus = Literal["good", "watch", "overdue", "out", "retired"]


def current_checks(session: Session, serial: str | None = None) -> dict[str, list[ReferenceCheck]]:
    """The checks that are kept up, by serial number."""
    return once(session, ("checks", serial), lambda: _read(session, serial))


def _read(session: Session, serial: str | None) -> dict[str, list[ReferenceCheck]]:
    query = select(ReferenceCheck).where(ReferenceCheck.closed_at.is_(None))
    if serial is not None:
        query = query.where(ReferenceCheck.serial == serial)
    by_serial: dict[str, list[ReferenceCheck]] = {}
    for check in session.scalars(query.order_by(ReferenceCheck.id)):
        by_serial.setdefault(check.serial, []).append(check)
    return by_serial


def instrument_status(
    row: Instrument | Gauge, checks: Sequence[ReferenceCheck], now: datetime
) -> tuple[InstrumentStatus, str]:
    """How an instrument stands, the worst first, and why in words."""
    if row.retired_at is not None:
        return "retired", f"retired on {row.retired_at:%d %b %Y}"
    if row.out_since is not None:
        return "out", f"out of service since {row.out_since:%d %b %Y}: {row.out_reason}"
    for check in checks:
        if check.last_verdict == "out":
            return (
                "out",
                worded(
                    "instrument-status.out-of-service-until-a-check-passes",
                    title=check.title,
                    last_message=check.last_message,
                ),
            )
    if row.calibration_due_at < now:
        return "overdue", f"its calibration was due on {row.calibration_due_at:%d %b %Y}"
    for check in checks:
        due_at = due_of(check)
        if due_at < now:
            return "overdue", f"{check.title} was due on {due_at:%d %b %Y}"
    for check in checks:
        if check.last_verdict == "watch":
            return "watch", f"{check.title}: {check.last_message}"
    return "good", ""


def due_of(check: ReferenceCheck) -> datetime:
    """When a check is due: so many days after its last reading, or after it was begun."""
    return (check.last_at or check.since) + timedelta(days=check.every_days)


def refuse_out(session: Session, row: Instrument | Gauge) -> list[Departure]:
    """What the use of an instrument departs from, by code and words.

    Raises Conflict for one that is out of service, whose check failed, or that was retired.
    """
    now = clock.now()
    status, message = instrument_status(
        row, current_checks(session, row.serial).get(row.serial, []), now
    )
    if status in ("out", "retired"):
        raise Conflict(
            "instrument.cannot-be-used", instrument=row.name, serial=row.serial, reason=message
        )
    if row.calibration_due_at < now:
        due_at = row.calibration_due_at
        return [
            Departure.of(
                "calibration-overdue", instrument=row.name, serial=row.serial, due_at=due_at
            )
        ]
    if status == "overdue":
        return [
            Departure.of("check-overdue", instrument=row.name, serial=row.serial, reason=message)
        ]
    return []
