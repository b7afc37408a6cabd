"""Changes to a job after it was written down: each by whom, when and why."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from pydantic import Field
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.methods.parameters import owner_of
from endurant.core.refusals import Conflict, Forbidden, Invalid
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.tables import Job, Specimen, Test
from endurant.work.base.actors import Actor
from endurant.work.base.requests import Moment, RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.facts.laboratory import laboratory, rounding_for, school_for
from endurant.work.facts.models import JobView
from endurant.work.facts.status import (
    blank_of,
    directions_of,
    is_cut,
    job_or_refuse,
    last_run,
    open_void,
    refuse_released,
    refuse_stale,
    test_or_refuse,
)
from endurant.work.facts.test_settings import requested_parameters
from endurant.work.facts.test_status import test_view
from endurant.work.use_cases.receiving.receiving import (
    TestRequest,
    add_specimen,
    add_test,
    place_of,
    split,
)
from endurant.work.views.job_page import job_view

Reason = Field(min_length=1, max_length=300)
FREE = ("rounding", "reported_to")
"""Parameters that change no specimen and no reading."""


class JobAmended(RequestBody):
    """What a job says of its sample and its client, as it shall stand now."""

    client: str = Field(min_length=1, max_length=120)
    product: str = Field(min_length=1, max_length=120)
    lot: str = Field(min_length=1, max_length=60)
    material: str = Field(min_length=1, max_length=200)
    due_at: Moment
    priority: int = Field(0, ge=0, le=9)
    client_remark: str = Field("", max_length=500)
    shelf: str = Field("", max_length=80)
    order_number: str | None = Field(None, max_length=60)
    client_reference: str | None = Field(None, max_length=60)
    revision: int
    reason: str = Reason


ORDER = ("order_number", "client_reference")
"""What a change may leave out: it stays as it is."""


class WhyRequest(RequestBody):
    """Why, and the revision that was seen."""

    revision: int
    reason: str = Reason


class TestAdded(RequestBody):
    """One more test of a job."""

    __test__ = False

    test: TestRequest
    revision: int
    reason: str = Reason


class TestAmended(RequestBody):
    """Other parameters of a test that client and method own, or another count."""

    __test__ = False

    parameters: dict[str, Any] = Field(default_factory=dict, max_length=40)
    revision: int
    reason: str = Reason


def amend_job(actor: Actor, job_id: int, request: JobAmended) -> JobView:
    """Another due date, priority, lot or client's word. Raises Conflict, NotFound."""
    actor.must("receive")
    with transaction() as session:
        job = _open_job(session, job_id, request.revision)
        left = set(ORDER) - request.model_fields_set
        given = request.model_dump(exclude={"revision", "reason", *left})
        before = {name: getattr(job, name) for name in given}
        changed = {
            name: value
            for name, value in given.items()
            if (before[name] or None) != (value or None)
        }
        for name, value in changed.items():
            setattr(
                job, name, value or None if name in ("client_remark", "shelf", *ORDER) else value
            )
        if not changed:
            raise Invalid("job.nothing-changed")
        changes = [f"{_said(name)} {_plain(value)}" for name, value in changed.items()]
        message = Message("audit.amend", {"actor": actor.name, "changes": changes})
        _write(session, actor, job, "amend", message, request.reason, before, changed)
        return job_view(session, job)


def cancel(actor: Actor, job_id: int, request: WhyRequest) -> JobView:
    """The job is not done any more; what it has stays. Raises Conflict, NotFound."""
    actor.must("receive")
    with transaction() as session:
        job = _open_job(session, job_id, request.revision)
        _refuse_running(job.tests)
        job.cancelled_at, job.cancelled_reason = clock.now(), request.reason
        for specimen in (specimen for test in job.tests for specimen in test.specimens):
            for period in specimen.periods:
                if period.open_for is not None:
                    period.removed_at, period.open_for = clock.now(), None
        message = Message("audit.cancel", {"actor": actor.name, "job": job.number})
        _write(session, actor, job, "cancel", message, request.reason)
        return job_view(session, job)


def reinstate(actor: Actor, job_id: int, request: WhyRequest) -> JobView:
    """A cancelled job goes on. Raises Conflict for one that is not, NotFound."""
    actor.must("receive")
    with transaction() as session:
        job = job_or_refuse(session, job_id, lock=True)
        if job.cancelled_at is None:
            raise Conflict("job.not-cancelled", job=job.number)
        refuse_stale(job.number, job.revision, request.revision)
        job.cancelled_at = job.cancelled_reason = None
        message = Message("audit.reinstate", {"actor": actor.name, "job": job.number})
        _write(session, actor, job, "reinstate", message, request.reason)
        return job_view(session, job)


