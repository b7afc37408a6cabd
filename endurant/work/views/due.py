"""What is due: calibrations, checks, authorisations, consumables, remainders, reports and more."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime, timedelta
from typing import Literal

from sqlalchemy import exists, select
from sqlalchemy.orm import Session

from endurant.core.messages import worded
from endurant.core.methods import all_methods
from endurant.core.writing import Writing
from endurant.store import clock
from endurant.store.authorisations import Authorisation
from endurant.store.clients import Client
from endurant.store.custody import CustodyEvent
from endurant.store.equipment import Supply
from endurant.store.nonconformities import Nonconformity
from endurant.store.tables import Gauge, Instrument, Job
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.consumables import consumable_notice
from endurant.work.facts.instrument_status import current_checks, due_of
from endurant.work.facts.laboratory import laboratory, writing_of
from endurant.work.facts.status import GONE
from endurant.work.views.nonconformities import line_of

AHEAD = timedelta(days=30)
CHECK_AHEAD = 0.25
"""A check is listed for the last quarter of its interval: a weekly one is not due all month."""
"""How far ahead the page looks, and how far back for an authorisation that has ended."""
BEHIND = timedelta(days=90)
"""How far back reports are looked for that nobody collected."""
MAX_LINES = 500

Kind = Literal[
    "calibration",
    "check",
    "authorisation",
    "consumable",
    "remainder",
    "report",
    "nonconformity",
]


class DueLine(View):
    """One thing that is due, and what it concerns: an instrument, a person or a job.

    `due_at` is None for a consumable, which is due by its count, and for a nonconformity without a
    day.
    """

    kind: Kind
    title: str
    text: str
    due_at: datetime | None
    overdue: bool
    serial: str | None = None
    person_id: int | None = None
    job_id: int | None = None
    nonconformity_id: int | None = None


class DueView(View):
    """Everything that is due within 30 days, the earliest first."""

    lines: list[DueLine]
    overdue: int
    made_at: datetime


def due() -> DueView:
    """Return what is overdue or due within 30 days."""
    with transaction() as session:
        now = clock.now()
        lines = [
            *_of_instruments(session, now),
            *_of_authorisations(session, now),
            *_of_consumables(session),
            *_of_remainders(session, now),
            *_of_reports(session, now),
            *_of_nonconformities(session, now),
        ]
    lines.sort(key=lambda line: (line.due_at or now, line.title))
    return DueView(
        lines=lines[:MAX_LINES], overdue=sum(line.overdue for line in lines), made_at=now
    )


def letterhead() -> tuple[str, Writing]:
    """Return the name of the laboratory, and how it writes figures and days."""
    with transaction() as session:
        lab = laboratory(session)
        return lab.name, writing_of(lab)


def _of_instruments(session: Session, now: datetime) -> Iterator[DueLine]:
    """Calibrations, and the reference checks that are due between them."""
    rows: list[Instrument | Gauge] = [
        *session.scalars(select(Instrument).where(Instrument.retired_at.is_(None))),
        *session.scalars(select(Gauge).where(Gauge.retired_at.is_(None))),
    ]
    checks = current_checks(session)
    for row in rows:
        if row.calibration_due_at < now + AHEAD:
            yield DueLine(
                kind="calibration",
                title=f"{row.name}, {row.serial}",
                text=worded("due.calibration", certificate=row.certificate),
                due_at=row.calibration_due_at,
                overdue=row.calibration_due_at < now,
                serial=row.serial,
            )
        for check in checks.get(row.serial, []):
            due_at = due_of(check)
            if due_at < now + min(AHEAD, timedelta(days=check.every_days) * CHECK_AHEAD):
                yield DueLine(
                    kind="check",
                    title=f"{row.name}, {row.serial}",
                    text=check.title,
                    due_at=due_at,
                    overdue=due_at < now,
                    serial=row.serial,
                )


def _of_authorisations(session: Session, now: datetime) -> Iterator[DueLine]:
    """Those that end soon or ended lately, of people who are active, unless another holds."""
    rows = list(session.scalars(select(Authorisation).where(Authorisation.withdrawn_at.is_(None))))
    holding: dict[tuple[int, str], datetime | None] = {}
    for row in rows:
        key = (row.person_id, row.method)
        latest = holding.get(key, row.until)
        holding[key] = None if latest is None or row.until is None else max(latest, row.until)
    for row in rows:
        until = holding[row.person_id, row.method]
        if until is None or until != row.until or not row.person.active:
            continue
        if now - AHEAD < until < now + AHEAD:
            method = all_methods().get(row.method)
            yield DueLine(
                kind="authorisation",
                title=row.person.name,
                text=method.title if method is not None else row.method,
                due_at=until,
                overdue=until < now,
                person_id=row.person_id,
            )


def _of_consumables(session: Session) -> Iterator[DueLine]:
    for row in session.scalars(select(Supply).where(Supply.finished_at.is_(None))):
        notice = consumable_notice(row)
        if notice:
            yield DueLine(
                kind="consumable",
                title=f"{row.kind}, {row.lot}",
                text=notice,
                due_at=None,
                overdue=True,
            )


def _of_remainders(session: Session, now: datetime) -> Iterator[DueLine]:
    """Remainders that are here and are to be disposed of, by the last entry of each job."""
    rows = session.execute(
        select(CustodyEvent, Job)
        .join(Job, Job.id == CustodyEvent.job_id)
        .where(CustodyEvent.kind.in_(("kept", *GONE)))
        .order_by(CustodyEvent.id)
    )
    last = {event.job_id: (event, job) for event, job in rows}
    for event, job in last.values():
        if event.kind == "kept" and event.until is not None and event.until < now + AHEAD:
            yield DueLine(
                kind="remainder",
                title=f"{job.number} {job.product}",
                text=worded("due.remainder", location=event.location),
                due_at=event.until,
                overdue=event.until < now,
                job_id=job.id,
            )


def _of_reports(session: Session, now: datetime) -> Iterator[DueLine]:
    """Reports of the last 90 days that a client collects at the counter, and has not yet."""
    collected = exists().where(
        CustodyEvent.job_id == Job.id,
        CustodyEvent.kind == "collected",
        CustodyEvent.at >= Job.released_at,
    )
    rows = session.execute(
        select(Job.id, Job.number, Job.product, Job.client, Job.released_at)
        .join(Client, Client.name == Job.client)
        .where(Client.collects_reports, Job.released_at > now - BEHIND, ~collected)
    )
    for job_id, number, product, client, released_at in rows:
        yield DueLine(
            kind="report",
            title=f"{number} {product}",
            text=worded("due.report", client=client),
            due_at=released_at,
            overdue=False,
            job_id=job_id,
        )


def _of_nonconformities(session: Session, now: datetime) -> Iterator[DueLine]:
    """Open ones, whenever they are due."""
    for row in session.scalars(select(Nonconformity).where(Nonconformity.closed_at.is_(None))):
        line = line_of(row, now)
        yield DueLine(
            kind="nonconformity",
            title=f"{line.number}, {row.title}",
            text=line.owner or worded("due.nobody-responsible"),
            due_at=row.due_at,
            overdue=line.overdue,
            nonconformity_id=row.id,
        )
