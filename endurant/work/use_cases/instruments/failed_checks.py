"""A failed check: since when results are in doubt, which they are, and the nonconformity of it."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import ColumnElement, and_, func, or_, select
from sqlalchemy.orm import Session

from endurant.core.conditioning.document import EARLIEST
from endurant.store.equipment import InstrumentEvent, ReferenceCheck, ReferenceReading
from endurant.store.tables import Job, Run, Specimen, Test
from endurant.work.base.actors import Actor
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.use_cases.instruments.equipment import Owned, owned_or_refuse
from endurant.work.use_cases.nonconformities.register import Affected, open_by_check

BARREL_CHECK = "barrel-check"
MAX_TOUCHED = 200


class TouchedView(View):
    """A result that was made since the last good check."""

    run_id: int
    job_id: int
    job_number: str
    method: str
    label: str
    at: datetime
    released: bool


def affected(serial: str) -> list[TouchedView]:
    """What was tested with an instrument since its last good check, while its last one is bad.

    Raises NotFound.
    """
    with transaction() as session:
        owned = owned_or_refuse(session, serial)
        since = bad_since(session, serial)
        if since is None:
            return []
        return [
            TouchedView(
                run_id=run.id,
                job_id=job.id,
                job_number=job.number,
                method=test.method,
                label=specimen.label,
                at=run.started_at,
                released=job.released_at is not None,
            )
            for run, specimen, test, job in _runs_with(session, owned, since, MAX_TOUCHED)
        ]


def open_by_failed_check(session: Session, actor: Actor, serial: str, check: str) -> None:
    """Open a nonconformity for an instrument whose check has failed, with what it affects."""
    since = bad_since(session, serial)
    owned = owned_or_refuse(session, serial)
    rows = [] if since is None else _runs_with(session, owned, since)
    affected = [
        Affected(run.id, job.id, specimen.label, test.method)
        for run, specimen, test, job in reversed(rows)
    ]
    open_by_check(session, actor, serial, check, affected)


def bad_since(session: Session, serial: str) -> datetime | None:
    """The last good check before the one that is bad now; None while none is bad.

    The check of a barrel that was too far off is one of them.
    """
    checks = session.scalars(
        select(ReferenceCheck).where(
            ReferenceCheck.serial == serial,
            ReferenceCheck.closed_at.is_(None),
            ReferenceCheck.last_verdict == "out",
        )
    ).all()
    barrel = bad_barrel_since(session, serial)
    moments = [] if barrel is None else [barrel]
    for check in checks:
        good = session.scalar(
            select(ReferenceReading.at)
            .where(ReferenceReading.check_id == check.id, ReferenceReading.verdict != "out")
            .order_by(ReferenceReading.id.desc())
            .limit(1)
        )
        moments.append(good or check.since)
    return min(moments, default=None)


def bad_barrel_since(session: Session, serial: str) -> datetime | None:
    """The check before the last one, where the last was off by more than is let pass."""
    rows = session.scalars(
        select(InstrumentEvent)
        .where(InstrumentEvent.serial == serial, InstrumentEvent.kind == BARREL_CHECK)
        .order_by(InstrumentEvent.id.desc())
        .limit(2)
    ).all()
    if not rows or not rows[0].facts.get("review"):
        return None
    return rows[1].at if len(rows) > 1 else EARLIEST


def _runs_with(
    session: Session, owned: Owned, since: datetime, limit: int | None = None
) -> Sequence[Any]:
    """The settled runs with an instrument since a moment: run, specimen, test and job, by run."""
    return session.execute(
        select(Run, Specimen, Test, Job)
        .join(Specimen, Run.specimen_id == Specimen.id)
        .join(Test, Specimen.test_id == Test.id)
        .join(Job, Test.job_id == Job.id)
        .where(Run.state == "settled", _with_instrument(owned, since))
        .order_by(Run.id.desc())
        .limit(limit)
    ).all()


def _with_instrument(owned: Owned, since: datetime) -> ColumnElement[bool]:
    """Runs at a station, runs with a value read off a gauge, and specimens it measured before."""
    read = func.json_search(Run.settings, "one", owned.row.serial, None, "$.gauges[*].serial")
    measured = func.json_search(Specimen.measured_with, "one", owned.row.serial)
    at_station = () if owned.station is None else (Run.instrument_id == owned.row.id,)
    return or_(
        and_(Run.started_at >= since, or_(read.is_not(None), *at_station)),
        and_(Specimen.measured_at >= since, measured.is_not(None)),
    )
