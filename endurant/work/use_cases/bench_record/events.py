"""Bench events as they are written, with the fact that each is about."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from sqlalchemy.orm import Session

from endurant.core.bench.engine import apply
from endurant.core.bench.events import Event
from endurant.core.bench.procedures import procedure_of
from endurant.core.methods import find_method
from endurant.store import clock
from endurant.store.tables import BenchEvent, Run
from endurant.work.base.actors import Actor
from endurant.work.facts.bench_events import events_of, state_after

RUN_STATES = {"before": "abandoned", "after": "recorded", "complete": "ended"}
"""What a run is once its device has ended, by where its test stands then."""


def write_event(
    session: Session,
    specimen_id: int,
    event: Event,
    *,
    actor: Actor | None = None,
    station_id: int | None = None,
    run_id: int | None = None,
) -> None:
    """Store one event; the database refuses a second one of its number."""
    session.add(
        BenchEvent(
            specimen_id=specimen_id,
            number=event.number,
            kind=event.kind,
            at=event.at,
            by_id=actor.id if actor else None,
            station_id=station_id,
            run_id=run_id,
            facts=dict(event.facts),
            undoes=event.undoes,
        )
    )


def device_event(session: Session, run: Run, kind: str, facts: Mapping[str, Any]) -> str:
    """Store what a device tells of its run; the state that the run is in from now on.

    A run without events, such as one of an earlier release, is over when its device ends.
    """
    happened = events_of(session, run.specimen_id)
    if not happened:
        return "abandoned" if kind == "abandoned" else "ended"
    number = happened[-1].number + 1
    event = Event(number=number, kind=kind, at=clock.now(), facts=facts)
    state = apply(state_after(run.specimen, happened), event)
    write_event(session, run.specimen_id, event, station_id=run.station_id, run_id=run.id)
    if state.phase == "complete":
        # What was recorded while the device paused.
        method = find_method(run.specimen.test.method)
        run.other_readings = procedure_of(method).readings(method, state) or None
    return RUN_STATES.get(state.phase, run.state)
