"""A specimen is accepted, and for a minute its acceptance can be undone."""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy import select

from endurant.core.document import analyse
from endurant.core.messages import Message
from endurant.core.refusals import Conflict, Invalid
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.tables import AuditEntry, Run
from endurant.work.base.actors import Actor
from endurant.work.base.transactions import transaction
from endurant.work.facts.results import validated_alone
from endurant.work.facts.status import (
    open_void,
    refuse_released,
)
from endurant.work.use_cases.bench.live import (
    run_or_refuse,
)
from endurant.work.use_cases.bench.runs import RunView, refuse_settled, run_view

UNDO_FOR = timedelta(seconds=75)
"""A minute on the screen, and the way to the server."""


def keep(actor: Actor, run_id: int) -> RunView:
    """The specimen counts.

    Raises Conflict unless it is waiting to be looked at and can be computed.
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


def undo_keep(actor: Actor, run_id: int) -> RunView:
    """The specimen waits to be looked at again, as before it was accepted.

    Raises Conflict when it was not accepted by this person within the last minute, or when its
    report is released.
    """
    actor.must("test")
    with transaction() as session:
        run_row = run_or_refuse(session, run_id)
        specimen = run_row.specimen
        job = refuse_released(session, specimen.test.job_id)
        session.refresh(run_row)
        accepted = session.scalar(
            select(AuditEntry)
            .where(
                AuditEntry.entity == "run",
                AuditEntry.entity_id == run_id,
                AuditEntry.action.in_(("keep", "undo-keep")),
            )
            .order_by(AuditEntry.id.desc())
            .limit(1)
        )
        if (
            run_row.state != "settled"
            or open_void(specimen) is not None
            or accepted is None
            or (accepted.action, accepted.person_id) != ("keep", actor.id)
            or clock.now() - accepted.at > UNDO_FOR
        ):
            raise Conflict("accept.undo-too-late", label=specimen.label)
        run_row.state, run_row.busy_specimen_id = "ended", specimen.id
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
