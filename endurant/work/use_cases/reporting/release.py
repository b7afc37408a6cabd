"""Drafts, release by a second person, and corrections."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from dataclasses import dataclass

from pydantic import Field
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from endurant.core.messages import Message, worded
from endurant.core.methods import find_method
from endurant.core.refusals import Conflict, Forbidden, Invalid, NotFound
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.tables import Job, Report, ReportWithdrawal
from endurant.work.base.actors import Actor
from endurant.work.base.read_scope import looking
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.facts.models import JobView
from endurant.work.facts.status import (
    job_or_refuse,
    refuse_released,
    refuse_stale,
    state_of,
)
from endurant.work.use_cases.people.sign_in import is_own_password
from endurant.work.use_cases.reporting.content import content_of, with_samples, with_working
from endurant.work.use_cases.reporting.models import DraftView, ReportContent
from endurant.work.use_cases.review.second_person import barred
from endurant.work.use_cases.review.supervision import unconfirmed, waits_for
from endurant.work.views.job_page import job_view, withdrawn_in_words
from endurant.work.views.studies import StudyView, study


class ReleaseRequest(RequestBody):
    """The releaser's own password again, and the job as they saw it."""

    password: str = Field(max_length=200)
    revision: int
    content_sha256: str = Field(min_length=64, max_length=64)


@dataclass(frozen=True)
class ReportPdfs:
    """Both depths of a report, drawn from one content: the full record, and the client report."""

    full: bytes
    client: bytes


Render = Callable[[ReportContent], ReportPdfs]


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
        corrects=content.corrects,
        changes=content.changes,
        tested_by=content.tested_by,
        obstacles=_obstacles(job, content),
        to_confirm=waits_for(job, actor),
        not_by_you=barred(session, job, actor) if actor.may("release") else None,
        content_sha256=content_sha256(content),
    )


def draft_content(job_id: int) -> ReportContent:
    """The draft with all that is drawn in it, for a preview."""
    with transaction() as session:
        job = job_or_refuse(session, job_id)
        return with_samples(session, with_working(job, content_of(session, job, None)))


def release(actor: Actor, job_id: int, request: ReleaseRequest, render: Render) -> JobView:
    """Release the report of a job, for good.

    Raises Forbidden for the tester and for a wrong password, Conflict while something is
    open or when the job was changed since the releaser looked at it.
    """
    actor.must("release")
    check_password(actor, request.password)
    with transaction() as session:
        job = refuse_released(session, job_id)
        refuse_stale(job.number, job.revision, request.revision)
        content = content_of(session, job, actor)
        own = barred(session, job, actor)
        if own is not None:
            raise Forbidden("release.own-work", reason=own)
        obstacles = _obstacles(job, content)
        if obstacles:
            raise Conflict("release.not-ready", job=job.number, obstacle=obstacles[0])
        if content_sha256(content) != request.content_sha256:
            raise Conflict("release.draft-changed", job=job.number)
        content = with_working(job, content)
        keep_report(session, actor, job, content, render(with_samples(session, content)))
        session.refresh(job, ["reports"])
        return job_view(session, job)


def keep_report(
    session: Session, actor: Actor, job: Job, content: ReportContent, pdfs: ReportPdfs
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
        pdf=pdfs.full,
        client_pdf=pdfs.client,
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
        message=Message(
            "audit.release",
            {
                "actor": actor.name,
                "number": report.number,
                "revision": report.revision,
                "verdict": report.verdict,
            },
        ),
        after={"sha256": report.sha256, "verdict": report.verdict},
    )
    return report


def open_correction(actor: Actor, job_id: int, reason: str) -> JobView:
    """Open a released job for a new revision; the released one stays readable."""
    actor.must("release")
    if not reason.strip():
        raise Invalid("correction.reason-needed", field="reason")
    with transaction() as session:
        job = job_or_refuse(session, job_id, lock=True)
        if job.released_at is None:
            raise Conflict("correction.not-released", job=job.number)
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
            message=Message(
                "audit.open-correction", {"actor": actor.name, "why": reason.strip()[:200]}
            ),
            why=reason,
        )
        return job_view(session, job)


class WithdrawRequest(RequestBody):
    """Why a report holds no longer, and the own password again."""

    reason: str = Field(min_length=1, max_length=500)
    password: str = Field(max_length=200)


def withdraw(actor: Actor, report_id: int, request: WithdrawRequest) -> JobView:
    """A released report holds no longer; it stays readable, and says so wherever it is read.

    Raises Forbidden for a wrong password, Conflict for one that is withdrawn, NotFound.
    """
    actor.must("release")
    why = request.reason.strip()
    if not why:
        raise Invalid("withdraw.reason-needed", field="reason")
    check_password(actor, request.password)
    with transaction() as session:
        report = _report_or_refuse(session, report_id)
        job = job_or_refuse(session, report.job_id, lock=True)
        if report.withdrawal is not None:
            raise Conflict("report.withdrawn", reason=withdrawn_in_words(report))
        row = ReportWithdrawal(report_id=report.id, at=clock.now(), by_id=actor.id, reason=why)
        session.add(row)
        job.revision += 1
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="withdraw-report",
            entity="report",
            entity_id=report.id,
            job_id=job.id,
            message=Message(
                "audit.withdraw-report",
                {
                    "actor": actor.name,
                    "number": report.number,
                    "revision": report.revision,
                    "why": why,
                },
            ),
            why=why,
        )
        session.refresh(report, ["withdrawal"])
        return job_view(session, job)


