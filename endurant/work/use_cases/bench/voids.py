"""Specimens that do not count: voided with a code, and taken back only with a reason."""

from __future__ import annotations

from pydantic import Field

from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.methods.voids import SET_ASIDE, observations_of
from endurant.core.refusals import Conflict, Invalid
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.tables import Void
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.facts.models import TestView
from endurant.work.facts.status import (
    is_cut,
    is_to_cut,
    last_run,
    open_void,
    refuse_released,
    specimen_or_refuse,
    test_or_refuse,
)
from endurant.work.facts.test_status import test_view
from endurant.work.use_cases.bench.runs import end_period
from endurant.work.use_cases.receiving.receiving import add_replacement


class VoidRequest(RequestBody):
    """Why a specimen does not count."""

    code: str
    remark: str = Field("", max_length=500)


def void(actor: Actor, specimen_id: int, request: VoidRequest) -> None:
    """The specimen does not count, with a code; its data stays and a spare is called.

    It may be voided at every state but while a device records. Raises Conflict when it is void
    already or running.
    """
    actor.must("test")
    with transaction() as session:
        specimen = specimen_or_refuse(session, specimen_id)
        job = refuse_released(session, specimen.test.job_id)
        session.refresh(specimen, ["voids", "runs"])
        codes = {
            observation.code: observation
            for observation in observations_of(find_method(specimen.test.method))
            if observation.severity == "void"
        }
        if request.code not in codes:
            raise Invalid("void.code-unknown", code=request.code, codes=list(codes), field="code")
        if request.code == SET_ASIDE.code and not request.remark.strip():
            raise Invalid("void.reason-needed", field="remark")
        void = open_void(specimen)
        if void is not None:
            raise Conflict(
                "void.already",
                code=specimen.code,
                by=void.by.name,
                at=void.at,
                void_code=void.code,
            )
        run = last_run(specimen)
        if run is not None and run.state == "running":
            raise Conflict("void.running", code=specimen.code)
        if run is None and is_to_cut(specimen):
            raise Conflict("void.not-cut", code=specimen.code)
        if run is None:
            end_period(specimen, clock.now())
        else:
            # A run that is not through its test keeps its data and enters no result.
            run.state = run.state if run.state == "recorded" else "settled"
            run.busy_specimen_id = None
        session.add(
            Void(
                specimen_id=specimen.id,
                open_for=specimen.id,
                code=request.code,
                remark=request.remark or codes[request.code].text,
                at=clock.now(),
                by_id=actor.id,
            )
        )
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="void",
            entity="specimen",
            entity_id=specimen.id,
            job_id=job.id,
            message=Message(
                "audit.void",
                {"actor": actor.name, "label": specimen.label, "reason": codes[request.code].text},
            ),
            after={"code": request.code, "remark": request.remark},
        )


def withdraw_void(actor: Actor, specimen_id: int, reason: str) -> None:
    """Take a void back, which needs a reason; the specimen counts again."""
    actor.must("test")
    if not reason.strip():
        raise Invalid("void.undo-reason-needed", field="reason")
    with transaction() as session:
        specimen = specimen_or_refuse(session, specimen_id)
        job = refuse_released(session, specimen.test.job_id)
        session.refresh(specimen, ["voids"])
        void = open_void(specimen)
        if void is None:
            raise Conflict("void.not-void", code=specimen.code)
        void.open_for = None
        void.withdrawn_at = clock.now()
        void.withdrawn_by_id = actor.id
        void.withdrawn_reason = reason[:500]
        record(
            session,
            person_id=actor.id,
            action="withdraw-void",
            entity="specimen",
            entity_id=specimen.id,
            job_id=job.id,
            message=Message(
                "audit.withdraw-void",
                {"actor": actor.name, "label": specimen.label, "why": reason[:200]},
            ),
            why=reason,
        )


def ask_for_one_more(actor: Actor, test_id: int, direction: str) -> TestView:
    """One more specimen of a sample that comes ready, for a void that has no spare left.

    It is moulded, charged or sent; one that is cut comes from the sheet instead. Raises
    Conflict when none is needed.
    """
    actor.must("test")
    with transaction() as session:
        test = test_or_refuse(session, test_id)
        job = refuse_released(session, test.job_id)
        if is_cut(test):
            raise Conflict("replacement.from-sheet", job=job.number)
        specimen = add_replacement(test, direction)
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="ask-for-one-more",
            entity="specimen",
            entity_id=specimen.id,
            job_id=job.id,
            message=Message(
                "audit.ask-for-one-more", {"actor": actor.name, "label": specimen.label}
            ),
        )
        return test_view(session, test)
