"""Reference checks: what is to be read, the readings as a chart, and what a bad one touches."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field
from sqlalchemy import ColumnElement, and_, func, or_, select
from sqlalchemy.orm import Session

from endurant.core.checking import Aim, judge, refuse_aim, refuse_unit
from endurant.core.messages import Message
from endurant.core.refusals import Conflict, NotFound
from endurant.store import clock
from endurant.store.equipment import ReferenceCheck, ReferenceReading
from endurant.store.tables import Job, Run, Specimen, Test
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.instrument_status import due_of
from endurant.work.use_cases.instruments.barrel import bad_barrel_since
from endurant.work.use_cases.instruments.equipment import Owned, note, owned_or_refuse

CHARTED = 60
MAX_TOUCHED = 200
JUDGED_WITH = 8


class CheckRequest(RequestBody):
    """A check that is kept up from now on."""

    title: str = Field(min_length=1, max_length=80)
    unit: str = Field(min_length=1, max_length=16)
    target: float = Field(ge=-1e9, le=1e9)
    warn: float = Field(gt=0, le=1e9)
    limit: float = Field(gt=0, le=1e9)
    every_days: int = Field(ge=1, le=3650)


class ReadingRequest(RequestBody):
    """One reading; `unit` is that of the check, where it is named."""

    value: float = Field(ge=-1e12, le=1e12)
    unit: str = Field("", max_length=16)
    is_sure: bool = Field(False, description="The value is right, though it looks like a slip.")


class ReferenceReadingView(View):
    """One reading as the chart shows it."""

    at: datetime
    by: str
    value: float
    verdict: str
    text: str


class ReferenceCheckView(View):
    """A check with its latest readings, the oldest first."""

    id: int
    title: str
    unit: str
    target: float
    warn: float
    limit: float
    every_days: int
    due_at: datetime
    due: bool
    readings: list[ReferenceReadingView]


class TouchedView(View):
    """A result that was made since the last good check."""

    run_id: int
    job_id: int
    job_number: str
    method: str
    label: str
    at: datetime
    released: bool


def checks_of(serial: str) -> list[ReferenceCheckView]:
    """The checks of an instrument with their charts. Raises NotFound."""
    with transaction() as session:
        owned_or_refuse(session, serial)
        return _views(session, serial)


def begin_check(actor: Actor, serial: str, request: CheckRequest) -> list[ReferenceCheckView]:
    """Keep a check up from now on. Raises Invalid for limits that cannot be, Conflict, NotFound."""
    actor.must("equip")
    refuse_aim(Aim(request.target, request.warn, request.limit, request.unit))
    with transaction() as session:
        owned_or_refuse(session, serial)
        same = select(ReferenceCheck.id).where(
            ReferenceCheck.serial == serial, ReferenceCheck.title == request.title
        )
        if session.scalar(same) is not None:
            raise Conflict("check.title-taken", check=request.title)
        session.add(ReferenceCheck(serial=serial, since=clock.now(), **request.model_dump()))
        session.flush()
        aim = {"target": request.target, "limit": request.limit, "unit": request.unit}
        message = Message("log.check-begun", {"check": request.title, **aim})
        note(session, actor, serial, "check-begun", message)
        return _views(session, serial)


def close_check(actor: Actor, check_id: int) -> list[ReferenceCheckView]:
    """A check is kept up no longer. Raises NotFound."""
    actor.must("equip")
    with transaction() as session:
        check = _check_or_refuse(session, check_id)
        check.closed_at = clock.now()
        # The title is free for another check.
        check.title = f"{check.title[:60]} (ended {check.id})"
        message = Message("log.check-ended", {"check": check.title})
        note(session, actor, check.serial, "check-ended", message)
        return _views(session, check.serial)


def read_check(actor: Actor, check_id: int, request: ReadingRequest) -> list[ReferenceCheckView]:
    """Take a reading down.

    Raises Invalid for one in another unit, NeedsReason for one that looks so, NotFound.
    """
    actor.must("test")
    with transaction() as session:
        check = _check_or_refuse(session, check_id)
        aim = Aim(check.target, check.warn, check.limit, check.unit)
        refuse_unit(request.value, request.unit, aim, is_sure=request.is_sure)
        before = [row.value for row in _latest(session, check, JUDGED_WITH)]
        judged = judge(before, request.value, aim)
        now = clock.now()
        session.add(
            ReferenceReading(
                check_id=check.id,
                at=now,
                by_id=actor.id,
                value=request.value,
                verdict=judged.verdict,
                message=judged.text,
            )
        )
        check.last_at, check.last_verdict, check.last_message = now, judged.verdict, judged.text
        session.flush()
        reading = {"value": request.value, "unit": check.unit, "judged": judged.text}
        message = Message("log.checked", {"check": check.title, **reading})
        note(session, actor, check.serial, "checked", message, verdict=judged.verdict)
        return _views(session, check.serial)


def affected(serial: str) -> list[TouchedView]:
    """What was tested with an instrument since its last good check, while its last one is bad.

    Raises NotFound.
    """
    with transaction() as session:
        owned = owned_or_refuse(session, serial)
        since = bad_since(session, serial)
        if since is None:
            return []
        rows = session.execute(
            select(Run, Specimen, Test, Job)
            .join(Specimen, Run.specimen_id == Specimen.id)
            .join(Test, Specimen.test_id == Test.id)
            .join(Job, Test.job_id == Job.id)
            .where(Run.state == "settled", _with_instrument(owned, since))
            .order_by(Run.id.desc())
            .limit(MAX_TOUCHED)
        )
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
            for run, specimen, test, job in rows
        ]


def _with_instrument(owned: Owned, since: datetime) -> ColumnElement[bool]:
    """Runs at a station, runs with a value read off a gauge, and specimens it measured before."""
    read = func.json_search(Run.settings, "one", owned.row.serial, None, "$.gauges[*].serial")
    measured = func.json_search(Specimen.measured_with, "one", owned.row.serial)
    at_station = () if owned.station is None else (Run.instrument_id == owned.row.id,)
    return or_(
        and_(Run.started_at >= since, or_(read.is_not(None), *at_station)),
        and_(Specimen.measured_at >= since, measured.is_not(None)),
    )


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


def _check_or_refuse(session: Session, check_id: int) -> ReferenceCheck:
    check = session.get(ReferenceCheck, check_id, with_for_update=True)
    if check is None or check.closed_at is not None:
        raise NotFound("check.unknown", check_id=check_id)
    return check


def _latest(session: Session, check: ReferenceCheck, upper: int) -> list[ReferenceReading]:
    """The latest readings of a check, the oldest first."""
    rows = session.scalars(
        select(ReferenceReading)
        .where(ReferenceReading.check_id == check.id)
        .order_by(ReferenceReading.id.desc())
        .limit(upper)
    ).all()
    return list(reversed(rows))


def _views(session: Session, serial: str) -> list[ReferenceCheckView]:
    now = clock.now()
    checks = session.scalars(
        select(ReferenceCheck)
        .where(ReferenceCheck.serial == serial, ReferenceCheck.closed_at.is_(None))
        .order_by(ReferenceCheck.id)
    ).all()
    return [
        ReferenceCheckView(
            id=check.id,
            title=check.title,
            unit=check.unit,
            target=check.target,
            warn=check.warn,
            limit=check.limit,
            every_days=check.every_days,
            due_at=due_of(check),
            due=due_of(check) < now,
            readings=[
                ReferenceReadingView(
                    at=row.at,
                    by=row.by.name,
                    value=row.value,
                    verdict=row.verdict,
                    text=row.message,
                )
                for row in _latest(session, check, CHARTED)
            ],
        )
        for check in checks
    ]
