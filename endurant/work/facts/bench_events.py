"""The events of a specimen at the bench: read, and written with the fact that they are about."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from endurant.core.bench.engine import replay
from endurant.core.bench.events import Event
from endurant.core.bench.procedure import begin
from endurant.core.bench.procedures import procedure_of
from endurant.core.bench.state import State
from endurant.core.methods import find_method
from endurant.store.tables import BenchEvent, Specimen
from endurant.work.base.read_scope import once
from endurant.work.facts.known_at_start import constant_facts, facts_at_first
from endurant.work.facts.run_facts import RunSettings
from endurant.work.facts.status import open_void

EARLY = "early"
"""Marks an event before conditioning, which settles nothing of the test at the bench."""
CLEAN_RUNS = 3


def events_of(session: Session, specimen_id: int) -> list[Event]:
    """What happened to a specimen, in its order."""
    return list(once(session, ("events", specimen_id), lambda: _read(session, specimen_id)))


def _read(session: Session, specimen_id: int) -> list[Event]:
    rows = session.scalars(
        select(BenchEvent)
        .where(BenchEvent.specimen_id == specimen_id)
        .order_by(BenchEvent.number)
        .options(joinedload(BenchEvent.by))
    )
    return events_in(rows)


def events_in(rows: Iterable[BenchEvent]) -> list[Event]:
    """Stored events as the procedures know them."""
    return [
        Event(
            number=row.number,
            kind=row.kind,
            at=row.at,
            by=row.by.name if row.by else "",
            facts=row.facts,
            undoes=row.undoes,
        )
        for row in rows
    ]


def begun(specimen: Specimen, happened: Sequence[Event]) -> State:
    """A specimen of a method that the bench runs, before anything happened to it.

    Whether the set-up is confirmed in one action was settled with its first event.
    """
    method = find_method(specimen.test.method)
    first = first_at_bench(happened)
    folded = bool(first.facts.get("folded")) if first else _goes_well(specimen)
    aims = aims_for(specimen, happened)
    return begin(procedure_of(method), method, aims, specimen.label, folded)


def first_at_bench(happened: Sequence[Event]) -> Event | None:
    """The first event of a test; what came before conditioning is none."""
    return next((event for event in happened if not event.facts.get(EARLY)), None)


def aims_for(specimen: Specimen, happened: Sequence[Event]) -> dict[str, Any]:
    """The parameters of a test, and what is known of this specimen beside them.

    What a round or a pilot gives was settled with its first event.
    """
    first = first_at_bench(happened)
    given = first.facts.get("given", {}) if first else facts_at_first(specimen)
    return {**specimen.test.parameters, **constant_facts(specimen), **given}


def _goes_well(specimen: Specimen) -> bool:
    """The last three specimens of this test were kept, under the set-up that it has now."""
    finished = sorted(
        (run for other in specimen.test.specimens for run in other.runs if run.ended_at),
        key=lambda run: run.id,
    )[-CLEAN_RUNS:]
    method = find_method(specimen.test.method)
    setup = procedure_of(method).setup(method, specimen.test.parameters)
    return len(finished) == CLEAN_RUNS and all(
        run.state == "settled"
        and open_void(run.specimen) is None
        and run.source_name is None
        and setup.items() <= RunSettings.model_validate(run.settings).setup.items()
        for run in finished
    )


def state_at_bench(session: Session, specimen: Specimen) -> State:
    """Where a specimen stands in its test."""
    return state_after(specimen, events_of(session, specimen.id))


def state_after(specimen: Specimen, happened: Sequence[Event]) -> State:
    """Where a specimen stands once this has happened to it."""
    return replay(begun(specimen, happened), happened, strict=False)
