"""Reference checks: what is to be read, the readings as a chart, and what a bad one touches."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.checking import Aim, judge, refuse_aim, refuse_unit
from endurant.core.messages import Message
from endurant.core.refusals import Conflict, NotFound
from endurant.store import clock
from endurant.store.equipment import ReferenceCheck, ReferenceReading
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.instrument_status import due_of
from endurant.work.use_cases.instruments.equipment import note, owned_or_refuse
from endurant.work.use_cases.instruments.failed_checks import open_by_failed_check

CHARTED = 60
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
        if judged.verdict == "out":
            open_by_failed_check(session, actor, check.serial, check.title)
        return _views(session, check.serial)


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
