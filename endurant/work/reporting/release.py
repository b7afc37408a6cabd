"""Drafts, release by a second person, and corrections."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable

from pydantic import Field
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from endurant.core.methods import find_method
from endurant.core.refusals import Conflict, Forbidden, Invalid, NotFound
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.tables import AuditEntry, FailedSignIn, Job, Person, Report
from endurant.work.jobs.job_views import job_view
from endurant.work.jobs.states import job_or_refuse, refuse_released, refuse_stale, state_of
from endurant.work.jobs.studies import StudyView, study
from endurant.work.jobs.views import JobView
from endurant.work.record.asked import Asked
from endurant.work.record.looking import looking
from endurant.work.record.people import Actor, password_fits, refuse_guessing
from endurant.work.record.transactions import transaction
from endurant.work.reporting.content import content_of, tester_ids, with_samples, with_working
from endurant.work.reporting.supervised import unconfirmed, waits_for
from endurant.work.reporting.views import DraftView, ReportContent


class ReleaseAsked(Asked):
    """The releaser's own password again, and the job as they saw it."""

    password: str = Field(max_length=200)
    revision: int
    content_sha256: str = Field(min_length=64, max_length=64)


Render = Callable[[ReportContent], bytes]


def draft(actor: Actor, job_id: int) -> DraftView:
    """The report as it would be released now, and what stands in its way."""
    with transaction() as session:
        job = job_or_refuse(session, job_id)
        with looking(session):
            return _draft_view(session, job, actor)


def _draft_view(session: Session, job: Job, actor: Actor) -> DraftView:
    content = content_of(session, job, None)
    return DraftView(
        job=job_view(session, job),
        number=content.number,
        revision=content.revision,
        verdict=content.verdict,
        deviations=content.deviations,
        tested_by=content.tested_by,
        obstacles=_obstacles(job, content),
        to_confirm=waits_for(job, actor),
        not_by_you=_had_a_hand_in(session, job, actor) if actor.may("release") else None,
        content_sha256=content_sha256(content),
    )


def draft_content(job_id: int) -> ReportContent:
    """The draft with all that is drawn in it, for a preview."""
    with transaction() as session:
        job = job_or_refuse(session, job_id)
        return with_samples(session, with_working(job, content_of(session, job, None)))


def release(actor: Actor, job_id: int, asked: ReleaseAsked, render: Render) -> JobView:
    """Release the report of a job, for good.

    Raises Forbidden for the tester and for a wrong password, Conflict while something is
    open or when the job was changed since the releaser looked at it.
    """
    actor.must("release")
    check_password(actor, asked.password)
    with transaction() as session:
        job = refuse_released(session, job_id)
        refuse_stale(job.number, job.revision, asked.revision)
        content = content_of(session, job, actor)
        own = _had_a_hand_in(session, job, actor)
        if own is not None:
            raise Forbidden(own)
        obstacles = _obstacles(job, content)
        if obstacles:
            raise Conflict(f"{job.number} cannot be released yet: {obstacles[0]}")
        if content_sha256(content) != asked.content_sha256:
            raise Conflict(
                f"what would be released of {job.number} is not what you looked at; "
                "look at the draft again, then release it"
            )
        content = with_working(job, content)
        keep_report(session, actor, job, content, render(with_samples(session, content)))
        session.refresh(job, ["reports"])
        return job_view(session, job)


def keep_report(
    session: Session, actor: Actor, job: Job, content: ReportContent, pdf: bytes
) -> Report:
    """Store what is released, for good, and close the job."""
    text = content.model_dump_json()
    report = Report(
        job_id=job.id,
        number=content.number,
        revision=content.revision,
        verdict=content.verdict,
        reason=content.reason,
        content=text,
        pdf=pdf,
        sha256=hashlib.sha256(text.encode()).hexdigest(),
        released_at=content.released_at,
        released_by_id=actor.id,
    )
    session.add(report)
    job.released_at = content.released_at
    job.correction_reason = None
    job.revision += 1
    session.flush()
    record(
        session,
        person_id=actor.id,
        action="release",
        entity="report",
        entity_id=report.id,
        job_id=job.id,
        words=f"{actor.name} released report {report.number} revision {report.revision}: "
        f"{report.verdict}",
        after={"sha256": report.sha256, "verdict": report.verdict},
    )
    return report


def open_correction(actor: Actor, job_id: int, reason: str) -> JobView:
    """Open a released job for a new revision; the released one stays readable."""
    actor.must("release")
    if not reason.strip():
        raise Invalid("a correction says what changes and why; no reason was given", field="reason")
    with transaction() as session:
        job = job_or_refuse(session, job_id, lock=True)
        if job.released_at is None:
            raise Conflict(f"{job.number} is not released; it can be changed as it is")
        job.released_at, job.correction_reason = None, reason.strip()[:500]
        job.revision += 1
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="open-correction",
            entity="job",
            entity_id=job.id,
            job_id=job.id,
            words=f"{actor.name} opened a correction: {reason.strip()[:200]}",
            why=reason,
        )
        return job_view(session, job)


