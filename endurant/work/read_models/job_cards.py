"""The card of every job: what lists and clocks show of it, written with the facts.

A card is written in the transaction that changed a fact of its job. Time alone changes it only
at `turns_at`; whoever looks after that, and a watch of every web process, writes it anew.
"""

from __future__ import annotations

from collections.abc import Iterable
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import func, or_, select, update
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from endurant.store import clock
from endurant.store.cards import keep_cards
from endurant.store.equipment import InstrumentEvent, PhotoUse
from endurant.store.seals import changed_rows
from endurant.store.tables import (
    Base,
    BenchEvent,
    ConditioningPeriod,
    Enclosure,
    Instrument,
    Job,
    JobCard,
    Laboratory,
    Report,
    Run,
    Specimen,
    Test,
    Void,
    Weighing,
)
from endurant.work.base.read_scope import looking
from endurant.work.base.transactions import again, transaction
from endurant.work.facts.conditioning_groups import conditioning_groups, turns_at, waiting_groups
from endurant.work.facts.job_status import card_line
from endurant.work.facts.status import job_or_refuse

TURN_EVERY_S = 3.0
MAX_TURNED_AT_ONCE = 40
MAX_SEARCHED = 700
WRITTEN = (
    "turns_at",
    "released",
    "due_at",
    "stage",
    "tested",
    "required",
    "verdict",
    "next_code",
    "problem",
    "search",
    "prepares",
    "placed",
    "waiting",
)


def refresh_changed(session: Session) -> None:
    """Write the cards of the jobs that a session changed facts of."""
    rows = changed_rows(session)
    if rows:
        refresh_jobs(session, _jobs_of(session, rows))


def mark_changed(session: Session) -> None:
    """Mark the cards of the jobs that a session changed facts of as due to be written."""
    rows = changed_rows(session)
    jobs = _jobs_of(session, rows) if rows else set()
    if jobs:
        old = update(JobCard).where(JobCard.job_id.in_(sorted(jobs)))
        session.execute(old.values(turns_at=clock.now()))


def _jobs_of(session: Session, rows: Iterable[Base]) -> set[int]:
    jobs: set[int] = set()
    specimens: set[int] = set()
    for row in rows:
        if isinstance(row, Job):
            jobs.add(row.id)
        elif isinstance(row, Test | Report):
            jobs.add(row.job_id)
        elif isinstance(row, Specimen):
            specimens.add(row.id)
        elif isinstance(row, InstrumentEvent):
            jobs |= _jobs_tested_with(session, row)
        elif isinstance(row, ConditioningPeriod | Void | Run | Weighing | BenchEvent | PhotoUse):
            specimens.add(row.specimen_id)
        elif isinstance(row, Enclosure):
            jobs |= _jobs_in(session, row.id)
        elif isinstance(row, Laboratory):
            jobs |= set(session.scalars(select(Job.id).where(Job.released_at.is_(None))))
    if specimens:
        own = select(Test.job_id).join(Specimen, Specimen.test_id == Test.id)
        jobs |= set(session.scalars(own.where(Specimen.id.in_(specimens)).distinct()))
    return jobs


def _jobs_tested_with(session: Session, event: InstrumentEvent) -> set[int]:
    """The open jobs that a check of an instrument may put in doubt, or out of it."""
    if event.kind not in ("checked", "barrel-check"):
        return set()
    own = (
        select(Test.job_id)
        .join(Specimen, Specimen.test_id == Test.id)
        .join(Run, Run.specimen_id == Specimen.id)
        .outerjoin(Instrument, Instrument.id == Run.instrument_id)
        .join(Job, Job.id == Test.job_id)
        .where(
            Job.released_at.is_(None),
            or_(
                Instrument.serial == event.serial,
                func.json_search(
                    Run.settings, "one", event.serial, None, "$.gauges[*].serial"
                ).is_not(None),
                func.json_search(Specimen.measured_with, "one", event.serial).is_not(None),
            ),
        )
        .distinct()
    )
    return set(session.scalars(own))


