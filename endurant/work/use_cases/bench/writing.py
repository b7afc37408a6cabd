"""Store an action: beside a recording, as its start, or as the readings of a test."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from endurant.core.bench.actions import Action, Departed
from endurant.core.bench.engine import apply
from endurant.core.bench.events import Event
from endurant.core.bench.next_steps import unticked
from endurant.core.bench.procedure import SETS_ONLY, checks_of
from endurant.core.bench.procedures import procedure_of
from endurant.core.bench.recorded import recorded_entry
from endurant.core.bench.state import State
from endurant.core.bench.status import Status
from endurant.core.document import analyse, kept_form, read_document
from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.refusals import Conflict, Invalid
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.samples import pack_entry
from endurant.store.tables import Run, Specimen, Station
from endurant.work.base.actors import Actor
from endurant.work.facts.consumables import worn_by
from endurant.work.facts.readiness import Readiness, age_reading
from endurant.work.facts.results import columns_of, own_facts
from endurant.work.facts.run_facts import CheckFacts, deviation_of
from endurant.work.facts.set_up_at_station import aims_at
from endurant.work.facts.status import last_run
from endurant.work.use_cases.bench.gauges_read import gauges_read
from endurant.work.use_cases.bench.live import LEASE, new_lease
from endurant.work.use_cases.bench.runs import end_period, settings_at, station_run
from endurant.work.use_cases.bench_record.events import write_event
from endurant.work.use_cases.instruments.equipment import note


def write_act(
    session: Session,
    actor: Actor,
    specimen: Specimen,
    state: State,
    event: Event,
    requested: Action,
    station: Station | None,
    status: Status | None,
    reasons: Mapping[str, str],
) -> None:
    """Write an action down; the last one of a test makes its readings count as read."""
    if status is not None and requested.tells not in SETS_ONLY:
        event = replace(event, facts={**event.facts, "device": dict(status.facts)})
    after = apply(state, event)
    run = last_run(specimen)
    completes = after.phase == "complete" and state.phase != "complete"
    if not completes and after.facts != state.facts:
        _refuse_nonsense(specimen, after)
    if completes and run is None:
        run = _typed_run(session, actor, specimen, after, station, reasons)
    elif completes and run is not None:
        run.other_readings = _beside(run, _readings_beside(specimen, after, run)) or None
        run.state = "ended"
        run.settings = with_departed(run.settings, after.departed)
    write_event(
        session,
        specimen.id,
        event,
        actor=actor,
        station_id=None if station is None else station.id,
        run_id=run.id if run else None,
    )
    if completes and run is not None:
        gauges = [gauge.model_dump() for gauge in gauges_read(session, specimen)]
        run.settings = run.settings | {"gauges": gauges}
    if requested.logs and station is not None:
        message = Message("log.after", {"code": specimen.code})
        note(session, actor, station.instrument.serial, requested.logs, message)
    record(
        session,
        person_id=actor.id,
        action="bench-act",
        entity="specimen",
        entity_id=specimen.id,
        job_id=None,
        message=Message(
            "audit.bench-act",
            {
                "actor": actor.name,
                "label": specimen.label,
                "action": requested.title.format(label=specimen.label),
            },
        ),
        after={"number": event.number, "facts": dict(event.facts)},
    )


def start_recording(
    session: Session,
    actor: Actor,
    specimen: Specimen,
    station: Station,
    before: State,
    event: Event,
    status: Status | None,
    aims: Mapping[str, Any],
    ready: Readiness | None,
) -> tuple[int, str]:
    """Write down that a recording starts; the run and the lease that it is carried with."""
    now = event.at
    method = find_method(specimen.test.method)
    missing = unticked(before, status, aims_at(method, aims, station))
    if missing:
        checks = checks_of(procedure_of(method), method, aims)
        titles = {str(check.reads): check.title for check in checks}
        text = "; ".join(titles.get(name, name.replace("-", " ")) for name in missing)
        raise Invalid("bench.ready-check-open", missing=text, field="confirmed")
    after = apply(before, event)
    run = station_run(
        session, actor, specimen, station, now, {} if ready is None else ready.reasons
    )
    run.checks = _checks_of(after, actor)
    run.settings = with_departed(run.settings, after.departed)
    session.add(run)
    end_period(specimen, now)
    lease = new_lease()
    station.leased_by, station.leased_until = lease, now + LEASE
    try:
        session.flush()
    except IntegrityError as error:
        raise Conflict("bench.in-use", station=station.name, code=specimen.code) from error
    write_event(session, specimen.id, event, actor=actor, station_id=station.id, run_id=run.id)
    record(
        session,
        person_id=actor.id,
        action="start-run",
        entity="run",
        entity_id=run.id,
        job_id=specimen.test.job_id,
        message=Message(
            "audit.start-run",
            {"actor": actor.name, "label": specimen.label, "station": station.name},
        ),
        after={"settings": run.settings, "checks": run.checks},
    )
    return run.id, lease


def with_departed(settings: dict[str, Any], departed: Sequence[Departed]) -> dict[str, Any]:
    """The settings of a run with the clocks and answers that were not kept, each once."""
    known = list(settings.get("deviations", []))
    seen = {(each["code"], each["says"]) for each in known}
    known += [
        deviation_of(each.departure, each.why).model_dump()
        for each in departed
        if (each.code, each.text) not in seen
    ]
    return settings | {"deviations": known}


def _readings_beside(specimen: Specimen, state: State, run: Run) -> dict[str, Any]:
    """The readings beside a recording; raises Invalid for one that was typed wrongly.

    A recording that ended too early to be computed is no reason to keep its specimen in the
    device: it is looked at, and voided.
    """
    try:
        return _readings(specimen, state, run)
    except Invalid as refusal:
        method = find_method(specimen.test.method)
        entry = procedure_of(method).readings(method, state) | age_reading(specimen)
        if refusal.field in entry:
            raise
        return entry


def _beside(run: Run, readings: dict[str, Any]) -> dict[str, Any]:
    """The readings beside a recording; what was observed of the run itself stays."""
    observed = (run.other_readings or {}).get("observations")
    return readings | ({"observations": observed} if observed else {})


def _readings(specimen: Specimen, state: State, run: Run | None) -> dict[str, Any]:
    """The readings of a specimen as its procedure makes them.

    Raises Invalid for values that its method cannot compute.
    """
    method = find_method(specimen.test.method)
    columns = columns_of(run) if run is not None else None
    entry = procedure_of(method).readings(method, state) | age_reading(specimen)
    recorded = {} if columns is None else recorded_entry(method, columns)
    alone = {"label": specimen.label} | own_facts(specimen) | recorded | entry
    document = read_document(
        {"method": method.id, "parameters": specimen.test.parameters, "specimens": [alone]}
    )
    analyse(document)
    return kept_form(document.readings[0], entry)


def _refuse_nonsense(specimen: Specimen, state: State) -> None:
    """Raises Invalid as soon as values recorded so far contradict one another.

    It is tried once nothing more is asked for, so that a mistake is named at once and not at the
    last action.
    """
    asks_more = any(
        act.asks or act.turns
        for act in state.actions
        if act.code not in state.done and not act.optional and state.asks_for(act)
    )
    if not asks_more and not any(act.records for act in state.actions):
        _readings(specimen, state, None)


def _typed_run(
    session: Session,
    actor: Actor,
    specimen: Specimen,
    state: State,
    station: Station | None,
    reasons: Mapping[str, str],
) -> Run:
    """The run of a test that no device recorded: its readings are the values at the bench."""
    now = clock.now()
    readings = _readings(specimen, state, None)
    packed, sha256 = pack_entry(readings)
    worn = worn_by(find_method(specimen.test.method), readings, specimen.test.parameters)
    settings = settings_at(session, actor, specimen, station, now, reasons, worn)
    run = Run(
        specimen=specimen,
        state="ended",
        busy_specimen_id=specimen.id,
        station_id=None if station is None else station.id,
        instrument_id=None if station is None else station.instrument_id,
        settings=with_departed(settings.model_dump(mode="json"), state.departed),
        checks=_checks_of(state, actor),
        source_notes=[],
        started_at=now,
        ended_at=now,
        end_reason="read at the bench",
        by_id=actor.id,
        samples=0,
        entry=packed,
        sha256=sha256,
    )
    session.add(run)
    end_period(specimen, now)
    session.flush()
    return run


def _checks_of(state: State, actor: Actor) -> list[dict[str, Any]]:
    """The items that were confirmed or answered, each with its answer."""
    return [
        CheckFacts(code=code, title=title, says=_answered(act, state), by=actor.name).model_dump()
        for act in state.actions
        for code, title in act.confirms.items()
        if act.code in state.done
    ]


def _answered(act: Action, state: State) -> str:
    answers = [
        f"{ask.title} {state.facts[ask.name]} {ask.unit}".strip()
        for ask in act.asks
        if ask.name in state.facts
    ]
    return ", ".join(answers) or "confirmed by the operator"
