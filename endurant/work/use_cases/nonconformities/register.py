"""The register of nonconformities: opened by a person or by a failed check, closed by another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.messages import Message, worded
from endurant.core.refusals import Conflict, Invalid, NotFound
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.nonconformities import AffectedResult, Nonconformity
from endurant.store.tables import Gauge, Instrument, Person
from endurant.work.base.actors import Actor
from endurant.work.base.requests import Moment, RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.facts.status import job_or_refuse, refuse_stale
from endurant.work.views.nonconformities import (
    Kind,
    NonconformityPage,
    nonconformity_page,
    number_of,
)

DUE_AFTER_CHECK = timedelta(days=14)
"""When one that a failed check opened is due, unless somebody sets another day."""


class NonconformityRequest(RequestBody):
    """What went wrong, with what it concerns: a job, an instrument, or neither."""

    kind: Kind = "nonconformity"
    title: str = Field(min_length=1, max_length=200)
    description: str = Field("", max_length=2000)
    job_id: int | None = Field(None, ge=1)
    serial: str | None = Field(None, max_length=40)
    owner_id: int | None = Field(None, ge=1)
    due_at: Moment | None = None


class NonconformityChange(RequestBody):
    """How one stands now: its cause, what is done about it, by whom and until when."""

    title: str = Field(min_length=1, max_length=200)
    description: str = Field("", max_length=2000)
    cause: str = Field("", max_length=2000)
    action: str = Field("", max_length=2000)
    owner_id: int | None = Field(None, ge=1)
    due_at: Moment | None = None
    revision: int


class ClosingRequest(RequestBody):
    """How the action was checked, and the revision that was seen."""

    remark: str = Field(min_length=1, max_length=500)
    revision: int


@dataclass(frozen=True)
class Affected:
    """A result that is in doubt: its run, its job, the label of its specimen and its method."""

    run_id: int
    job_id: int
    label: str
    method: str


def open_nonconformity(actor: Actor, request: NonconformityRequest) -> NonconformityPage:
    """Open one by hand. Raises NotFound for a job, instrument or person that is none."""
    actor.must("receive")
    with transaction() as session:
        if request.job_id is not None:
            job_or_refuse(session, request.job_id)
        if request.serial is not None:
            _refuse_unknown_serial(session, request.serial)
        _refuse_unknown_owner(session, request.owner_id)
        row = Nonconformity(source="person", cause="", action="", **request.model_dump())
        return _open(session, actor, row, ())


def open_by_check(
    session: Session, actor: Actor, serial: str, check: str, affected: Sequence[Affected]
) -> None:
    """Open one for an instrument whose check failed, or add what it affects to the open one."""
    row = session.scalar(
        select(Nonconformity).where(
            Nonconformity.serial == serial,
            Nonconformity.source == "check",
            Nonconformity.closed_at.is_(None),
        )
    )
    if row is None:
        row = Nonconformity(
            kind="nonconformity",
            source="check",
            serial=serial,
            title=worded("nonconformity-line.check-failed", serial=serial, check=check),
            description="",
            cause="",
            action="",
            due_at=clock.now() + DUE_AFTER_CHECK,
        )
        _open(session, actor, row, affected)
        return
    known = set(
        session.scalars(
            select(AffectedResult.run_id).where(AffectedResult.nonconformity_id == row.id)
        )
    )
    _affect(session, row, [each for each in affected if each.run_id not in known])


def change_nonconformity(
    actor: Actor, nonconformity_id: int, request: NonconformityChange
) -> NonconformityPage:
    """Write down how one stands. Raises NotFound, Conflict for a closed or a changed one."""
    actor.must("receive")
    with transaction() as session:
        row = _open_or_refuse(session, nonconformity_id, request.revision)
        _refuse_unknown_owner(session, request.owner_id)
        given = request.model_dump(exclude={"revision"})
        before = {name: getattr(row, name) for name in given}
        for name, value in given.items():
            setattr(row, name, value)
        row.revision += 1
        _note(session, actor, row, "change-nonconformity", before=before, after=given)
        return nonconformity_page(session, actor, row)


def close_nonconformity(
    actor: Actor, nonconformity_id: int, request: ClosingRequest
) -> NonconformityPage:
    """Close one, by a person who neither opened it nor acted on it.

    Raises NotFound, Conflict for a closed or a changed one or by the wrong person, Invalid without
    cause or action.
    """
    actor.must("close-nonconformities")
    with transaction() as session:
        row = _open_or_refuse(session, nonconformity_id, request.revision)
        if actor.id in (row.owner_id, row.opened_by_id):
            raise Conflict("nonconformity.closed-by-another", number=number_of(row))
        for name in ("cause", "action"):
            if not getattr(row, name):
                raise Invalid("nonconformity.part-missing", part=name, field=name)
        row.closed_at, row.closed_by_id, row.closing = clock.now(), actor.id, request.remark
        row.revision += 1
        _note(session, actor, row, "close-nonconformity", why=request.remark)
        return nonconformity_page(session, actor, row)


def _open(
    session: Session, actor: Actor, row: Nonconformity, affected: Sequence[Affected]
) -> NonconformityPage:
    row.opened_at, row.opened_by_id, row.revision = clock.now(), actor.id, 1
    session.add(row)
    session.flush()
    _affect(session, row, affected)
    _note(session, actor, row, "open-nonconformity")
    return nonconformity_page(session, actor, row)


def _affect(session: Session, row: Nonconformity, affected: Sequence[Affected]) -> None:
    session.add_all(
        AffectedResult(
            nonconformity_id=row.id,
            run_id=each.run_id,
            job_id=each.job_id,
            label=each.label,
            method=each.method,
        )
        for each in affected
    )
    session.flush()


def _open_or_refuse(session: Session, nonconformity_id: int, revision: int) -> Nonconformity:
    row = session.get(Nonconformity, nonconformity_id, with_for_update=True)
    if row is None:
        raise NotFound("nonconformity.none", number=nonconformity_id)
    if row.closed_at is not None:
        raise Conflict("nonconformity.closed-already", number=number_of(row))
    refuse_stale(number_of(row), row.revision, revision)
    return row


def _refuse_unknown_owner(session: Session, owner_id: int | None) -> None:
    person = None if owner_id is None else session.get(Person, owner_id)
    if owner_id is not None and (person is None or not person.active):
        raise Invalid("nonconformity.owner-unknown", field="owner_id")


def _refuse_unknown_serial(session: Session, serial: str) -> None:
    for table in (Instrument, Gauge):
        if session.scalar(select(table.id).where(table.serial == serial)) is not None:
            return
    raise Invalid("nonconformity.instrument-unknown", serial=serial, field="serial")


def _note(
    session: Session,
    actor: Actor,
    row: Nonconformity,
    action: str,
    *,
    before: dict[str, object] | None = None,
    after: dict[str, object] | None = None,
    why: str | None = None,
) -> None:
    session.flush()
    record(
        session,
        person_id=actor.id,
        action=action,
        entity="nonconformity",
        entity_id=row.id,
        job_id=row.job_id,
        message=Message(
            f"audit.{action}",
            {"actor": actor.name, "number": number_of(row), "title": row.title},
        ),
        before=before,
        after=after,
        why=why,
    )
