"""Nonconformities and complaints as their pages show them."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import Field
from sqlalchemy import ColumnElement, func, or_, select
from sqlalchemy.orm import Session, selectinload

from endurant.core.labelled import labels_in_words
from endurant.core.methods import all_methods
from endurant.core.refusals import NotFound
from endurant.store import clock
from endurant.store.nonconformities import AffectedResult, Nonconformity
from endurant.store.tables import Job
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View

MAX_LINES = 200

Kind = Literal["nonconformity", "complaint"]


class NonconformitiesRequest(RequestBody):
    """Which are listed: open or closed, of a job (also by what they affect), of an instrument."""

    state: Literal["open", "closed", "all"] = "open"
    job_id: int | None = Field(None, ge=1)
    serial: str | None = Field(None, max_length=40)


class NonconformityLine(View):
    """One of them in the list."""

    id: int
    number: str
    kind: Kind
    title: str
    owner: str | None
    due_at: datetime | None
    opened_at: datetime
    closed_at: datetime | None
    overdue: bool


class AffectedJob(View):
    """A job whose results it affects: which specimens, and whether the report was released."""

    job_id: int
    number: str
    product: str
    client: str
    method: str
    labels: str
    released: bool


class NonconformityPage(NonconformityLine):
    """One of them with all that is known, and what this person may do."""

    source: Literal["person", "check"]
    job_id: int | None
    job_number: str | None
    serial: str | None
    description: str
    cause: str
    action: str
    owner_id: int | None
    opened_by: str
    closed_by: str | None
    closing: str | None
    affected: list[AffectedJob]
    revision: int
    may_change: bool
    may_close: bool


def number_of(row: Nonconformity) -> str:
    """Return what it is called: "NC-0004"."""
    return f"NC-{row.id:04d}"


def nonconformities(request: NonconformitiesRequest) -> list[NonconformityLine]:
    """Return them: open ones by their due date, closed ones the newest first."""
    with transaction() as session:
        filters: list[ColumnElement[bool]] = []
        if request.state != "all":
            is_open = Nonconformity.closed_at.is_(None)
            filters.append(is_open if request.state == "open" else ~is_open)
        if request.job_id is not None:
            affecting = select(AffectedResult.nonconformity_id).where(
                AffectedResult.job_id == request.job_id
            )
            own = Nonconformity.job_id == request.job_id
            filters.append(or_(own, Nonconformity.id.in_(affecting)))
        if request.serial is not None:
            filters.append(Nonconformity.serial == request.serial)
        order = [Nonconformity.closed_at.desc(), func.isnull(Nonconformity.due_at)]
        rows = session.scalars(
            select(Nonconformity)
            .where(*filters)
            .options(selectinload(Nonconformity.owner))
            .order_by(*order, Nonconformity.due_at, Nonconformity.id.desc())
            .limit(MAX_LINES)
        )
        return [line_of(row, clock.now()) for row in rows]


def line_of(row: Nonconformity, now: datetime) -> NonconformityLine:
    """Return one of them as a list shows it."""
    is_late = row.closed_at is None and row.due_at is not None and row.due_at < now
    return NonconformityLine(
        id=row.id,
        number=number_of(row),
        kind="complaint" if row.kind == "complaint" else "nonconformity",
        title=row.title,
        owner=row.owner.name if row.owner else None,
        due_at=row.due_at,
        opened_at=row.opened_at,
        closed_at=row.closed_at,
        overdue=is_late,
    )


def nonconformity(actor: Actor, nonconformity_id: int) -> NonconformityPage:
    """Return one of them, as this person may act on it. Raises NotFound."""
    with transaction() as session:
        row = session.get(Nonconformity, nonconformity_id)
        if row is None:
            raise NotFound("nonconformity.none", number=nonconformity_id)
        return nonconformity_page(session, actor, row)


def nonconformity_page(session: Session, actor: Actor, row: Nonconformity) -> NonconformityPage:
    """Return its page, in the transaction that may have written it."""
    job = None if row.job_id is None else session.get_one(Job, row.job_id)
    is_open = row.closed_at is None
    return NonconformityPage(
        **line_of(row, clock.now()).model_dump(),
        source="check" if row.source == "check" else "person",
        job_id=row.job_id,
        job_number=job.number if job else None,
        serial=row.serial,
        description=row.description,
        cause=row.cause,
        action=row.action,
        owner_id=row.owner_id,
        opened_by=row.opened_by.name,
        closed_by=row.closed_by.name if row.closed_by else None,
        closing=row.closing,
        affected=_affected(session, row),
        revision=row.revision,
        may_change=is_open and actor.may("receive"),
        may_close=is_open and actor.may("close-nonconformities"),
    )


def _affected(session: Session, row: Nonconformity) -> list[AffectedJob]:
    rows = session.execute(
        select(AffectedResult, Job)
        .join(Job, Job.id == AffectedResult.job_id)
        .where(AffectedResult.nonconformity_id == row.id)
        .order_by(Job.id.desc(), AffectedResult.id)
    )
    labels: dict[tuple[int, str], list[str]] = {}
    jobs: dict[int, Job] = {}
    for result, job in rows:
        jobs[job.id] = job
        labels.setdefault((job.id, result.method), []).append(result.label)
    known = all_methods()
    return [
        AffectedJob(
            job_id=job_id,
            number=jobs[job_id].number,
            product=jobs[job_id].product,
            client=jobs[job_id].client,
            method=known[method].title if method in known else method,
            labels=labels_in_words(own),
            released=jobs[job_id].released_at is not None,
        )
        for (job_id, method), own in labels.items()
    ]
