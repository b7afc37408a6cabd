"""Hanging specimens in enclosures, taking them out, and weighing them."""

from __future__ import annotations

from collections.abc import Sequence

from pydantic import Field
from sqlalchemy.orm import Session

from endurant.core.messages import Message
from endurant.core.refusals import Conflict, Invalid
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.tables import ConditioningPeriod, Enclosure, Weighing
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.facts.conditioning_models import ConditioningView
from endurant.work.facts.status import (
    is_to_cut,
    last_run,
    open_period,
    refuse_released,
    specimen_or_refuse,
)
from endurant.work.use_cases.preparation.early_actions import confirm_early
from endurant.work.views.conditioning import conditioning


class TakeOutRequest(RequestBody):
    """Specimens taken out together."""

    specimen_ids: list[int] = Field(min_length=1, max_length=500)


class PlacementRequest(TakeOutRequest):
    """Specimens placed together; `confirmed` is what was done to them before."""

    confirmed: list[str] = Field([], max_length=10)


class WeighingRequest(RequestBody):
    """The mass of a specimen during its conditioning."""

    mass_g: float = Field(gt=0, le=1e6, allow_inf_nan=False)


def place_specimens(actor: Actor, enclosure_id: int, request: PlacementRequest) -> ConditioningView:
    """Hang specimens in; each one's clock starts now. All of them, or none.

    One that is elsewhere is moved: its period there ends now.
    """
    actor.must("condition")
    now = clock.now()
    with transaction() as session:
        enclosure = enclosure_or_refuse(session, enclosure_id)
        if enclosure.closed_at is not None:
            raise Conflict("enclosure.closed", enclosure=enclosure.name)
        for specimen_id in dict.fromkeys(request.specimen_ids):
            specimen = specimen_or_refuse(session, specimen_id)
            job = refuse_released(session, specimen.test.job_id)
            if is_to_cut(specimen):
                raise Conflict("conditioning.not-cut", code=specimen.code, job=job.number)
            if last_run(specimen) is not None:
                raise Conflict("conditioning.already-tested", code=specimen.code)
            confirm_early(session, actor, specimen, request.confirmed)
            period = open_period(specimen)
            if period is not None and period.enclosure_id == enclosure.id:
                raise Conflict(
                    "conditioning.already-placed",
                    code=specimen.code,
                    enclosure=period.enclosure.name,
                )
            if period is not None:
                period.removed_at, period.open_for = now, None
                session.flush()
            session.add(
                ConditioningPeriod(
                    specimen_id=specimen.id,
                    enclosure_id=enclosure.id,
                    open_for=specimen.id,
                    placed_at=now,
                    placed_by_id=actor.id,
                )
            )
        session.flush()
        _note_period(session, actor, request.specimen_ids, "hang", enclosure.name)
    return conditioning()


def take_out(actor: Actor, request: TakeOutRequest) -> ConditioningView:
    """Remove specimens; their progress is kept. All of them, or none."""
    actor.must("condition")
    now = clock.now()
    with transaction() as session:
        for specimen_id in dict.fromkeys(request.specimen_ids):
            specimen = specimen_or_refuse(session, specimen_id)
            refuse_released(session, specimen.test.job_id)
            period = open_period(specimen)
            if period is None:
                raise Conflict("conditioning.not-placed", code=specimen.code)
            period.removed_at, period.open_for = now, None
        session.flush()
        _note_period(session, actor, request.specimen_ids, "take-out")
    return conditioning()


def weigh_specimen(actor: Actor, specimen_id: int, request: WeighingRequest) -> ConditioningView:
    """Record the mass of a specimen during its conditioning; two that agree are an equilibrium.

    Raises Conflict for one that is not in conditioning.
    """
    actor.must("condition")
    now = clock.now()
    with transaction() as session:
        specimen = specimen_or_refuse(session, specimen_id)
        job = refuse_released(session, specimen.test.job_id)
        period = open_period(specimen)
        if period is None:
            raise Conflict("conditioning.weigh-not-placed", code=specimen.code)
        session.add(
            Weighing(specimen_id=specimen.id, at=now, mass_g=request.mass_g, by_id=actor.id)
        )
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="weigh",
            entity="specimen",
            entity_id=specimen.id,
            job_id=job.id,
            message=Message(
                "audit.weigh",
                {
                    "actor": actor.name,
                    "label": specimen.label,
                    "enclosure": period.enclosure.name,
                    "mass_g": request.mass_g,
                },
            ),
            after={"mass_g": request.mass_g},
        )
    return conditioning()


def enclosure_or_refuse(session: Session, enclosure_id: int) -> Enclosure:
    """The enclosure; raises Invalid."""
    enclosure = session.get(Enclosure, enclosure_id)
    if enclosure is None:
        raise Invalid("enclosure.unknown", enclosure_id=enclosure_id, field="enclosure_id")
    return enclosure


def _note_period(
    session: Session, actor: Actor, specimen_ids: Sequence[int], action: str, where: str = ""
) -> None:
    """One entry for each job, naming its specimens."""
    by_job: dict[int, list[str]] = {}
    for specimen_id in dict.fromkeys(specimen_ids):
        specimen = specimen_or_refuse(session, specimen_id)
        by_job.setdefault(specimen.test.job_id, []).append(specimen.label)
    for job_id, labels in by_job.items():
        record(
            session,
            person_id=actor.id,
            action=action,
            entity="job",
            entity_id=job_id,
            job_id=job_id,
            message=Message(
                f"audit.{action}", {"actor": actor.name, "count": len(labels), "where": where}
            ),
            after={"specimens": labels},
        )
