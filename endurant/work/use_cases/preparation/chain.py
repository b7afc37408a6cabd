"""How the specimens of a test are prepared: conditioning stages, wet or as received, and age."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime

from pydantic import Field

from endurant.core.conditioning.atmospheres import ATMOSPHERES, find_atmosphere
from endurant.core.conditioning.chains import Stage, stage_in_words
from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.refusals import Invalid
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.tables import Test
from endurant.work.base.actors import Actor
from endurant.work.base.requests import Moment, RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.conditioning_progress import stages_for, usual_stages
from endurant.work.facts.status import (
    last_run,
    refuse_released,
    refuse_stale,
    test_or_refuse,
)
from endurant.work.use_cases.receiving.stages import SpecimenState, StageRequest


class PreparationRequest(RequestBody):
    """The preparation of a test; without stages the chain that its method asks for.

    `made_at`: when the material was vulcanised or made, where the method has an age.
    """

    state: SpecimenState = "original"
    stages: list[StageRequest] | None = Field(None, max_length=6)
    made_at: Moment | None = None
    revision: int


class StageView(View):
    """One stage in words."""

    atmosphere: str
    title: str
    least_minutes: float
    most_wait_minutes: float | None
    why: str
    text: str


class PreparationView(View):
    """How a test is prepared, and what its method asks for."""

    test_id: int
    title: str
    state: str
    stages: list[StageView]
    usual: list[StageView]
    changed: bool
    age_event: str | None
    age_text: str | None
    made_at: datetime | None
    atmospheres: dict[str, str]
    revision: int


def preparation(test_id: int) -> PreparationView:
    """How a test is prepared; raises NotFound."""
    with transaction() as session:
        return _view(test_or_refuse(session, test_id))


def prepare_test(actor: Actor, test_id: int, request: PreparationRequest) -> PreparationView:
    """Set how a test is prepared; a chain other than the method's is named in the report.

    Raises Conflict once a specimen was tested, Invalid for a stage that is not known.
    """
    actor.must("condition")
    with transaction() as session:
        test = test_or_refuse(session, test_id)
        job = refuse_released(session, test.job_id)
        session.refresh(test)
        refuse_stale("this test", test.revision, request.revision)
        _check(test, request)
        before = {"state": test.state, "preparation": test.preparation}
        test.state = request.state
        facts: dict[str, object] = {}
        if request.stages is not None:
            facts["stages"] = [stage.model_dump() for stage in request.stages]
        if request.made_at is not None:
            facts["made_at"] = request.made_at.isoformat()
        test.preparation = facts or None
        if tuple(usual_stages(test)) == stages_for(test):
            facts.pop("stages", None)
            test.preparation = facts or None
        test.revision += 1
        session.flush()
        chain = "; ".join(stage_in_words(stage) for stage in stages_for(test)) or "nothing"
        record(
            session,
            person_id=actor.id,
            action="prepare",
            entity="test",
            entity_id=test.id,
            job_id=job.id,
            message=Message(
                "audit.preparation-set",
                {
                    "actor": actor.name,
                    "method": find_method(test.method).title,
                    "state": request.state,
                    "chain": chain,
                },
            ),
            before=before,
            after={"state": test.state, "preparation": test.preparation},
        )
        return _view(test)


def _check(test: Test, request: PreparationRequest) -> None:
    for stage in request.stages or []:
        stage.stage()
    if request.made_at is not None:
        if request.made_at.tzinfo is None:
            raise Invalid("preparation.no-time-zone", field="made_at")
        if request.made_at > clock.now():
            raise Invalid("preparation.in-future", field="made_at")
    if request.state != test.state and any(
        last_run(specimen) is not None for specimen in test.specimens
    ):
        raise Invalid("preparation.already-tested", field="state")


def _stage_view(stage: Stage) -> StageView:
    return StageView(
        **asdict(stage),
        title=find_atmosphere(stage.atmosphere).title,
        text=stage_in_words(stage),
    )


def _view(test: Test) -> PreparationView:
    method = find_method(test.method)
    age = method.guide.age
    if age is not None and not age.requested(test.parameters):
        age = None
    made_at = (test.preparation or {}).get("made_at")
    stages, usual = stages_for(test), usual_stages(test)
    return PreparationView(
        test_id=test.id,
        title=method.title,
        state=test.state,
        stages=[_stage_view(stage) for stage in stages],
        usual=[_stage_view(specimen) for specimen in usual],
        changed=stages != usual,
        age_event=age.event if age else None,
        age_text=None
        if age is None
        else f"{age.least_for(test.parameters):g} h to {age.max_hours / 24:g} days after "
        f"{age.event}",
        made_at=None if made_at is None else datetime.fromisoformat(made_at),
        atmospheres={key: atmosphere.title for key, atmosphere in ATMOSPHERES.items()},
        revision=test.revision,
    )
