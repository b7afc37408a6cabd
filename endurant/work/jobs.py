"""Receiving a sample, looking at jobs, and the limits they are judged by."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from endurant.core.chains import stage_in_words
from endurant.core.cutting.sheet import LabelSchool, long_side_for
from endurant.core.judging import Criterion, report_verdict
from endurant.core.measuring import WORDS
from endurant.core.methods import find_method
from endurant.core.methods.method import Method
from endurant.core.methods.voids import observations_of
from endurant.core.reading import read_model
from endurant.core.refusals import Invalid, quoted
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.engine import transaction
from endurant.store.tables import AuditEntry, Job, Person, Specimen, Test
from endurant.work.people import Actor
from endurant.work.results import (
    judged_rows,
    label_school,
    label_words,
    laboratory,
    settled_results,
    test_result,
)
from endurant.work.serving import stages_for, standing_of, usual_stages
from endurant.work.states import (
    called_specimens,
    count_in_state,
    cut_of,
    directions_of,
    is_cut,
    job_or_refuse,
    last_run,
    missing_replacements,
    open_stay,
    refuse_released,
    refuse_stale,
    standing_void,
    state_of,
    test_or_refuse,
    to_go,
    wanted_of,
)
from endurant.work.views import (
    Event,
    JobLine,
    JobView,
    ReportLine,
    SpecimenState,
    SpecimenView,
    Stage,
    TestView,
    VoidView,
)


class Asked(BaseModel):
    """Words from outside: unknown fields are refused."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)


class LimitAsked(Asked):
    """A limit on one property in one direction."""

    property: str
    direction: str
    criterion: Criterion


class TestAsked(Asked):
    """One test of a new job."""

    __test__ = False

    method: str
    parameters: dict[str, Any] = Field(default_factory=dict)
    limits: list[LimitAsked] = Field(default_factory=list, max_length=40)


class SampleAsked(Asked):
    """What is written down at the counter."""

    client: str = Field(min_length=1, max_length=120)
    product: str = Field(min_length=1, max_length=120)
    lot: str = Field(min_length=1, max_length=60)
    material: str = Field(min_length=1, max_length=200)
    arrival_state: str = Field("as it should be", max_length=200)
    width_mm: float = Field(gt=0, le=10_000, allow_inf_nan=False)
    length_mm: float = Field(gt=0, le=100_000, allow_inf_nan=False)
    due_at: datetime
    tests: list[TestAsked] = Field(min_length=1, max_length=20)
    request_key: str | None = Field(None, max_length=64)


def receive(actor: Actor, asked: SampleAsked) -> JobView:
    """Write a new job down, with its tests, limits and the specimens they need.

    The same `request_key` twice gives the same job. Raises Invalid.
    """
    actor.must("receive")
    if asked.due_at.tzinfo is None:
        raise Invalid(
            "due_at has no time zone; expected one such as 2026-03-02T16:00Z", field="due_at"
        )
    with transaction() as session:
        if asked.request_key is not None:
            known = session.scalar(select(Job).where(Job.request_key == asked.request_key))
            if known is not None:
                return job_view(session, known)
        house = laboratory(session)
        job = Job(
            number=_next_number(session),
            avoided=[],
            received_at=clock.now(),
            received_by_id=actor.id,
            **asked.model_dump(exclude={"tests"}),
        )
        session.add(job)
        session.flush()
        school = label_school(session)
        for place, wanted in enumerate(asked.tests, start=1):
            _add_test(job, wanted, school, house.rounding, place)
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="receive",
            entity="job",
            entity_id=job.id,
            job_id=job.id,
            words=f"{actor.name} received {asked.product}, lot {asked.lot}, from {asked.client}",
            after=asked.model_dump(mode="json"),
        )
        return job_view(session, job)


def _add_test(job: Job, wanted: TestAsked, school: LabelSchool, rounding: str, place: int) -> None:
    method = find_method(wanted.method)
    asked_count = {"specimens_wanted": method.guide.count_per_direction}
    given = {"rounding": rounding} | asked_count | wanted.parameters
    checked = read_model(method.parameters, given, "parameters")
    parameters = checked.model_dump(mode="json")
    limits = [_checked_limit(method, checked, limit) for limit in wanted.limits]
    test = Test(method=method.id, parameters=parameters, label_school=school, limits=limits)
    job.tests.append(test)
    if method.planned == "by-document" and method.guide.cut is None:
        return
    for direction in method.directions or ("",):
        count = parameters["specimens_wanted"]
        for number in range(1, count + method.guide.spares_per_direction + 1):
            add_specimen(test, direction, number, spare=number > count, test_place=place)


