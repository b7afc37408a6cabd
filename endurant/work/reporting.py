"""The report: gathered from the record, released by a second person, then never changed."""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Callable, Sequence
from datetime import datetime
from typing import Any

from pydantic import Field
from pydantic.fields import FieldInfo
from pydantic_core import PydanticUndefined
from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.chains import stage_in_words
from endurant.core.conditioning import atmosphere_in_words
from endurant.core.judging import Verdict, report_verdict
from endurant.core.methods import find_method
from endurant.core.methods.method import Method
from endurant.core.refusals import Conflict, Forbidden, Invalid, NotFound
from endurant.store import clock
from endurant.store.audit import head_of, record
from endurant.store.engine import transaction
from endurant.store.tables import AuditEntry, FailedSignIn, Job, Person, Report, Specimen, Test
from endurant.work.asked import Asked
from endurant.work.jobs import arrived_in_words, job_view
from endurant.work.people import Actor, password_fits, refuse_guessing
from endurant.work.results import document_of, finished_run, laboratory, result_or_trouble
from endurant.work.serving import stages_for, usual_stages
from endurant.work.states import job_or_refuse, refuse_released, refuse_stale, state_of
from endurant.work.views import JobView, SpecimenView, TestView, View


class ReleaseAsked(Asked):
    """The releaser's own password again, and the job as they saw it."""

    password: str = Field(max_length=200)
    revision: int
    content_sha256: str = Field(min_length=64, max_length=64)


class ParameterLine(View):
    """One parameter as the report prints it."""

    name: str
    value: str
    default: str
    changed: bool
    description: str


class ReportedRun(View):
    """How one specimen was pulled: by whom, on what, from which file, with which deviations."""

    by: str
    at: datetime
    samples: int
    sha256: str
    source_name: str | None
    said: list[str]
    conditioning: dict[str, Any] | None
    instrument: dict[str, Any] | None
    checks: list[dict[str, Any]]
    deviations: list[dict[str, str]]


class ReportedTest(View):
    """One test with everything that its pages show."""

    view: TestView
    parameters: list[ParameterLine]
    atmosphere: str
    prepared_otherwise: list[str] = []
    runs: dict[str, ReportedRun]
    instruments: list[dict[str, Any]]
    document: dict[str, Any]
    result: dict[str, Any]


class ReportContent(View):
    """The whole report as data; the PDF is drawn from it and from nothing else."""

    laboratory: str
    address: str
    number: str
    revision: int
    reason: str | None
    draft: bool
    client: str
    product: str
    lot: str
    material: str
    arrival_state: str
    form: str = "sheet"
    arrived: str = ""
    width_mm: float | None
    length_mm: float | None
    received_at: datetime
    received_by: str
    cut_at: datetime | None
    conditioned_from: datetime | None
    tested_from: datetime | None
    tested_to: datetime | None
    released_at: datetime | None
    released_by: str | None
    tested_by: list[str]
    comparison: str
    rounding: str
    verdict: Verdict
    deviations: list[str]
    record_head: str | None = None
    tests: list[ReportedTest]


class DraftView(View):
    """What a reviewer sees before release; `obstacles` are why it cannot be released yet."""

    job: JobView
    number: str
    revision: int
    verdict: Verdict
    deviations: list[str]
    tested_by: list[str]
    obstacles: list[str]
    not_by_you: str | None
    content_sha256: str


Render = Callable[[ReportContent], bytes]


def draft(actor: Actor, job_id: int) -> DraftView:
    """The report as it would be released now, and what stands in its way."""
    with transaction() as session:
        job = job_or_refuse(session, job_id)
        content = _content(session, job, None)
        return DraftView(
            job=job_view(session, job),
            number=content.number,
            revision=content.revision,
            verdict=content.verdict,
            deviations=content.deviations,
            tested_by=content.tested_by,
            obstacles=_obstacles(job, content),
            not_by_you=_had_a_hand_in(session, job, actor) if actor.may("release") else None,
            content_sha256=content_sha256(content),
        )


