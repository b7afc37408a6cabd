"""Specimens are accepted, one or all of a test, and for a minute that can be undone."""

from __future__ import annotations

import json
from datetime import timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.document import analyse
from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.refusals import Conflict, Invalid
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.tables import AuditEntry, Run
from endurant.work.base.actors import Actor
from endurant.work.base.transactions import transaction
from endurant.work.facts.models import TestView
from endurant.work.facts.results import validated_alone
from endurant.work.facts.status import (
    last_run,
    open_void,
    refuse_released,
    test_or_refuse,
)
from endurant.work.facts.test_status import test_view
from endurant.work.use_cases.bench.live import (
    run_or_refuse,
)
from endurant.work.use_cases.bench.runs import RunView, refuse_settled, run_view

UNDO_FOR = timedelta(seconds=75)
"""A minute on the screen, and the way to the server."""


def accept(actor: Actor, run_id: int) -> RunView:
    """Accept a specimen: it counts.

    Raises Conflict unless it waits for that and can be computed.
    """
    actor.must("test")
    with transaction() as session:
        run_row = run_or_refuse(session, run_id)
        job = refuse_released(session, run_row.specimen.test.job_id)
        session.refresh(run_row)
        refuse_settled(run_row)
        _refuse_without_figure(run_row)
        run_row.state, run_row.busy_specimen_id = "settled", None
        record(
            session,
            person_id=actor.id,
            action="keep",
            entity="run",
            entity_id=run_row.id,
            job_id=job.id,
            message=Message("audit.keep", {"actor": actor.name, "label": run_row.specimen.label}),
        )
        return run_view(session, run_row)


def _refuse_without_figure(run: Run) -> None:
    """Raises Conflict for a recording that ended before anything can be computed from it."""
    if run.station_id is None or run.entry is not None:
        return
    try:
        analyse(validated_alone(run.specimen, run))
    except Invalid as refusal:
        raise Conflict(refusal.message.within("run.cannot-count")) from refusal


def accept_all(actor: Actor, test_id: int) -> TestView:
    """Accept every specimen of a test that waits for it. Raises Conflict if none does."""
    actor.must("test")
    with transaction() as session:
        test = test_or_refuse(session, test_id)
        job = refuse_released(session, test.job_id)
        session.refresh(test)
        waiting = [
            (specimen.label, run)
            for specimen in test.specimens
            if (run := last_run(specimen)) is not None and run.state == "ended"
        ]
        if not waiting:
            raise Conflict("accept.nothing-waiting")
        for _, run in waiting:
            run.state, run.busy_specimen_id = "settled", None
        labels = ", ".join(label for label, _ in waiting)
        record(
            session,
            person_id=actor.id,
            action="keep",
            entity="test",
            entity_id=test.id,
            job_id=job.id,
            message=Message("audit.keep", {"actor": actor.name, "label": labels}),
            after={"runs": [run.id for _, run in waiting]},
        )
        session.flush()
        return test_view(session, test)


def undo_acceptance(actor: Actor, run_id: int) -> RunView:
    """Undo the acceptance of a specimen: it waits again, as before.

    Raises Conflict when this person did not accept it within the last minute, or when its
    report is released.
    """
    actor.must("test")
    with transaction() as session:
        run_row = run_or_refuse(session, run_id)
        specimen = run_row.specimen
        job = refuse_released(session, specimen.test.job_id)
        session.refresh(run_row)
        if _last_acceptance(session, actor, "run", run_id) is None:
            raise Conflict("accept.undo-too-late", label=specimen.label)
        _let_wait(run_row)
        record(
            session,
            person_id=actor.id,
            action="undo-keep",
            entity="run",
            entity_id=run_id,
            job_id=job.id,
            message=Message("audit.undo-keep", {"actor": actor.name, "label": specimen.label}),
        )
        session.flush()
        return run_view(session, run_row)


def undo_acceptance_of_all(actor: Actor, test_id: int) -> TestView:
    """Undo *Accept all*: the specimens that it accepted wait again. All of them, or none.

    Raises Conflict when this person did not accept them within the last minute, when one of them
    is void by now, or when the report is released.
    """
    actor.must("test")
    with transaction() as session:
        test = test_or_refuse(session, test_id)
        job = refuse_released(session, test.job_id)
        session.refresh(test)
        accepted = _last_acceptance(session, actor, "test", test_id)
        if accepted is None:
            raise Conflict("accept.undo-too-late", label=find_method(test.method).title)
        run_ids = json.loads(accepted.facts)["after"]["runs"]
        runs = list(session.scalars(select(Run).where(Run.id.in_(run_ids)).order_by(Run.id)))
        for run in runs:
            _let_wait(run)
        labels = ", ".join(run.specimen.label for run in runs)
        record(
            session,
            person_id=actor.id,
            action="undo-keep",
            entity="test",
            entity_id=test_id,
            job_id=job.id,
            message=Message("audit.undo-keep", {"actor": actor.name, "label": labels}),
        )
        session.flush()
        return test_view(session, test)


def _last_acceptance(
    session: Session, actor: Actor, entity: str, entity_id: int
) -> AuditEntry | None:
    """The acceptance by this person that can still be undone; None where there is none."""
    newest = session.scalar(
        select(AuditEntry)
        .where(
            AuditEntry.entity == entity,
            AuditEntry.entity_id == entity_id,
            AuditEntry.action.in_(("keep", "undo-keep")),
        )
        .order_by(AuditEntry.id.desc())
        .limit(1)
    )
    if newest is None or (newest.action, newest.person_id) != ("keep", actor.id):
        return None
    return None if clock.now() - newest.at > UNDO_FOR else newest


def _let_wait(run: Run) -> None:
    """The run waits to be accepted again; raises Conflict where that is over."""
    if run.state != "settled" or open_void(run.specimen) is not None:
        raise Conflict("accept.undo-too-late", label=run.specimen.label)
    run.state, run.busy_specimen_id = "ended", run.specimen_id