def add_specimen(
    test: Test, direction: str, number: int, *, spare: bool, test_place: int
) -> Specimen:
    """One more specimen of a test, with its label and the way its long side lies."""
    method = find_method(test.method)
    school: LabelSchool = (
        "by-long-side" if test.label_school == "by-long-side" else "by-failing-yarn"
    )
    label = f"{method.label_prefix(direction or None)}{number}"
    specimen = Specimen(
        code=f"{test.job.number}-{test_place}-{label}",
        label=label,
        direction=direction,
        long_side=long_side_for(direction, cut_of(test), school),
        place=(method.directions.index(direction) if direction else 0) * 1000 + number,
        spare=spare,
    )
    test.specimens.append(specimen)
    return specimen


def _checked_limit(method: Method, parameters: Any, limit: LimitAsked) -> dict[str, Any]:
    names = [found.name for found in method.properties_for(parameters)]
    if limit.property not in names:
        raise Invalid(
            f"limit: {method.id} gives {', '.join(names)}; {quoted(limit.property)} was asked for",
            field="property",
        )
    directions = method.directions or ("",)
    if limit.direction not in (*directions, "", "all"):
        raise Invalid(
            f"limit: direction is {quoted(limit.direction)}; "
            f"expected one of {', '.join(directions)}",
            field="direction",
        )
    return limit.model_dump()


def _next_number(session: Session) -> str:
    """J-0001, J-0002 … in the order of receipt."""
    newest = session.scalar(select(func.max(Job.id)).with_for_update()) or 0
    return f"J-{400 + newest + 1:04d}"


def change_limits(
    actor: Actor, test_id: int, limits: Sequence[LimitAsked], revision: int
) -> TestView:
    """Replace the limits of a test. Raises Conflict after release or when someone was first."""
    actor.must("set limits")
    with transaction() as session:
        test = test_or_refuse(session, test_id)
        job = refuse_released(session, test.job_id)
        session.refresh(test)
        refuse_stale("this test", test.revision, revision)
        before = test.limits
        method = find_method(test.method)
        parameters = method.parameters.model_validate(test.parameters)
        test.limits = [_checked_limit(method, parameters, limit) for limit in limits]
        test.revision += 1
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="change-limits",
            entity="test",
            entity_id=test.id,
            job_id=job.id,
            words=f"{actor.name} changed the limits of {find_method(test.method).title}",
            before={"limits": before},
            after={"limits": test.limits},
        )
        return test_view(session, test)


def jobs() -> list[JobLine]:
    """All jobs: those in work first, by due date, then the released ones, newest first."""
    with transaction() as session:
        lines = [job_line(session, job) for job in session.scalars(select(Job))]
    open_lines = [line for line in lines if line.stage != "released"]
    done = [line for line in lines if line.stage == "released"]
    return sorted(open_lines, key=lambda line: line.due_at) + sorted(
        done, key=lambda line: line.number, reverse=True
    )


def job(job_id: int) -> JobView:
    """One job with everything that its page shows; raises NotFound."""
    with transaction() as session:
        return job_view(session, job_or_refuse(session, job_id))


def test(test_id: int) -> TestView:
    """One test with its specimens and rows; raises NotFound."""
    with transaction() as session:
        return test_view(session, test_or_refuse(session, test_id))


test.__test__ = False  # type: ignore[attr-defined]


def find_specimen(code: str) -> SpecimenView | None:
    """The specimen with this code, as scanned or typed in capitals or small letters."""
    with transaction() as session:
        found = session.scalar(select(Specimen).where(Specimen.code == code.strip().upper()))
        if found is None:
            return None
        view = test_view(session, found.test)
        return next(one for one in view.specimens if one.id == found.id)


def test_id_of(specimen_id: int) -> int:
    """The test that a specimen belongs to."""
    with transaction() as session:
        return session.scalar(select(Specimen.test_id).where(Specimen.id == specimen_id)) or 0


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
            next_words="Read the report",
            next_place="report",
        )
    return JobLine(**_line_fields(job, [test_view(session, test) for test in job.tests]))


def job_view(session: Session, job: Job) -> JobView:
    """A job as its page shows it."""
    tests = [test_view(session, test) for test in job.tests]
    now = clock.now()
    events = session.execute(
        select(AuditEntry, Person)
        .outerjoin(Person, AuditEntry.person_id == Person.id)
        .where(AuditEntry.job_id == job.id)
        .order_by(AuditEntry.id.desc())
        .limit(12)
    ).all()
    called = [one for test in job.tests for one in called_specimens(test)]
    receiver = session.get_one(Person, job.received_by_id)
    return JobView(
        **_line_fields(job, tests),
        material=job.material,
        arrival_state=job.arrival_state,
        width_mm=job.width_mm,
        length_mm=job.length_mm,
        received_at=job.received_at,
        received_by=receiver.name,
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
        revision=job.revision,
    )


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
    )


def _facts(job: Job) -> dict[str, Any]:
    return {
        "id": job.id,
        "number": job.number,
        "client": job.client,
        "product": job.product,
        "lot": job.lot,
        "due_at": job.due_at,
    }


