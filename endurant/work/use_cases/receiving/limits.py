"""The limits of a test: checked, and changed with a reason once specimens have been tested."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from endurant.core.judging.criteria import FIGURES, Criterion
from endurant.core.judging.uncertainty import Guard
from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.methods.method import Method
from endurant.core.refusals import Invalid
from endurant.store.audit import record
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.facts.models import TestView
from endurant.work.facts.status import (
    last_run,
    refuse_released,
    refuse_stale,
    test_or_refuse,
)
from endurant.work.facts.test_settings import parameters_of
from endurant.work.facts.test_status import test_view


class LimitRequest(RequestBody):
    """A limit on one property in one direction."""

    property: str
    direction: str
    criterion: Criterion
    guard: Guard | None = None


def checked_limit(method: Method, parameters: Any, limit: LimitRequest) -> dict[str, Any]:
    """The limit as it is stored; raises Invalid for a property or direction that is none here.

    A guard goes with figures: with a mean, a median or every single value.
    """
    names = [known.name for known in method.properties_for(parameters) if known.summed]
    if limit.property not in names:
        raise Invalid(
            "limit.property-unknown",
            property=limit.property,
            method=method.title,
            known=list(names),
            field="property",
        )
    directions = (*method.directions, *(("all",) if method.pools else ()))
    if limit.direction not in (*directions, ""):
        expected = f"one of {', '.join(directions)}" if directions else "none"
        raise Invalid(
            "limit.direction-unknown",
            property=limit.property,
            direction=limit.direction,
            expected=expected,
            field="direction",
        )
    if limit.guard is not None and limit.criterion.on not in FIGURES:
        raise Invalid(
            "limit.guard-not-allowed",
            statistic=limit.criterion.on,
            known=list(FIGURES),
            field="guard",
        )
    stored = limit.model_dump(mode="json", exclude={"guard"})
    guard = None if limit.guard is None else limit.guard.model_dump(mode="json")
    return stored if guard is None else stored | {"guard": guard}


def change_limits(
    actor: Actor,
    test_id: int,
    limits: Sequence[LimitRequest],
    revision: int,
    reason: str | None = None,
) -> TestView:
    """Replace the limits of a test.

    Once a specimen has been tested this needs a reason, which the report gives as a deviation.
    Raises Conflict after release or when someone was first, Invalid without that reason.
    """
    actor.must("set-limits")
    why = (reason or "").strip()[:300]
    with transaction() as session:
        test = test_or_refuse(session, test_id)
        job = refuse_released(session, test.job_id)
        session.refresh(test)
        refuse_stale("this test", test.revision, revision)
        before = test.limits
        method = find_method(test.method)
        parameters = parameters_of(test)
        if any(last_run(specimen) is not None for specimen in test.specimens) and not why:
            raise Invalid("limit.reason-needed", field="reason")
        test.limits = [checked_limit(method, parameters, limit) for limit in limits]
        test.revision += 1
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="change-limits",
            entity="test",
            entity_id=test.id,
            job_id=job.id,
            message=Message(
                "audit.change-limits",
                {"actor": actor.name, "method": find_method(test.method).title},
            ),
            before={"limits": before},
            after={"limits": test.limits},
            why=why or None,
        )
        return test_view(session, test)