def study_reports(study_id: int) -> tuple[StudyView, list[bytes]]:
    """A study, and the PDF of the last released report of each of its samples.

    Raises NotFound, Conflict while a sample is not released.
    """
    view = study(study_id)
    if view.to_release:
        raise Conflict(f"the report of all waits for {', '.join(view.to_release)}")
    with transaction() as session:
        newest = (
            select(func.max(Report.id))
            .join(Job, Job.id == Report.job_id)
            .where(Job.study_id == study_id)
            .group_by(Report.job_id)
        )
        pdfs = select(Report.pdf).where(Report.id.in_(newest)).order_by(Report.job_id)
        return view, list(session.scalars(pdfs))


def released_report(report_id: int) -> ReportContent:
    """A released report as data, with the raw data that it names; raises NotFound."""
    with transaction() as session:
        return with_samples(session, _released(session, report_id))


def released_figures(report_id: int) -> ReportContent:
    """A released report as data, without raw data; raises NotFound."""
    with transaction() as session:
        return _released(session, report_id)


def released_pdf(report_id: int) -> tuple[str, bytes]:
    """Number with revision, and PDF of a released report; raises NotFound."""
    with transaction() as session:
        report = _report_or_refuse(session, report_id)
        return f"{report.number}-{report.revision}", report.pdf


def _released(session: Session, report_id: int) -> ReportContent:
    return ReportContent.model_validate_json(_report_or_refuse(session, report_id).content)


def _report_or_refuse(session: Session, report_id: int) -> Report:
    report = session.get(Report, report_id)
    if report is None:
        raise NotFound(f"there is no report with id {report_id}")
    return report


def check_password(actor: Actor, password: str) -> None:
    """Raises Forbidden unless this is the actor's own password; guessing is slowed down."""
    with transaction() as session:
        person = session.get_one(Person, actor.id)
        place = f"release by {actor.id}"
        refuse_guessing(session, person.login, place, clock.now())
        fits = password_fits(person, password)
        if not fits:
            session.add(FailedSignIn(login=person.login, address=place, at=clock.now()))
    if not fits:
        raise Forbidden("that is not your password; nothing was released")


HANDS_IN = {
    "start-run": "tested specimens",
    "stop-run": "tested specimens",
    "bring-in": "brought readings in",
    "keep": "kept specimens",
    "void": "voided specimens",
    "withdraw-void": "took a void back",
    "change-limits": "changed its limits",
    "set-up": "set its bench up",
}
"""What a person did to a job that keeps them from releasing it, by the action in the record."""


def _had_a_hand_in(session: Session, job: Job, actor: Actor) -> str | None:
    """Why this person does not release this job; None when their eyes are a second pair."""
    actions = session.scalars(
        select(AuditEntry.action)
        .where(
            AuditEntry.job_id == job.id,
            AuditEntry.person_id == actor.id,
            AuditEntry.action.in_(HANDS_IN),
        )
        .distinct()
    )
    done = {HANDS_IN[action] for action in actions}
    if actor.id in tester_ids(job):
        done.add(HANDS_IN["start-run"])
    if not done:
        return None
    return (
        f"{actor.name} {', '.join(sorted(done))} of {job.number}; "
        "a report is released by another person than those who made it"
    )


UNSEEN = frozenset({"draft", "released_at", "released_by", "record_head"})
"""What release itself adds to the content that its releaser saw."""


def content_sha256(content: ReportContent) -> str:
    """Hash over everything that the draft says."""
    plain = content.model_dump(mode="json", exclude=set(UNSEEN))
    text = json.dumps(plain, sort_keys=True, ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()


def _obstacles(job: Job, content: ReportContent) -> list[str]:
    """Why this report cannot be released now, in words."""
    if job.released_at is not None:
        return ["it is released already"]
    if job.cancelled_at is not None:
        return [f"it was cancelled: {job.cancelled_reason}"]
    obstacles = [*unconfirmed(job), *_unfinished(job)]
    obstacles += [
        f"{find_method(test.method).title} is held: {test.held_reason}"
        for test in job.tests
        if test.held_at is not None
    ]
    for reported in content.tests:
        codes = {flag["code"] for flag in reported.view.flags}
        if reported.view.trouble:
            obstacles.append(f"{reported.view.title}: {reported.view.trouble}")
        if "first-incomplete" in codes:
            obstacles.append(f"{reported.view.title}: its first five are not complete")
        if reported.view.to_go and not reported.view.rows:
            obstacles.append(f"{reported.view.title}: no readings yet")
        for row in reported.view.rows:
            if row.to_go:
                named = f"{row.title}, {row.group}" if row.group else row.title
                obstacles.append(f"{named}: {row.to_go} of {row.wanted} to go")
    return obstacles


def _unfinished(job: Job) -> list[str]:
    """Specimens that are under way, and tests that wait."""
    words = {
        "to-look-at": "was pulled but neither kept nor voided",
        "running": "is still running",
    }
    now = clock.now()
    states = [
        (specimen.label, state_of(specimen, now))
        for test in job.tests
        for specimen in test.specimens
    ]
    return [f"{label} {words[state]}" for label, state in states if state in words]
