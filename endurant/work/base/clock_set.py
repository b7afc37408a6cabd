"""The clock of the computer: when it is set while clocks run, the record and the screens say so."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import Select, select
from sqlalchemy.orm import Session

from endurant.core.messages import Message
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.tables import AuditEntry, AuditHead
from endurant.work.base.transactions import transaction

ACTION = "clock-set"
ENTITY, ENTITY_ID = "clock", -1
"""No row has this id: what the record says of the clock is found by it."""
MIN = timedelta(seconds=30)
"""A computer that is kept to the time of a network is moved by less."""
ONCE_WITHIN = timedelta(minutes=1)
"""Each process notices it; the first writes it down."""
SHOWN_FOR = timedelta(hours=24)
LOOK_EVERY_S = 5.0


@dataclass(frozen=True)
class ClockSet:
    """When the clock was set, and what that means to those who wait for clocks."""

    at: datetime
    text: str


class ClockWatch:
    """Compares the clock of the computer with a count that nobody can set."""

    def __init__(self) -> None:
        self._before: tuple[datetime, float] | None = None

    def look(self) -> None:
        """Write down that the clock was set since the last look, if it was."""
        now, count_s = clock.now(), clock.steady_s()
        before, self._before = self._before, (now, count_s)
        if before is None:
            self._look_back(now)
            return
        moved = now - before[0] - timedelta(seconds=count_s - before[1])
        if abs(moved) >= MIN:
            _note(now, moved)

    @staticmethod
    def _look_back(now: datetime) -> None:
        """At the start: a record that ends in time to come was written under another clock."""
        with transaction() as session:
            last = session.scalar(
                select(AuditEntry.at).join(AuditHead, AuditHead.last_id == AuditEntry.id)
            )
        if last is not None and last - now >= MIN:
            _note(now, now - last)


def _note(now: datetime, moved: timedelta) -> None:
    with transaction() as session:
        session.execute(select(AuditHead).with_for_update())
        last = _last(session)
        if last is not None and abs(last.at - now) < ONCE_WITHIN:
            return
        record(
            session,
            person_id=None,
            action=ACTION,
            entity=ENTITY,
            entity_id=ENTITY_ID,
            job_id=None,
            message=Message("audit.clock-set", {"way": _way(moved)}),
            after={"moved_s": round(moved.total_seconds())},
        )


def last_clock_set(session: Session, now: datetime) -> ClockSet | None:
    """That the clock was set not long ago; None where it was not."""
    entry = _last(session)
    if entry is None or abs(now - entry.at) > SHOWN_FOR:
        return None
    moved = _moved(entry)
    when = "early" if moved > timedelta(0) else "late"
    return ClockSet(
        entry.at,
        Message("clock-set.shown", {"way": _way(moved), "when": when}).text,
    )


def clock_set_between(session: Session, start: datetime, end: datetime) -> list[str]:
    """What a report says of a clock that was set while its specimens waited or were tested."""
    said = []
    for entry in session.scalars(_entries().order_by(AuditEntry.id)):
        moved = _moved(entry)
        was = entry.at - moved
        if min(was, entry.at) <= end and start <= max(was, entry.at):
            at = f"{entry.at:%d %b at %H:%M} UTC"
            said.append(Message("clock-set.reported", {"way": _way(moved), "at": at}).text)
    return said


def _last(session: Session) -> AuditEntry | None:
    return session.scalar(_entries().order_by(AuditEntry.id.desc()).limit(1))


def _entries() -> Select[AuditEntry]:
    return select(AuditEntry).where(
        AuditEntry.entity == ENTITY, AuditEntry.entity_id == ENTITY_ID, AuditEntry.action == ACTION
    )


def _moved(entry: AuditEntry) -> timedelta:
    return timedelta(seconds=json.loads(entry.facts)["after"]["moved_s"])


def _way(moved: timedelta) -> str:
    minutes = abs(moved) / timedelta(minutes=1)
    long = f"{minutes:.0f} min" if minutes >= 2 else f"{abs(moved).total_seconds():.0f} s"
    return f"{'forward' if moved > timedelta(0) else 'back'} by {long}"