def _line_fields(job: Job, tests: list[TestView]) -> dict[str, Any]:
    now = clock.now()
    called = [one for test in job.tests for one in called_specimens(test)]
    rows = [row for test in tests for row in test.rows]
    stage = _stage(job, called, tests, now)
    next_words, next_place = _next_action(job, stage, called, tests, now)
    return _facts(job) | {
        "stage": stage,
        "tested": sum(test.wanted - test.to_go for test in tests),
        "wanted": sum(test.wanted for test in tests),
        "verdict": report_verdict([row.verdict for row in rows if row.criterion is not None]),
        "next_words": next_words,
        "next_place": next_place,
    }


def _stage(job: Job, called: Sequence[Specimen], tests: Sequence[TestView], now: datetime) -> Stage:
    if job.released_at is not None:
        return "released"
    if tests and all(test.to_go == 0 for test in tests):
        return "tested"
    if job.cut_at is None and any(is_cut(test) for test in job.tests):
        return "received"
    waiting = count_in_state(called, now, "cut", "conditioning", "to-cut")
    return "cut" if called and waiting == len(called) else "conditioned"


def _next_action(
    job: Job,
    stage: Stage,
    called: Sequence[Specimen],
    tests: Sequence[TestView],
    now: datetime,
) -> tuple[str, str]:
    """The one thing to do next, and the screen to do it on."""
    if stage == "released":
        return "Read the report", "report"
    if stage == "tested":
        return "Judge and release", "judge"
    if stage == "received":
        return "Place and cut the specimens", "cutting"
    to_do: tuple[SpecimenState, ...] = ("ready", "to-look-at", "running")
    at_frame = [one for one in called if find_method(one.test.method).runs_at_frame]
    if count_in_state(at_frame, now, *to_do):
        return "Test at the bench", "bench"
    by_document = any(test.to_go and not test.specimens for test in tests)
    if by_document or count_in_state(called, now, *to_do):
        return "Bring the readings in", "readings"
    if count_in_state(called, now, "cut"):
        return "Hang the specimens", "conditioning"
    if any(missing_replacements(test) for test in job.tests):
        return "Cut a replacement", "cutting"
    return "Wait for the clock", "conditioning"


def test_view(session: Session, test: Test) -> TestView:
    """A test with its specimens, rows and flags."""
    method = find_method(test.method)
    result = test_result(test)
    by_label = {one.label: one for one in result.specimens} if result else {}
    called = {one.id for one in called_specimens(test)}
    rounding = test.parameters["rounding"]
    main = method.properties_for(method.parameters.model_validate(test.parameters))[0]
    valid = {one.label for one in settled_results(test, result) if one.enters}
    missing = sum(to_go(test, direction, valid) for direction in directions_of(test))
    if method.planned == "by-document":
        missing = 0 if valid else 1
    now = clock.now()
    specimens = []
    for specimen in test.specimens:
        found = by_label.get(specimen.label)
        figure = found.figure(main.name) if found else None
        run = last_run(specimen)
        stay = open_stay(specimen) or (specimen.stays[-1] if specimen.stays else None)
        specimens.append(
            SpecimenView(
                id=specimen.id,
                code=specimen.code,
                label=specimen.label,
                direction=specimen.direction,
                long_side=specimen.long_side,
                works_on=label_words(specimen),
                spare=specimen.spare,
                called=specimen.id in called,
                state=state_of(specimen, now),
                run_id=run.id if run else None,
                hung_at=stay.hung_at if stay else None,
                ready_at=served_at(specimen, now),
                void=_void_view(specimen),
                value=figure,
                value_text=None if figure is None else main.reported(figure, rounding),
                flags=[vars(flag) for flag in found.flags] if found else [],
                revision=specimen.revision,
            )
        )
    return TestView(
        id=test.id,
        job_id=test.job_id,
        job_number=test.job.number,
        job_product=test.job.product,
        method=test.method,
        title=method.title,
        bench=method.guide.bench,
        label_school=test.label_school,
        parameters=test.parameters,
        state=test.state,
        prepared=[stage_in_words(one) for one in stages_for(test)],
        prepared_otherwise=stages_for(test) != usual_stages(test),
        measures=[WORDS[one.field] for one in method.guide.measures if not one.instead],
        measured=sum(bool(one.dimensions) for one in test.specimens if one.id in called),
        at_frame=method.runs_at_frame,
        wanted=wanted_of(test),
        to_go=missing,
        specimens=specimens,
        rows=judged_rows(laboratory(session), test, result),
        flags=[vars(flag) for flag in result.flags] if result else [],
        released=test.job.released_at is not None,
        revision=test.revision,
    )


def served_at(specimen: Specimen, now: datetime) -> datetime | None:
    """When the specimen served its time, or will have as far as that is known."""
    served = standing_of(specimen, now).served
    return None if served is None else served.runs_out_at


def _void_view(specimen: Specimen) -> VoidView | None:
    void = standing_void(specimen)
    if void is None:
        return None
    observations = observations_of(find_method(specimen.test.method))
    title = next((one.title for one in observations if one.code == void.code), void.code)
    return VoidView(code=void.code, title=title, words=void.words, by=void.by.name, at=void.at)