def draft_content(job_id: int) -> ReportContent:
    """The content of the draft, for a preview."""
    with transaction() as session:
        return _content(session, job_or_refuse(session, job_id), None)


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
        content = _content(session, job, actor)
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
        text = content.model_dump_json()
        report = Report(
            job_id=job.id,
            number=content.number,
            revision=content.revision,
            verdict=content.verdict,
            reason=content.reason,
            content=text,
            pdf=render(content),
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
        session.refresh(job, ["reports"])
        return job_view(session, job)


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


def released_report(report_id: int) -> tuple[ReportContent, bytes]:
    """A released report as data and as PDF; raises NotFound."""
    with transaction() as session:
        report = session.get(Report, report_id)
        if report is None:
            raise NotFound(f"there is no report with id {report_id}")
        return ReportContent.model_validate_json(report.content), report.pdf


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


def _tester_ids(job: Job) -> set[int]:
    return {run.by_id for test in job.tests for one in test.specimens for run in one.runs}


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
    if actor.id in _tester_ids(job):
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
    text = json.dumps(
        content.model_dump(mode="json", exclude=set(UNSEEN)), sort_keys=True, ensure_ascii=False
    )
    return hashlib.sha256(text.encode()).hexdigest()


def _obstacles(job: Job, content: ReportContent) -> list[str]:
    """Why this report cannot be released now, in words."""
    if job.released_at is not None:
        return ["it is released already"]
    found = []
    now = clock.now()
    for test in job.tests:
        for specimen in test.specimens:
            state = state_of(specimen, now)
            if state == "to-look-at":
                found.append(f"{specimen.label} was pulled but neither kept nor voided")
            if state == "running":
                found.append(f"{specimen.label} is still running")
    for reported in content.tests:
        codes = {flag["code"] for flag in reported.view.flags}
        if reported.view.trouble:
            found.append(f"{reported.view.title}: {reported.view.trouble}")
        if "first-incomplete" in codes:
            found.append(f"{reported.view.title}: its first five are not complete")
        if reported.view.to_go and not reported.view.rows:
            found.append(f"{reported.view.title}: no readings yet")
        for row in reported.view.rows:
            if row.to_go:
                named = f"{row.title}, {row.group}" if row.group else row.title
                found.append(f"{named}: {row.to_go} of {row.wanted} to go")
    return found


def _content(session: Session, job: Job, releaser: Actor | None) -> ReportContent:
    house = laboratory(session)
    view = job_view(session, job)
    now = clock.now()
    tests = [_reported_test(test, shown) for test, shown in zip(job.tests, view.tests, strict=True)]
    runs = [run for reported in tests for run in reported.runs.values()]
    hung = [
        stay.hung_at
        for test in job.tests
        for one in test.specimens
        for stay in one.stays
        if one.runs
    ]
    required = [row.verdict for test in view.tests for row in test.rows if row.criterion]
    latest = max((report.revision for report in job.reports), default=0)
    names = session.scalars(
        select(Person.name).where(Person.id.in_(_tester_ids(job))).order_by(Person.name)
    )
    return ReportContent(
        laboratory=house.name,
        address=house.address,
        number=f"R{job.number.removeprefix('J')}",
        revision=latest + 1,
        reason=job.correction_reason,
        draft=releaser is None,
        client=job.client,
        product=job.product,
        lot=job.lot,
        material=job.material,
        arrival_state=job.arrival_state,
        form=job.form,
        arrived=arrived_in_words(job),
        width_mm=job.width_mm,
        length_mm=job.length_mm,
        received_at=job.received_at,
        received_by=view.received_by,
        cut_at=job.cut_at,
        conditioned_from=min(hung, default=None),
        tested_from=min((run.at for run in runs), default=None),
        tested_to=max((run.at for run in runs), default=None),
        released_at=now if releaser else None,
        released_by=releaser.name if releaser else None,
        tested_by=list(names),
        comparison=house.comparison,
        rounding=house.rounding,
        verdict=report_verdict(required),
        deviations=[*_changes_in_the_record(session, job), *_all_deviations(tests)],
        record_head=head_of(session) if releaser else None,
        tests=tests,
    )


def _changes_in_the_record(session: Session, job: Job) -> list[str]:
    """Limits and set-up that were changed after specimens had been tested, with the reason."""
    entries = session.scalars(
        select(AuditEntry)
        .where(AuditEntry.job_id == job.id, AuditEntry.action.in_(("change-limits", "set-up")))
        .order_by(AuditEntry.id)
    )
    found = []
    for entry in entries:
        told = json.loads(entry.facts)
        why, after = told.get("why"), told.get("after") or {}
        if entry.action == "change-limits" and why:
            found.append(
                f"{entry.words} on {entry.at:%d %b %Y}, after specimens had been tested "
                f"(why: {why})"
            )
        if entry.action == "set-up" and after.get("tested_before"):
            found.append(
                f"{entry.words} on {entry.at:%d %b %Y}; tested before: "
                f"{', '.join(after['tested_before'])} (why: {why})"
            )
    return found


def _reported_test(test: Test, view: TestView) -> ReportedTest:
    method = find_method(test.method)
    fields = method.parameters.model_fields
    runs = {one.label: found for one in test.specimens if (found := _reported_run(one)) is not None}
    instruments = {
        run.instrument["serial"]: run.instrument for run in runs.values() if run.instrument
    }
    result, _ = result_or_trouble(test)
    return ReportedTest(
        view=view,
        parameters=[
            ParameterLine(
                name=name,
                value=_plain(test.parameters.get(name)),
                default=_plain(_default(method, name, field)),
                changed=not field.is_required()
                and test.parameters.get(name) != _default(method, name, field),
                description=field.description or "",
            )
            for name, field in fields.items()
        ],
        atmosphere=_preparation_words(test),
        prepared_otherwise=_prepared_otherwise(test),
        runs=runs,
        instruments=list(instruments.values()),
        document=document_of(test),
        result=result.as_json() if result else {},
    )


def _preparation_words(test: Test) -> str:
    """The chain of a test as the report names it."""
    stages = stages_for(test)
    if not stages:
        return atmosphere_in_words(None)
    if stages == usual_stages(test) and len(stages) == 1 and test.state == "original":
        return atmosphere_in_words(stages[0].atmosphere)
    return "; ".join(stage_in_words(one) for one in stages)


def _prepared_otherwise(test: Test) -> list[str]:
    """What was set for this test in place of what its method asks for."""
    stages, usual = stages_for(test), usual_stages(test)
    if stages == usual:
        return []
    asked = "; ".join(stage_in_words(one) for one in usual) or "nothing"
    told = "; ".join(stage_in_words(one) for one in stages) or "nothing"
    return [f"{find_method(test.method).title}: prepared by {told}; the method asks for {asked}"]


def _reported_run(specimen: Specimen) -> ReportedRun | None:
    run = finished_run(specimen)
    if run is None or run.sha256 is None:
        return None
    return ReportedRun(
        by=run.by.name,
        at=run.started_at,
        samples=run.samples,
        sha256=run.sha256,
        source_name=run.source_name,
        said=run.source_said,
        conditioning=run.settings.get("conditioning"),
        instrument=run.settings.get("instrument"),
        checks=run.checks,
        deviations=run.settings.get("deviations", []),
    )


def _all_deviations(tests: list[ReportedTest]) -> list[str]:
    """Gathered by themselves: changed defaults, named deviations of runs, warnings."""
    found: list[str] = []
    for test in tests:
        found += test.prepared_otherwise
        found += [
            f"{test.view.title}: {line.name} is {line.value}, not the default {line.default}"
            for line in test.parameters
            if line.changed
        ]
        for source in dict.fromkeys(run.source_name for run in test.runs.values()):
            if source is not None:
                labels = [one for one, run in test.runs.items() if run.source_name == source]
                found.append(f"{', '.join(labels)}: brought in from the file {source}")
        by_label: dict[str, SpecimenView] = {one.label: one for one in test.view.specimens}
        whose: dict[str, list[str]] = {}
        for label, run in test.runs.items():
            for each in run.deviations:
                words = each["says"].removeprefix(f"{label}: ").removeprefix(f"{label} ")
                whose.setdefault(f"{words} (why: {each['why']})", []).append(label)
            for flag in by_label[label].flags:
                if flag["severity"] == "warn":
                    whose.setdefault(flag["text"], []).append(label)
        found += [f"{labels_in_words(labels)}: {says}" for says, labels in whose.items()]
        found += [flag["text"] for flag in test.view.flags if flag["severity"] == "warn"]
    return list(dict.fromkeys(found))


def labels_in_words(labels: Sequence[str]) -> str:
    """Labels as they are read: "L1 to L6, L9"; three or more in a row are drawn together."""
    runs: list[list[str]] = []
    for label in labels:
        if runs and _follows(runs[-1][-1], label):
            runs[-1].append(label)
        else:
            runs.append([label])
    words = [[f"{run[0]} to {run[-1]}"] if len(run) > 2 else run for run in runs]
    return ", ".join(word for some in words for word in some)


def _follows(before: str, label: str) -> bool:
    """`label` is the next number of the same letters."""
    parts = [re.fullmatch(r"(\D*)(\d{1,9})", text) for text in (before, label)]
    if parts[0] is None or parts[1] is None:
        return False
    return parts[0][1] == parts[1][1] and int(parts[1][2]) == int(parts[0][2]) + 1


def _default(method: Method, name: str, field: FieldInfo) -> Any:
    """The default of a parameter; of the specimens wanted it is what the guide asks for."""
    if name == "specimens_wanted":
        return method.guide.count_per_direction
    return field.get_default(call_default_factory=True)


def _plain(value: Any) -> str:
    if value is None or value is PydanticUndefined:
        return "–"
    if isinstance(value, list):
        return ", ".join(_plain(one) for one in value)
    if isinstance(value, dict):
        return (
            ", ".join(f"{name} {_plain(part)}" for name, part in value.items() if part is not None)
            or "–"
        )
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, float | int) else str(value)
