"""Steps pinned to a moment or a person: the plan keeps to them."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.messages import Message
from endurant.core.refusals import Invalid, NotFound
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.plans import PlanPin
from endurant.store.tables import Person, Test
from endurant.work.base.actors import Actor
from endurant.work.base.requests import Moment, RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.facts.status import refuse_released, test_or_refuse
from endurant.work.use_cases.planning.lab import (
    authorised_for,
    in_from,
    plan_names,
    testing_people,
)
from endurant.work.use_cases.planning.today import TodayView, day_now


class PinRequest(RequestBody):
    """A step pinned to a moment, and to a person if one is named."""

    test_id: int
    step: str = Field(min_length=1, max_length=40)
    start: Moment
    person: str | None = Field(None, max_length=80)


class UnpinRequest(RequestBody):
    """A step that the plan may move again."""

    test_id: int
    step: str = Field(min_length=1, max_length=40)


def pin(actor: Actor, request: PinRequest) -> TodayView:
    """Pin a step; the plan that is made next keeps to it.

    Raises NotFound for a test or person there is not, Invalid for a moment that is past or at which
    nobody is in who may run the test.
    """
    actor.must("test")
    with transaction() as session:
        test = test_or_refuse(session, request.test_id)
        refuse_released(session, test.job_id)
        start = request.start.replace(second=0, microsecond=0)
        if start < clock.now().replace(second=0, microsecond=0):
            raise Invalid("pin.in-past", field="start")
        person = None
        if request.person:
            people = testing_people(session)
            names = plan_names(people)
            person = next((each for each in people if names[each.id] == request.person), None)
            if person is None:
                raise NotFound("person.name-unknown", person=request.person)
        _refuse_closed_hours(session, test, start, person)
        row = _pin_of(session, request.test_id, request.step)
        if row is None:
            row = PlanPin(test_id=request.test_id, step=request.step)
            session.add(row)
        row.start, row.by_id, row.at = start, actor.id, clock.now()
        row.person_id = None if person is None else person.id
        session.flush()
        about = {"actor": actor.name, "step": row.step, "start": start}
        message = (
            Message("audit.pin", about)
            if person is None
            else Message("audit.pin-for", {**about, "person": person.name})
        )
        _note_pin(session, actor, row, test, message)
        return day_now(session, clock.now())


def _refuse_closed_hours(
    session: Session, test: Test, start: datetime, person: Person | None
) -> None:
    """Raise Invalid where nobody is in at that time who may run the test, or not the one named."""
    allowed = authorised_for(session, test.method, start)
    able = [person] if person is not None else testing_people(session)
    for each in able:
        is_allowed = person is not None or not allowed or {each.id, each.supervisor_id} & allowed
        hours = in_from(session, each, start)
        if is_allowed and any(begins <= start < ends for begins, ends in hours):
            return
    if person is not None:
        raise Invalid("pin.person-absent", field="start", person=person.name, start=start)
    raise Invalid("pin.nobody-present", field="start", start=start)


def unpin(actor: Actor, request: UnpinRequest) -> TodayView:
    """Let the plan move a step again. Raises NotFound for one that is not pinned."""
    actor.must("test")
    with transaction() as session:
        row = _pin_of(session, request.test_id, request.step)
        if row is None:
            raise NotFound("pin.none", step=request.step)
        message = Message("audit.unpin", {"actor": actor.name, "step": row.step})
        _note_pin(session, actor, row, test_or_refuse(session, row.test_id), message)
        session.delete(row)
        session.flush()
        return day_now(session, clock.now())


def _pin_of(session: Session, test_id: int, step: str) -> PlanPin | None:
    return session.scalar(select(PlanPin).where(PlanPin.test_id == test_id, PlanPin.step == step))


def _note_pin(session: Session, actor: Actor, row: PlanPin, test: Test, message: Message) -> None:
    record(
        session,
        person_id=actor.id,
        action="pin",
        entity="plan_pin",
        entity_id=row.id,
        job_id=test.job_id,
        message=message,
    )
