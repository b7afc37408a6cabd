"""Setting an enclosure: requested with a reason, confirmed by a second person."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated, Any

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.messages import Message
from endurant.core.refusals import Conflict, Forbidden, Invalid
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.tables import ConditioningPeriod, Enclosure, Job, Specimen, Test
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.facts.set_points import POINT, atmosphere_in

Celsius = Annotated[float, Field(allow_inf_nan=False, ge=-90, le=400)]


Tolerance = Annotated[float, Field(allow_inf_nan=False, gt=0, le=100)]


Percent = Annotated[float, Field(allow_inf_nan=False, ge=0, le=100)]


class SetPointRequest(RequestBody):
    """Set point and tolerances of an enclosure, and why; no humidity when it is null."""

    temperature_c: Celsius
    temperature_tolerance_c: Tolerance
    humidity_percent: Percent | None = None
    humidity_tolerance_percent: Tolerance | None = None
    reason: str = Field(min_length=1, max_length=300)


def keep_earlier(enclosure: Enclosure) -> None:
    """Keep what an enclosure is set to until now, before it is set to something else."""
    now_in = atmosphere_in(enclosure)
    earlier = {
        "until": clock.now().isoformat(),
        "atmosphere": enclosure.atmosphere,
        "own": enclosure.set_point is not None,
        "point": {name: getattr(now_in, name) for name in POINT},
    }
    enclosure.earlier_settings = [*(enclosure.earlier_settings or []), earlier]


def keep_all_earlier(session: Session) -> None:
    """Keep the atmospheres of the laboratory in every enclosure that has none of its own."""
    for enclosure in session.scalars(select(Enclosure).where(Enclosure.closed_at.is_(None))):
        if enclosure.set_point is None:
            keep_earlier(enclosure)


def ask_for_set_point(
    session: Session, actor: Actor, enclosure: Enclosure, request: SetPointRequest
) -> None:
    """Request a set point, which holds once another person has confirmed it. Raises Invalid."""
    if (request.humidity_percent is None) != (request.humidity_tolerance_percent is None):
        raise Invalid("set-point.incomplete", field="humidity_tolerance_percent")
    point = request.model_dump(include=set(POINT))
    enclosure.requested_setting = {
        "point": point,
        "reason": request.reason,
        "by_id": actor.id,
        "by": actor.name,
        "at": clock.now().isoformat(),
    }
    after = replace(atmosphere_in(enclosure), **point).in_words()
    message = Message(
        "audit.ask-set-point",
        {"actor": actor.name, "enclosure": enclosure.name, "set_point": after},
    )
    note_enclosure(
        session, actor, enclosure, "ask-set-point", message, after=point, why=request.reason
    )


def confirm_set_point(session: Session, actor: Actor, enclosure: Enclosure) -> None:
    """What was requested holds from now on, and stands in the record of every job in there.

    Raises Conflict if nothing is requested, Forbidden for the person who requested it.
    """
    request = enclosure.requested_setting
    if request is None:
        raise Conflict("set-point.none-requested", enclosure=enclosure.name)
    if request["by_id"] == actor.id:
        raise Forbidden("set-point.own-request", person=actor.name)
    before = atmosphere_in(enclosure).in_words()
    keep_earlier(enclosure)
    enclosure.set_point, enclosure.requested_setting = request["point"], None
    after = atmosphere_in(enclosure).in_words()
    about = {"actor": actor.name, "enclosure": enclosure.name, "asked_by": request["by"]}
    note_enclosure(
        session,
        actor,
        enclosure,
        "set-point",
        Message("audit.set-point", {**about, "before": before, "after": after}),
        before={"set_point": before},
        after={"set_point": after},
        why=request["reason"],
    )
    for job in _jobs_in(session, enclosure):
        record(
            session,
            person_id=None,
            action="set-point-changed",
            entity="enclosure",
            entity_id=enclosure.id,
            job_id=job.id,
            message=Message(
                "audit.set-point-changed",
                {
                    "enclosure": enclosure.name,
                    "after": after,
                    "before": before,
                    "why": request["reason"],
                },
            ),
        )


def _jobs_in(session: Session, enclosure: Enclosure) -> list[Job]:
    jobs_in_it = (
        select(Job)
        .join(Test, Test.job_id == Job.id)
        .join(Specimen, Specimen.test_id == Test.id)
        .join(ConditioningPeriod, ConditioningPeriod.specimen_id == Specimen.id)
        .where(
            ConditioningPeriod.enclosure_id == enclosure.id,
            ConditioningPeriod.open_for.is_not(None),
        )
        .distinct()
    )
    return list(session.scalars(jobs_in_it.order_by(Job.id)))


def note_enclosure(
    session: Session,
    actor: Actor,
    enclosure: Enclosure,
    action: str,
    message: Message,
    *,
    before: Mapping[str, Any] | None = None,
    after: Mapping[str, Any] | None = None,
    why: str | None = None,
) -> None:
    """Write down what was done to an enclosure, and why where that is asked for."""
    session.flush()
    record(
        session,
        person_id=actor.id,
        action=action,
        entity="enclosure",
        entity_id=enclosure.id,
        message=message.within("audit.with-reason", why=why) if why else message,
        before=before,
        after=after,
        why=why,
    )
