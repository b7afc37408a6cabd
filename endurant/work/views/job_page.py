"""One job as its page shows it."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.messages import worded
from endurant.core.methods import find_method
from endurant.store import clock
from endurant.store.tables import AuditEntry, Job, Person, Report, Test
from endurant.work.base.read_scope import looking, once
from endurant.work.base.transactions import transaction
from endurant.work.facts.called_specimens import called_specimens
from endurant.work.facts.job_status import arrived_in_words, line_fields
from endurant.work.facts.models import (
    Event,
    JobView,
    ReportLine,
)
from endurant.work.facts.status import (
    count_in_state,
    is_cut,
    job_or_refuse,
    last_run,
)
from endurant.work.facts.test_status import test_view


def job(job_id: int) -> JobView:
    """One job with everything that its page shows; raises NotFound."""
    with transaction() as session:
        return job_view(session, job_or_refuse(session, job_id))


def job_view(session: Session, job: Job) -> JobView:
    """A job as its page shows it."""
    session.flush()
    with looking(session):
        return once(session, ("job view", job.id), lambda: _job_view(session, job))


def _job_view(session: Session, job: Job) -> JobView:
    tests = [test_view(session, test) for test in job.tests]
    now = clock.now()
    events = session.execute(
        select(AuditEntry, Person)
        .outerjoin(Person, AuditEntry.person_id == Person.id)
        .where(AuditEntry.job_id == job.id)
        .order_by(AuditEntry.id.desc())
        .limit(12)
    ).all()
    called = [called_specimen for test in job.tests for called_specimen in called_specimens(test)]
    receiver = session.get_one(Person, job.received_by_id)
    return JobView(
        **line_fields(job, tests),
        material=job.material,
        form=job.form,
        arrived=arrived_in_words(job),
        arrival_state=job.arrival_state,
        width_mm=job.width_mm,
        length_mm=job.length_mm,
        received_at=job.received_at,
        received_by=receiver.name,
        is_cut=any(is_cut(test) for test in job.tests),
        cut_at=job.cut_at,
        conditioned=count_in_state(called, now, "ready", "running", "to-look-at", "tested"),
        tests=tests,
        events=[
            Event(
                at=entry.at,
                who=person.name if person else "",
                code=entry.action,
                text=entry.text,
            )
            for entry, person in events
        ],
        reports=[report_line(report) for report in job.reports],
        correcting=job.correction_reason,
        released=job.released_at is not None,
        cancelled=job.cancelled_reason if job.cancelled_at is not None else None,
        client_remark=job.client_remark or "",
        shelf=job.shelf or "",
        order_number=job.order_number or "",
        client_reference=job.client_reference or "",
        dropped=dropped_in_words(session, job),
        revision=job.revision,
    )


def dropped_in_words(session: Session, job: Job) -> list[str]:
    """The tests that are asked for no more, each with why and what had been tested of it."""
    rows = session.scalars(
        select(Test).where(Test.job_id == job.id, Test.dropped_at.is_not(None)).order_by(Test.id)
    )
    wording = []
    for row in rows:
        tested = [specimen.label for specimen in row.specimens if last_run(specimen) is not None]
        after = worded("job-line.after-had-been-tested", tested=", ".join(tested)) if tested else ""
        title, day = find_method(row.method).title, f"{row.dropped_at:%d %b %Y}"
        wording.append(
            worded(
                "job-line.was-dropped-on",
                title=title,
                day=day,
                after=after,
                dropped_reason=row.dropped_reason,
            )
        )
    return wording


def report_line(report: Any) -> ReportLine:
    """A released report as a job lists it."""
    return ReportLine(
        id=report.id,
        number=report.number,
        revision=report.revision,
        verdict=report.verdict,
        reason=report.reason,
        released_at=report.released_at,
        released_by=report.released_by.name,
        withdrawn=withdrawn_in_words(report),
    )


def withdrawn_in_words(report: Report) -> str:
    """When, by whom and why a report was withdrawn; empty where it holds."""
    if report.withdrawal is None:
        return ""
    row = report.withdrawal
    return f"Withdrawn on {row.at:%d %b %Y} by {row.by.name}: {row.reason}"
