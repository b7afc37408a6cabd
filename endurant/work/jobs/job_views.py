"""Jobs as their list and their page show them."""

from __future__ import annotations

import logging
from typing import Any

from sqlalchemy import select
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from endurant.core.judging.verdicts import report_verdict
from endurant.core.methods import find_method
from endurant.store import clock
from endurant.store.tables import AuditEntry, Job, Person, Report, Test
from endurant.work.jobs.calling import called_specimens
from endurant.work.jobs.next_step import NEXT, next_step, stage_of_job
from endurant.work.jobs.states import (
    count_in_state,
    is_cut,
    job_or_refuse,
    last_run,
    wanted_of,
)
from endurant.work.jobs.test_views import test_view
from endurant.work.jobs.views import (
    Event,
    JobLine,
    JobView,
    NextCode,
    ReportLine,
    TestView,
)
from endurant.work.record.looking import looking, once
from endurant.work.record.transactions import transaction

_log = logging.getLogger(__name__)


def job(job_id: int) -> JobView:
    """One job with everything that its page shows; raises NotFound."""
    with transaction() as session:
        return job_view(session, job_or_refuse(session, job_id))


def card_line(session: Session, job: Job) -> JobLine:
    """A job as its card keeps it; one that cannot be shown says so, and hides no other."""
    try:
        return job_line(session, job)
    except DBAPIError:
        raise
    except Exception:
        _log.exception("job %s cannot be shown", job.number)
        return JobLine(
            **_facts(job),
            stage="received",
            tested=0,
            wanted=0,
            verdict="not judged",
            **_next("look-at-trouble"),
            trouble="this job cannot be computed; whoever keeps the server finds why in its log",
        )


def job_line(session: Session, job: Job) -> JobLine:
    """A job as the list shows it; of a released one the report says what came of it."""
    if job.released_at is not None and job.reports:
        wanted = sum(wanted_of(test) for test in job.tests)
        return JobLine(
            **_facts(job),
            stage="released",
            tested=wanted,
            wanted=wanted,
            verdict=job.reports[-1].verdict,
            **_next("read-report"),
        )
    return JobLine(**_line_fields(job, [test_view(session, test) for test in job.tests]))


def _next(code: NextCode) -> dict[str, Any]:
    words, place = NEXT[code]
    return {"next_code": code, "next_words": words, "next_place": place}


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
        **_line_fields(job, tests),
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
            Event(at=entry.at, who=person.name if person else "", words=entry.words)
            for entry, person in events
        ],
        reports=[report_line(report) for report in job.reports],
        correcting=job.correction_reason,
        released=job.released_at is not None,
        cancelled=job.cancelled_reason if job.cancelled_at is not None else None,
        client_words=job.client_words or "",
        shelf=job.shelf or "",
        dropped=dropped_in_words(session, job),
        revision=job.revision,
    )


def dropped_in_words(session: Session, job: Job) -> list[str]:
    """The tests that are asked for no more, each with why and what had been tested of it."""
    rows = session.scalars(
        select(Test).where(Test.job_id == job.id, Test.dropped_at.is_not(None)).order_by(Test.id)
    )
    words = []
    for row in rows:
        tested = [specimen.label for specimen in row.specimens if last_run(specimen) is not None]
        after = f", after {', '.join(tested)} had been tested" if tested else ""
        title, day = find_method(row.method).title, f"{row.dropped_at:%d %b %Y}"
        words.append(f"{title} was dropped on {day}{after}: {row.dropped_reason}")
    return words


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


def arrived_in_words(job: Job) -> str:
    """The size of a sample as it is read: 1480 x 1000 mm, 12 pieces, 800 g of granules."""
    arrived = job.arrived or {}
    if job.form == "sheet":
        return f"{job.width_mm or 0:g} x {job.length_mm or 0:g} mm"
    if "mass_g" in arrived:
        words = f"{arrived['mass_g']:g} g of granules"
        if arrived.get("bag"):
            words += f", bag {arrived['bag']}"
        share = arrived.get("regrind_percent")
        return words if share is None else f"{words}, {share:g} % regrind"
    words = f"{arrived.get('count', 0)} {arrived.get('piece_kind') or job.form}"
    if size_mm := arrived.get("size_mm"):
        words += f" of {' x '.join(f'{side:g}' for side in size_mm)} mm"
    if mass_kg := arrived.get("gross_mass_kg"):
        words += f", {mass_kg:g} kg"
    return f"{words}, faces: {arrived['faces']}" if arrived.get("faces") else words


def _facts(job: Job) -> dict[str, Any]:
    return {
        "id": job.id,
        "number": job.number,
        "client": job.client,
        "product": job.product,
        "variant": job.variant,
        "study_id": job.study_id,
        "priority": job.priority or 0,
        "lot": job.lot,
        "due_at": job.due_at,
    }


def _line_fields(job: Job, tests: list[TestView]) -> dict[str, Any]:
    now = clock.now()
    called = [called_specimen for test in job.tests for called_specimen in called_specimens(test)]
    rows = [row for test in tests for row in test.rows]
    stage = stage_of_job(job, called, tests, now)
    code = next_step(job, stage, called, tests, now)
    return (
        _facts(job)
        | _next(code)
        | {
            "stage": stage,
            "tested": sum(test.wanted - test.to_go for test in tests),
            "wanted": sum(test.wanted for test in tests),
            "verdict": report_verdict([row.verdict for row in rows if row.criterion is not None]),
            "trouble": next((test.trouble for test in tests if test.trouble), None),
        }
    )