def _jobs_in(
    session: Session, enclosure_id: int, placed: Iterable[datetime] | None = None
) -> set[int]:
    """The open jobs with specimens in an enclosure, since these moments if given."""
    own = (
        select(Test.job_id)
        .join(Specimen, Specimen.test_id == Test.id)
        .join(ConditioningPeriod, ConditioningPeriod.specimen_id == Specimen.id)
        .join(Job, Job.id == Test.job_id)
        .where(ConditioningPeriod.enclosure_id == enclosure_id, Job.released_at.is_(None))
        .distinct()
    )
    if placed is None:
        return set(session.scalars(own.where(ConditioningPeriod.open_for.is_not(None))))
    return set(session.scalars(own.where(ConditioningPeriod.placed_at.in_(list(placed)))))


def refresh_placed(session: Session, enclosure_id: int, placed: set[datetime]) -> None:
    """Write the cards of jobs whose specimens, placed at these moments, have other progress now."""
    if placed:
        refresh_jobs(session, _jobs_in(session, enclosure_id, placed))


def refresh_jobs(session: Session, job_ids: Iterable[int]) -> None:
    """Write these cards from the facts as they are in this transaction."""
    ids = sorted(set(job_ids))
    if not ids:
        return
    session.flush()
    now = clock.now()
    # A session of its own on the same connection: it reads every fact as it is written now.
    with Session(session.connection(), expire_on_commit=False) as fresh:
        keep_cards(fresh)
        for job_id in ids:
            _write(fresh, job_id, now)
            fresh.expunge_all()


def _write(session: Session, job_id: int, now: datetime) -> None:
    """Write a card; whoever writes it at the same moment waits, and reads what came of this."""
    session.execute(select(JobCard.version).where(JobCard.job_id == job_id).with_for_update())
    job = session.get(Job, job_id)
    if job is None:
        return
    row = insert(JobCard).values(
        job_id=job.id, version=1, changed_at=datetime.now(UTC), **card_values(session, job, now)
    )
    given = {name: row.inserted[name] for name in ("changed_at", *WRITTEN)}
    session.execute(row.on_duplicate_key_update(version=JobCard.version + 1, **given))


def card_values(session: Session, job: Job, now: datetime) -> dict[str, Any]:
    """Everything that a card says of a job now."""
    with looking(session):
        line = card_line(session, job)
        placed, waiting = conditioning_groups(job, now), waiting_groups(job, now)
        turns = turns_at(job, now)
    own = (job.number, job.client, job.product, job.variant, job.lot, job.material)
    text = (each or "" for each in (*own, job.order_number, job.client_reference))
    return {
        "turns_at": turns,
        "released": job.released_at is not None or job.cancelled_at is not None,
        "due_at": job.due_at,
        "stage": line.stage,
        "tested": line.tested,
        "required": line.required,
        "verdict": line.verdict,
        "next_code": line.next_code,
        "problem": line.problem,
        "search": " ".join(text).lower()[:MAX_SEARCHED],
        "prepares": bool(placed or waiting),
        "placed": [group.model_dump(mode="json") for group in placed],
        "waiting": [group.model_dump(mode="json") for group in waiting],
    }


def refresh_turned(session: Session, now: datetime) -> int:
    """Write the cards that time has made others, some at once; how many."""
    turned = list(
        session.scalars(
            select(JobCard.job_id)
            .where(JobCard.turns_at <= now)
            .order_by(JobCard.turns_at)
            .limit(MAX_TURNED_AT_ONCE)
            .with_for_update(skip_locked=True)
        )
    )
    refresh_jobs(session, turned)
    return len(turned)


def version_of(session: Session, job_id: int) -> str:
    """The version of a job's card as it is now, and when it was written; raises NotFound.

    Everything that a page shows of a job changes together with it. The moment is in it because
    a database that is restored counts versions again.
    """
    card = JobCard
    read = select(card.version, card.changed_at, card.turns_at).where(card.job_id == job_id)
    row = session.execute(read).one_or_none()
    if row is None or (row[2] is not None and row[2] <= clock.now()):
        job_or_refuse(session, job_id)
        refresh_jobs(session, [job_id])
        row = session.execute(read).one()
    return f"{row[0]} {row[1].isoformat()}"


def watch_turning() -> None:
    """Write every card that time has made another: what a watch does again and again."""

    def turn() -> int:
        with transaction() as session:
            return refresh_turned(session, clock.now())

    while again(turn, "writing the cards that time has turned") >= MAX_TURNED_AT_ONCE:
        pass