def study_reports(study_id: int, against: int | None = None) -> tuple[StudyView, list[bytes]]:
    """A study, and the PDF of the last released report of each of its samples.

    A cancelled sample is named, and has none. Raises NotFound, Conflict while a sample is not
    released or when all are cancelled.
    """
    view = study(study_id, against)
    if all(each.cancelled is not None for each in view.samples):
        raise Conflict("study.all-cancelled")
    if view.to_release:
        raise Conflict("study.not-all-released", open_samples=list(view.to_release))
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


Released = tuple[str, bytes, str]
"""Number with revision, and PDF of a released report, and why it holds no longer if it does."""


def released_pdf(report_id: int) -> Released:
    """The full record of a released report; raises NotFound."""
    with transaction() as session:
        report = _report_or_refuse(session, report_id)
        return f"{report.number}-{report.revision}", report.pdf, _no_longer(session, report)


def released_client_pdf(report_id: int, render: Callable[[ReportContent], bytes]) -> Released:
    """The client report of a released report; one of an earlier release is drawn now.

    Raises NotFound.
    """
    with transaction() as session:
        report = _report_or_refuse(session, report_id)
        name = f"{report.number}-{report.revision}-client"
        no_longer = _no_longer(session, report)
        if report.client_pdf is not None:
            return name, report.client_pdf, no_longer
        content = with_samples(session, _released(session, report_id))
    return name, render(content), no_longer


@dataclass(frozen=True)
class ReleasedForms:
    """A released report as it is stored: the text that its hash is over, and both PDFs.

    `client_pdf` is None for an earlier release, which made none. `no_longer` says why it does not
    hold any more; empty where it does.
    """

    text: str
    sha256: str
    pdf: bytes
    client_pdf: bytes | None
    content: ReportContent
    no_longer: str


def released_forms(report_id: int) -> ReleasedForms:
    """Everything that is stored of a released report, with its raw data; raises NotFound."""
    with transaction() as session:
        report = _report_or_refuse(session, report_id)
        return ReleasedForms(
            report.content,
            report.sha256,
            report.pdf,
            report.client_pdf,
            with_samples(session, _released(session, report_id)),
            _no_longer(session, report),
        )


def _no_longer(session: Session, report: Report) -> str:
    """Why a report holds no longer: withdrawn, or replaced by a later one; empty if it does."""
    withdrawn = withdrawn_in_words(report)
    if withdrawn:
        return withdrawn
    later = session.scalars(
        select(Report)
        .where(Report.job_id == report.job_id, Report.revision > report.revision)
        .order_by(Report.revision.desc())
    ).first()
    if later is None:
        return ""
    on = f"{later.released_at:%d %b %Y}"
    return worded("report.replaced", revision=later.revision, on=on)


def _released(session: Session, report_id: int) -> ReportContent:
    report = _report_or_refuse(session, report_id)
    content = ReportContent.model_validate_json(report.content)
    return content.model_copy(update={"withdrawn": withdrawn_in_words(report)})


def _report_or_refuse(session: Session, report_id: int) -> Report:
    report = session.get(Report, report_id)
    if report is None:
        raise NotFound("report.unknown", report_id=report_id)
    return report


def check_password(actor: Actor, password: str) -> None:
    """Raises Forbidden unless this is the actor's own password; guessing is slowed down."""
    if not is_own_password(actor, password, f"release by {actor.id}"):
        raise Forbidden("password.wrong")


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
        return ["the job is already released"]
    if job.cancelled_at is not None:
        return [f"the job is cancelled: {job.cancelled_reason}"]
    obstacles = [*unconfirmed(job), *_unfinished(job)]
    obstacles += [
        f"{find_method(test.method).title} is on hold: {test.held_reason}"
        for test in job.tests
        if test.held_at is not None
    ]
    for reported in content.tests:
        codes = {flag["code"] for flag in reported.view.flags}
        if reported.view.problem:
            obstacles.append(f"{reported.view.title}: {reported.view.problem}")
        if "first-incomplete" in codes:
            obstacles.append(f"{reported.view.title}: the first five specimens are not complete")
        if reported.view.to_go and not reported.view.rows:
            obstacles.append(f"{reported.view.title}: no readings yet")
        for row in reported.view.rows:
            if row.to_go:
                named = f"{row.title}, {row.group}" if row.group else row.title
                obstacles.append(f"{named}: {row.to_go} of {row.required} to go")
    return obstacles


def _unfinished(job: Job) -> list[str]:
    """Specimens that are under way, and tests that wait."""
    wording = {
        "to-look-at": "is tested but neither accepted nor void",
        "running": "is still running",
    }
    now = clock.now()
    states = [
        (specimen.label, state_of(specimen, now))
        for test in job.tests
        for specimen in test.specimens
    ]
    return [f"{label} {wording[state]}" for label, state in states if state in wording]
