"""Whether a specimen may be begun: what is missing, what departs, and what the station holds."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.bench.actions import NOTED, REASON, Action, Step
from endurant.core.bench.procedures import procedure_of
from endurant.core.bench.readiness import Missing, missing_for_start
from endurant.core.bench.state import State
from endurant.core.bench.status import Status
from endurant.core.departures import Departure, in_sentences
from endurant.core.messages import worded
from endurant.core.methods import find_method
from endurant.core.methods.guide import Ask, FrameGuide
from endurant.store import clock
from endurant.store.tables import BenchEvent, Run, Specimen, Station
from endurant.work.facts.bench_events import aims_for, events_of
from endurant.work.facts.conditioning_progress import departures
from endurant.work.facts.instrument_status import refuse_out
from endurant.work.facts.results import own_facts

UNLOAD = "unload-station"
"""The action that confirms a specimen of an earlier run out of the station."""
SAME_CAUSE_FOR = timedelta(hours=24)
AGE_H = "hours_since"


@dataclass(frozen=True)
class Readiness:
    """What stands before the first action: `loaded` is a specimen that the station still holds.

    A device that `holds` one says so itself, whatever the database knows of it. `departed` are
    the rules that are not kept and have no reason yet, by code and in words; `reasons` are the
    reasons by code, those given for other specimens of the test among them.
    """

    loaded: Specimen | None
    holds: bool
    missing: list[Missing]
    departed: list[Departure]
    reasons: Mapping[str, str]


def readiness_of(
    session: Session,
    specimen: Specimen,
    station: Station | None,
    state: State,
    status: Status | None = None,
) -> Readiness:
    """The readiness of a specimen that nothing was recorded of yet."""
    test = specimen.test
    method = find_method(test.method)
    aims = aims_for(specimen, events_of(session, specimen.id))
    missing = [*_age_missing(specimen), *missing_for_start(method, aims, _own(specimen), state)]
    reasons = reasons_for(session, specimen, state)
    departed = [
        departure
        for departure in departures_at(session, specimen, station)
        if departure.code not in reasons
    ]
    loaded = _loaded(session, specimen, station)
    holds = loaded is not None or (status is not None and status.holds("holds_specimen"))
    return Readiness(loaded, holds, missing, departed, reasons)


def departures_at(session: Session, specimen: Specimen, station: Station | None) -> list[Departure]:
    """The rules that a test of this specimen at this station now would not keep.

    Raises Conflict for an instrument that is out of service.
    """
    departed = departures(specimen, clock.now())
    if station is not None:
        departed += refuse_out(session, station.instrument)
        departed += _cell_too_large(specimen, station)
    return departed


def step_before(ready: Readiness, state: State) -> Step | None:
    """What is to be done before the first action; None where the specimen may be begun."""
    if ready.missing:
        return _missing_step(ready.missing, state)
    if ready.departed:
        message = in_sentences(ready.departed)
        return Step(
            act=REASON,
            title=worded("step.reason-needed-for", label=state.label),
            why=worded("step.wait-or-give-the-reason-it-holds-for", message=message),
            button=worded("step.record-reason"),
            asks=(Ask("why", "reason", kind="text"),),
        )
    return None


def unload_step(loaded: Specimen | None, station: Station) -> Step:
    """The specimen of an earlier run is taken out before anything moves."""
    what = worded("step.the-specimen-of-the-last-run") if loaded is None else loaded.code
    return Step(
        act=UNLOAD,
        title=worded("step.remove-from-2", what=what, name=station.name),
        why=worded("step.the-last-run-ended-with-the-specimen-in"),
        button=worded("step.confirm-removed"),
        confirms=("removed",),
    )


def _missing_step(missing: list[Missing], state: State) -> Step:
    message = "; ".join(each.text for each in missing)
    return Step(
        act=NOTED,
        title=worded("step.complete-the-data-of", label=state.label),
        why=worded("step.without-these-values-the-result-could-not", message=message),
        button=worded("step.save-values"),
        asks=tuple(each.ask for each in missing),
    )


def _own(specimen: Specimen) -> dict[str, Any]:
    return {"label": specimen.label} | own_facts(specimen)


def _age_missing(specimen: Specimen) -> list[Missing]:
    """The moment of an event such as notching, where a rest after it decides."""
    age = find_method(specimen.test.method).guide.age
    made_at = (specimen.test.preparation or {}).get("made_at")
    if age is None or not age.needed or made_at or not age.requested(specimen.test.parameters):
        return []
    ask = Ask(AGE_H, worded("step.hours-since", event=age.event), "h", low=0.0, high=100_000.0)
    return [Missing(AGE_H, "age", worded("step.time-of-is-not-recorded", event=age.event), ask)]


def _cell_too_large(specimen: Specimen, station: Station) -> list[Departure]:
    """A load cell that reads the forces of this method too coarsely."""
    live = find_method(specimen.test.method).guide.live
    max_n = live.max_cell_n if isinstance(live, FrameGuide) else 0.0
    capacity_n = station.instrument.capacity_n
    if not max_n or capacity_n <= max_n:
        return []
    return [
        Departure.of("cell-too-large", station=station.name, capacity_n=capacity_n, max_n=max_n)
    ]


def reasons_for(session: Session, specimen: Specimen, state: State) -> dict[str, str]:
    """The reasons that hold for a specimen, by code: its own, and those given for the others."""
    return {**_given_before(session, specimen), **state.reasons}


def _given_before(session: Session, specimen: Specimen) -> dict[str, str]:
    """Reasons given for other specimens of the same test lately, by their codes."""
    ids = [other.id for other in specimen.test.specimens if other.id != specimen.id]
    if not ids:
        return {}
    rows = session.scalars(
        select(BenchEvent)
        .where(
            BenchEvent.specimen_id.in_(ids),
            BenchEvent.kind == REASON,
            BenchEvent.at > clock.now() - SAME_CAUSE_FOR,
        )
        .order_by(BenchEvent.id)
    )
    return {
        str(code): str(row.facts.get("why", ""))
        for row in rows
        for code in row.facts.get("codes", ())
    }


def _loaded(session: Session, specimen: Specimen, station: Station | None) -> Specimen | None:
    """The specimen that the last run at this station left in it; None where it is out."""
    if station is None:
        return None
    run = session.scalar(
        select(Run)
        .where(Run.station_id == station.id, Run.state != "abandoned", Run.source_name.is_(None))
        .order_by(Run.id.desc())
        .limit(1)
    )
    if run is None or run.specimen_id == specimen.id or run.state == "running":
        return None
    other = run.specimen
    happened = events_of(session, other.id)
    started = max((event.number for event in happened if event.kind == "start"), default=None)
    outs = unloading(other)
    if started is None or not outs:
        return None
    is_out = any(event.number > started and event.kind == outs[-1].code for event in happened)
    return None if is_out else other


def unloading(specimen: Specimen) -> list[Action]:
    """The actions after a run that leave the device empty, the one that does so last."""
    method = find_method(specimen.test.method)
    if not method.runs_live:
        return []
    actions = procedure_of(method).actions(method, specimen.test.parameters)
    after = [act for act in actions if act.phase == "after"]
    last = next((place for place, act in enumerate(after) if act.unloads), None)
    return [] if last is None else after[: last + 1]


def age_reading(specimen: Specimen) -> dict[str, float]:
    """How old a specimen is now in hours, where its method keeps that as a reading."""
    age = find_method(specimen.test.method).guide.age
    made_at = (specimen.test.preparation or {}).get("made_at")
    if age is None or not age.reading or not made_at:
        return {}
    since = clock.now() - datetime.fromisoformat(made_at)
    return {age.reading: round(since.total_seconds() / 3600, 2)}
