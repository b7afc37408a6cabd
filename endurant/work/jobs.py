"""Receiving a sample, looking at jobs, and the limits they are judged by."""

from __future__ import annotations

import json
import logging
import secrets
from collections.abc import Sequence
from datetime import datetime
from typing import Any, Literal

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from endurant.core.chains import stage_in_words
from endurant.core.cutting.sheet import LabelSchool, long_side_for
from endurant.core.judging import Criterion, report_verdict
from endurant.core.measuring import WORDS
from endurant.core.methods import find_method
from endurant.core.methods.method import Method
from endurant.core.methods.voids import observations_of
from endurant.core.refusals import Conflict, Invalid, quoted
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.engine import transaction
from endurant.store.tables import AuditEntry, Job, Person, Specimen, Test
from endurant.work.asked import Asked, AskedMoment
from endurant.work.calling import called_specimens, missing_replacements
from endurant.work.people import Actor
from endurant.work.results import (
    judged_rows,
    label_school,
    label_words,
    laboratory,
    result_or_trouble,
    settled_results,
)
from endurant.work.serving import stages_for, standing_of, usual_stages
from endurant.work.settings import (
    asked_parameters,
    missing_set_up,
    parameters_of,
    set_up_names,
)
from endurant.work.states import (
    count_in_state,
    cut_of,
    directions_of,
    is_cut,
    job_or_refuse,
    last_run,
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

_log = logging.getLogger(__name__)


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
    form: SampleForm = "sheet"
    width_mm: float | None = Field(None, gt=0, le=10_000, allow_inf_nan=False)
    length_mm: float | None = Field(None, gt=0, le=100_000, allow_inf_nan=False)
    count: int | None = Field(None, ge=1, le=100_000)
    mass_g: float | None = Field(None, gt=0, le=1e7, allow_inf_nan=False)
    due_at: AskedMoment
    tests: list[TestAsked] = Field(min_length=1, max_length=20)
    request_key: str | None = Field(None, max_length=64)

    def arrived(self) -> dict[str, Any] | None:
        """How many or how much of a sample that is no sheet; raises Invalid.

        Each form is asked for what it is, and for nothing else.
        """
        wanted = SIZES_OF[self.form]
        for name in ("width_mm", "length_mm", "count", "mass_g"):
            given = getattr(self, name) is not None
            if name in wanted and not given:
                raise Invalid(f"{name} is missing; {FORMS[self.form]} needs it", field=name)
            if given and name not in wanted:
                raise Invalid(f"{name} does not go with {FORMS[self.form]}", field=name)
        if self.form == "sheet":
            return None
        return {name: getattr(self, name) for name in wanted}


SampleForm = Literal["sheet", "pieces", "granules", "packs"]
FORMS: dict[SampleForm, str] = {
    "sheet": "a sheet or roll",
    "pieces": "a sample of ready pieces",
    "granules": "a sample of granules",
    "packs": "a sample of packs",
}
SIZES_OF: dict[SampleForm, tuple[str, ...]] = {
    "sheet": ("width_mm", "length_mm"),
    "pieces": ("count",),
    "granules": ("mass_g",),
    "packs": ("count",),
}


def receive(actor: Actor, asked: SampleAsked) -> JobView:
    """Write a new job down, with its tests, limits and the specimens they need.

    The same `request_key` twice gives the same job. Raises Invalid.
    """
    actor.must("receive")
    try:
        return _receive(actor, asked)
    except Conflict:
        if asked.request_key is None:
            raise
        return _receive(actor, asked)  # the same request came twice at once: the first one won


def _receive(actor: Actor, asked: SampleAsked) -> JobView:
    arrived = asked.arrived()
    with transaction() as session:
        if asked.request_key is not None:
            known = session.scalar(select(Job).where(Job.request_key == asked.request_key))
            if known is not None:
                _refuse_other_body(session, known, asked)
                return job_view(session, known)
        house = laboratory(session)
        job = Job(
            number=secrets.token_hex(8),
            avoided=[],
            arrived=arrived,
            received_at=clock.now(),
            received_by_id=actor.id,
            **asked.model_dump(exclude={"tests", "count", "mass_g"}),
        )
        session.add(job)
        session.flush()
        job.number = f"J-{FIRST_NUMBER + job.id:04d}"
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
    parameters = asked_parameters(method, given)
    test = Test(method=method.id, parameters=parameters, label_school=school, limits=[])
    job.tests.append(test)
    checked = parameters_of(test)
    test.limits = [_checked_limit(method, checked, limit) for limit in wanted.limits]
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


def add_replacement(test: Test, direction: str) -> Specimen:
    """One more spare of a direction, for a void that has none; raises Conflict when none is due."""
    if missing_replacements(test).get(direction, 0) == 0:
        where = f" in the {direction}" if direction else ""
        raise Conflict(f"no replacement is needed{where}")
    number = 1 + sum(one.direction == direction for one in test.specimens)
    place = test.job.tests.index(test) + 1
    return add_specimen(test, direction, number, spare=True, test_place=place)


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


FIRST_NUMBER = 400
"""Numbers of jobs go on from here; each is made from the id that the database gave the job."""


def _refuse_other_body(session: Session, known: Job, asked: SampleAsked) -> None:
    """The same request key stands for the same request; raises Invalid for another one."""
    facts = session.scalar(
        select(AuditEntry.facts).where(
            AuditEntry.entity == "job",
            AuditEntry.entity_id == known.id,
            AuditEntry.action == "receive",
        )
    )
    before = json.loads(facts or "{}").get("after")
    if before != json.loads(asked.model_dump_json()):
        raise Invalid(
            f"request_key was used already to receive {known.number}, with another request; "
            "expected a new key for a new sample",
            field="request_key",
        )


def change_limits(
    actor: Actor,
    test_id: int,
    limits: Sequence[LimitAsked],
    revision: int,
    reason: str | None = None,
) -> TestView:
    """Replace the limits of a test.

    Once a specimen has been tested this needs a reason, which the report gives as a deviation.
    Raises Conflict after release or when someone was first, Invalid without that reason.
    """
    actor.must("set limits")
    why = (reason or "").strip()[:300]
    with transaction() as session:
        test = test_or_refuse(session, test_id)
        job = refuse_released(session, test.job_id)
        session.refresh(test)
        refuse_stale("this test", test.revision, revision)
        before = test.limits
        method = find_method(test.method)
        parameters = parameters_of(test)
        if any(last_run(one) is not None for one in test.specimens) and not why:
            raise Invalid(
                "specimens of this test have been tested already; limits are changed now only "
                "with a reason, which the report will say",
                field="reason",
            )
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
            why=why or None,
        )
        return test_view(session, test)