def add_to_job(actor: Actor, job_id: int, request: TestAdded) -> JobView:
    """One more test, or one for each state that is asked for, as at the counter.

    Its specimens are planned, and cut where there is still room.

    Raises Invalid for parameters or limits that are not valid, Conflict, NotFound.
    """
    actor.must("receive")
    with transaction() as session:
        job = _open_job(session, job_id, request.revision)
        lab = laboratory(session)
        known = session.scalar(select(func.count()).where(Test.job_id == job.id)) or 0
        school, rounding = school_for(lab, job), rounding_for(lab, job)
        for place, requested in enumerate(split([request.test]), start=known + 1):
            add_test(job, requested, school, rounding, place)
        session.flush()
        message = _of_test("add-test", actor, request.test.method)
        _write(session, actor, job, "add-test", message, request.reason)
        return job_view(session, job)


def retest(actor: Actor, test_id: int, request: WhyRequest) -> JobView:
    """The same test once more, on what remains of the sample; both results stand in the report.

    Raises Forbidden where the laboratory leaves that to a manager, Conflict while the test is not
    through or is done once more already, NotFound.
    """
    actor.must("release")
    with transaction() as session:
        test, job = _open_test(session, test_id, request.revision)
        lab = laboratory(session)
        title = find_method(test.method).title
        if (lab.retest_by or "reviewer") == "manager" and actor.role != "manager":
            raise Forbidden("retest.manager-only")
        if test_view(session, test).to_go:
            raise Conflict("retest.not-complete", test=title)
        known = session.scalar(select(Test).where(Test.retest_of_id == test.id))
        if known is not None and known.dropped_at is None:
            raise Conflict("retest.exists", test=title)
        count = session.scalar(select(func.count()).where(Test.job_id == job.id)) or 0
        again = TestRequest(method=test.method, parameters=dict(test.parameters))
        new = add_test(job, again, school_for(lab, job), rounding_for(lab, job), count + 1)
        new.limits = list(test.limits)
        new.retest_of_id, new.retest_reason, new.retest_by_id = test.id, request.reason, actor.id
        session.flush()
        message = _of_test("retest", actor, test.method)
        _write(session, actor, job, "retest", message, request.reason)
        return job_view(session, job)


def drop(actor: Actor, test_id: int, request: WhyRequest) -> JobView:
    """A test is asked for no more; what was cut or tested of it stays, and the report says so.

    Raises Conflict for the last test of a job and while one of its specimens runs, NotFound.
    """
    actor.must("receive")
    with transaction() as session:
        test, job = _open_test(session, test_id, request.revision)
        if len(job.tests) == 1:
            raise Conflict("test.only-one", job=job.number)
        _refuse_running([test])
        tested = [specimen.label for specimen in test.specimens if last_run(specimen)]
        test.dropped_at, test.dropped_reason = clock.now(), request.reason
        session.flush()
        session.expire(job, ["tests"])
        message = _of_test("drop-test", actor, test.method)
        if tested:
            message = message.within("audit.tested-before", labels=tested)
        _write(session, actor, job, "drop-test", message, request.reason, after={"test": test.id})
        return job_view(session, job)


def hold(actor: Actor, test_id: int, request: WhyRequest) -> JobView:
    """A test waits: none of its specimens is called. Raises Conflict, NotFound."""
    actor.must("receive")
    with transaction() as session:
        test, job = _open_test(session, test_id, request.revision)
        if test.held_at is not None:
            raise Conflict(
                "test.already-on-hold",
                method=find_method(test.method).title,
                reason=test.held_reason,
            )
        test.held_at, test.held_reason = clock.now(), request.reason
        message = _of_test("hold-test", actor, test.method)
        _write(session, actor, job, "hold-test", message, request.reason)
        return job_view(session, job)


def resume(actor: Actor, test_id: int, request: WhyRequest) -> JobView:
    """A test that waited goes on. Raises Conflict, NotFound."""
    actor.must("receive")
    with transaction() as session:
        test, job = _open_test(session, test_id, request.revision)
        if test.held_at is None:
            raise Conflict("test.not-on-hold", method=find_method(test.method).title)
        test.held_at = test.held_reason = None
        message = _of_test("resume-test", actor, test.method)
        _write(session, actor, job, "resume-test", message, request.reason)
        return job_view(session, job)


