"""Entries beside the actions: missing values, reasons, an empty station, a bare diaphragm."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import timedelta
from typing import Any

from sqlalchemy.orm import Session

from endurant.core.bench.actions import NOTED, REASON, Action
from endurant.core.bench.answers import answers_of
from endurant.core.bench.engine import apply
from endurant.core.bench.events import Event, in_force
from endurant.core.bench.procedure import holds_many, holds_numbers, refuse_values
from endurant.core.bench.state import State
from endurant.core.bench.status import Status
from endurant.core.departures import Departure
from endurant.core.measuring import check_readings
from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.refusals import Conflict, Invalid
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.tables import Specimen, Station, Test
from endurant.work.base.actors import Actor
from endurant.work.facts.bench_events import events_of, state_after
from endurant.work.facts.known_at_start import facts_at_first
from endurant.work.facts.readiness import AGE_H, readiness_of, unloading
from endurant.work.facts.status import last_run
from endurant.work.use_cases.amending.setting_up import change_set_up
from endurant.work.use_cases.bench_record.events import write_event

MAX_REASON = 300


def given_at_first(state: State, specimen: Specimen) -> dict[str, Any]:
    """What the first event of a specimen settles: its round, or what a pilot gives it."""
    given = facts_at_first(specimen) if is_unchanged(state) else {}
    return {"given": given} if given else {}


def is_unchanged(state: State) -> bool:
    """True before the first event of a test; what was done before conditioning is none."""
    early = sum(state.act(code).early for code in state.done)
    return state.phase == "before" and state.last == early


def note_values(
    session: Session,
    actor: Actor,
    specimen: Specimen,
    state: State,
    station: Station | None,
    values: Mapping[str, Any],
) -> None:
    """Keep values that were missing where they belong: set-up, sizes, age or readings.

    Raises Invalid for a value that is none, Conflict where nothing is missing.
    """
    missing = readiness_of(session, specimen, station, state).missing
    if not missing:
        raise Conflict("bench.nothing-missing", code=specimen.code)
    answers = answers_of([each.ask for each in missing], values)
    by_place: dict[str, dict[str, Any]] = {}
    for each in missing:
        if each.name in answers:
            by_place.setdefault(each.belongs, {})[each.name] = answers[each.name]
    if not by_place:
        raise Invalid("bench.enter-missing", missing=missing[0].text, field=missing[0].name)
    if "set-up" in by_place:
        request = _as_fields(specimen.test, by_place["set-up"])
        change_set_up(session, actor, specimen.test, request, "", missing=tuple(request))
    if "size" in by_place:
        _keep_sizes(session, actor, specimen, by_place["size"])
    if "age" in by_place:
        _keep_age(session, actor, specimen, by_place["age"])
    if "reading" in by_place:
        readings = by_place["reading"]
        refuse_values(find_method(specimen.test.method), readings)
        facts = {"values": readings} | given_at_first(state, specimen)
        _write(
            session, actor, specimen, Event(state.last + 1, NOTED, clock.now(), actor.name, facts)
        )


def write_reason(
    session: Session,
    actor: Actor,
    specimen: Specimen,
    state: State,
    departed: list[Departure],
    why: str,
) -> State:
    """Write a reason down beside the actions; the state after it. Raises Invalid without words."""
    text = why.strip()[:MAX_REASON]
    if not text:
        raise Invalid("bench.reason-empty", field="why")
    facts = {
        "codes": [each.code for each in departed],
        "says": [each.text for each in departed],
        "why": text,
    } | given_at_first(state, specimen)
    event = Event(state.last + 1, REASON, clock.now(), actor.name, facts)
    _write(session, actor, specimen, event, text)
    return apply(state, event)


def unload(
    session: Session,
    actor: Actor,
    specimen: Specimen,
    state: State,
    station: Station | None,
    confirmed: list[str],
) -> list[Action]:
    """Confirm the specimen of an earlier run out of a station; what the device is told of it.

    Raises Conflict where the station is not known, Invalid where it is not confirmed.
    """
    if station is None:
        raise Conflict("bench.no-device")
    if "removed" not in confirmed:
        raise Invalid("bench.removal-unconfirmed", field="confirmed")
    loaded = readiness_of(session, specimen, station, state).loaded
    if loaded is None:
        return unloading(specimen)
    happened = events_of(session, loaded.id)
    done = {event.kind for event in in_force(happened)}
    left = [act for act in unloading(loaded) if act.code not in done]
    for act in left:
        facts = {"confirmed": list(act.confirms)}
        event = Event(happened[-1].number + 1, act.code, clock.now(), actor.name, facts)
        happened.append(event)
        _write(session, actor, loaded, event)
    run = last_run(loaded)
    if run is not None and run.state == "recorded":
        is_complete = state_after(loaded, happened).phase == "complete"
        run.state = "ended" if is_complete else run.state
    return left


def keep_bare_diaphragm(session: Session, actor: Actor, test: Test, status: Status) -> None:
    """The pressure of the bare diaphragm over its height becomes set-up of the test."""
    table = [
        [float(height), float(pressure)]
        for height, _, pressure in (
            row.partition(":") for row in str(status.facts.get("diaphragm", "")).split(",") if row
        )
    ]
    if not table:
        raise Conflict("burst.no-bare-pressure")
    change_set_up(session, actor, test, {"diaphragm": table}, "run of the bare diaphragm")


def _write(
    session: Session, actor: Actor, specimen: Specimen, event: Event, why: str | None = None
) -> None:
    write_event(session, specimen.id, event, actor=actor)
    code = {NOTED: "audit.bench-values", REASON: "audit.bench-reason"}.get(
        event.kind, "audit.bench-act"
    )
    about = {"actor": actor.name, "label": specimen.label, "action": event.kind.replace("-", " ")}
    message = Message(code, about)
    record(
        session,
        person_id=actor.id,
        action="bench-note",
        entity="specimen",
        entity_id=specimen.id,
        job_id=specimen.test.job_id,
        message=message.within("audit.with-reason", why=why) if why else message,
        after={"number": event.number, "facts": dict(event.facts)},
        why=why,
    )


def _as_fields(test: Test, answers: Mapping[str, Any]) -> dict[str, Any]:
    """Answers as the parameters hold them: words of a list are parted by spaces."""
    fields = find_method(test.method).parameters.model_fields
    return {
        name: value.split()
        if isinstance(value, str)
        and holds_many(fields[name].annotation)
        and not holds_numbers(fields[name].annotation)
        else value
        for name, value in answers.items()
    }


def _keep_sizes(
    session: Session, actor: Actor, specimen: Specimen, sizes: Mapping[str, list[float]]
) -> None:
    for field, readings in sizes.items():
        check_readings(readings, specimen.label, field)
    before = specimen.dimensions
    specimen.dimensions = {**(before or {}), **sizes}
    specimen.measured_at = clock.now()
    specimen.revision += 1
    session.flush()
    listed = "; ".join(
        f"{name} {', '.join(f'{each:g}' for each in values)}" for name, values in sizes.items()
    )
    record(
        session,
        person_id=actor.id,
        action="measure",
        entity="specimen",
        entity_id=specimen.id,
        job_id=specimen.test.job_id,
        message=Message(
            "audit.measure-at-bench",
            {"actor": actor.name, "label": specimen.label, "listed": listed},
        ),
        before={"dimensions": before},
        after={"dimensions": specimen.dimensions},
    )


def _keep_age(
    session: Session, actor: Actor, specimen: Specimen, ages: Mapping[str, float]
) -> None:
    """The moment of the event, for every specimen of the test."""
    test = specimen.test
    made_at = clock.now() - timedelta(hours=float(ages[AGE_H]))
    before = test.preparation
    test.preparation = {**(before or {}), "made_at": made_at.isoformat()}
    test.revision += 1
    session.flush()
    age = find_method(test.method).guide.age
    record(
        session,
        person_id=actor.id,
        action="prepare",
        entity="test",
        entity_id=test.id,
        job_id=test.job_id,
        message=Message(
            "audit.age",
            {"actor": actor.name, "event": age.event if age else "the age", "made_at": made_at},
        ),
        before={"preparation": before},
        after={"preparation": test.preparation},
    )