def jobs() -> list[JobLine]:
    """All jobs: those in work first, by due date, then the released ones, newest first.

    One that cannot be shown stands there with the reason, and hides no other.
    """
    with transaction() as session:
        lines = [_line_or_trouble(session, job) for job in session.scalars(select(Job))]
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


def _line_or_trouble(session: Session, job: Job) -> JobLine:
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
            next_words="Look at what cannot be computed",
            next_place="job",
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


def arrived_in_words(job: Job) -> str:
    """The size of a sample as it is read: 1480 x 1000 mm, 12 pieces, 800 g of granules."""
    arrived = job.arrived or {}
    if job.form == "sheet":
        return f"{job.width_mm or 0:g} x {job.length_mm or 0:g} mm"
    if "mass_g" in arrived:
        return f"{arrived['mass_g']:g} g of granules"
    return f"{arrived.get('count', 0)} {job.form}"


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
        "trouble": next((test.trouble for test in tests if test.trouble), None),
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
    short = [test for test in job.tests if missing_replacements(test)]
    if short:
        if any(is_cut(test) for test in short):
            return "Cut a replacement", "cutting"
        return "Ask for one more", "readings"
    return "Wait for the clock", "conditioning"


def test_view(session: Session, test: Test) -> TestView:
    """A test with its specimens, rows and flags."""
    method = find_method(test.method)
    result, trouble = result_or_trouble(test)
    by_label = {one.label: one for one in result.specimens} if result else {}
    called = {one.id for one in called_specimens(test)}
    rounding = test.parameters["rounding"]
    main = method.properties_for(parameters_of(test))[0]
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
        trouble=trouble,
        one_more={} if is_cut(test) else missing_replacements(test),
        set_up=set_up_names(method),
        set_up_missing=missing_set_up(test),
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