def amend_test(actor: Actor, test_id: int, request: TestAmended) -> JobView:
    """Other parameters that the client asked for, or another count of specimens.

    A change of the blank before cutting takes its specimens off the sheet, to be placed again.
    Raises Invalid for what is not asked at the counter, Conflict for another blank once it is
    cut, NotFound.
    """
    actor.must("receive")
    with transaction() as session:
        test, job = _open_test(session, test_id, request.revision)
        method = find_method(test.method)
        for name in request.parameters:
            known = name in method.parameters.model_fields
            if not known or owner_of(method.parameters, name) == "set-up":
                raise Invalid(
                    "test.parameter-unknown", name=name, method=method.title, field=name[:40]
                )
        before = {name: test.parameters.get(name) for name in request.parameters}
        blank = blank_of(test)
        demand = method.demand_for(test.parameters)
        test.parameters = requested_parameters(method, {**test.parameters, **request.parameters})
        after = method.demand_for(test.parameters)
        if blank_of(test) != blank or after.pieces != demand.pieces:
            take_off_the_sheet(job, test)
        if "specimens_wanted" in request.parameters or after != demand:
            _recount(test, method.planned_for(test.parameters), after.treated)
        changes = [f"{name} {test.parameters[name]}" for name in request.parameters]
        message = Message(
            "audit.amend-test", {"actor": actor.name, "method": method.title, "changes": changes}
        )
        tested = [specimen.label for specimen in test.specimens if last_run(specimen)]
        if tested and not set(request.parameters) <= {*FREE, "specimens_wanted"}:
            message = message.within("audit.tested-before", labels=tested)
        _write(
            session,
            actor,
            job,
            "amend-test",
            message,
            request.reason,
            before,
            {"test": test.id, "tested_before": tested, **request.parameters},
        )
        return job_view(session, job)


def take_off_the_sheet(job: Job, test: Test) -> None:
    """Its specimens lie nowhere any more; raises Conflict once they are cut."""
    was_cut = job.cut_at is not None and any(
        specimen.x_mm is not None and not specimen.laid_later for specimen in test.specimens
    )
    if was_cut and is_cut(test):
        raise Conflict("test.already-cut", job=job.number)
    for specimen in test.specimens:
        specimen.x_mm = specimen.y_mm = specimen.further_positions = specimen.laid_later = None
        specimen.locked = False


def _recount(test: Test, count: int, treated: int) -> None:
    """So many planned specimens in each direction: spares are called up, or planned ones spared.

    Those of treated cloth stay spares; where it is to give more of them, they are added.
    """
    place = place_of(test)
    for direction in directions_of(test):
        everything = [each for each in test.specimens if each.direction == direction]
        members = [each for each in everything if not each.treated]
        planned = [each for each in members if not each.spare]
        for specimen in reversed(planned[count:]):
            if last_run(specimen) is None and open_void(specimen) is None:
                specimen.spare = True
        missing = count - len(planned)
        free = [each for each in members if each.spare and last_run(each) is None]
        for specimen in free[: max(missing, 0)]:
            specimen.spare = False
        for number in range(max(missing - len(free), 0)):
            last = len(everything) + number
            add_specimen(test, direction, last + 1, spare=False, test_place=place)
        has_treated = len(everything) - len(members)
        for _ in range(treated - has_treated if has_treated else 0):
            last = sum(each.direction == direction for each in test.specimens)
            strip = add_specimen(test, direction, last + 1, spare=True, test_place=place)
            strip.treated = True


def _open_job(session: Session, job_id: int, seen: int) -> Job:
    job = refuse_released(session, job_id)
    refuse_stale(job.number, job.revision, seen)
    return job


def _open_test(session: Session, test_id: int, seen: int) -> tuple[Test, Job]:
    test = test_or_refuse(session, test_id)
    job = refuse_released(session, test.job_id)
    session.refresh(test)
    if test.dropped_at is not None:
        raise Conflict(
            "test.dropped", method=find_method(test.method).title, reason=test.dropped_reason
        )
    refuse_stale("this test", test.revision, seen)
    test.revision += 1
    return test, job


def _refuse_running(tests: list[Test]) -> None:
    running: list[Specimen] = [
        specimen
        for test in tests
        for specimen in test.specimens
        if (run := last_run(specimen)) is not None and run.state == "running"
    ]
    if running:
        raise Conflict("specimen.running", code=running[0].code)


def _said(name: str) -> str:
    names = {"due_at": "due", "client_remark": "client says", "order_number": "order"}
    return names.get(name, name.replace("_", " "))


def _plain(value: object) -> str:
    return f"{value.astimezone():%d %b %Y %H:%M}" if isinstance(value, datetime) else str(value)


def _of_test(action: str, actor: Actor, method: str) -> Message:
    return Message(f"audit.{action}", {"actor": actor.name, "method": find_method(method).title})


def _write(
    session: Session,
    actor: Actor,
    job: Job,
    action: str,
    message: Message,
    why: str,
    before: Mapping[str, Any] | None = None,
    after: Mapping[str, Any] | None = None,
) -> None:
    job.revision += 1
    session.flush()
    record(
        session,
        person_id=actor.id,
        action=action,
        entity="job",
        entity_id=job.id,
        job_id=job.id,
        message=message.within("audit.with-reason", why=why),
        before=_json(before),
        after=_json(after),
        why=why,
    )


def _json(facts: Mapping[str, Any] | None) -> dict[str, Any] | None:
    if facts is None:
        return None
    return {
        name: value.isoformat() if isinstance(value, datetime) else value
        for name, value in facts.items()
    }
