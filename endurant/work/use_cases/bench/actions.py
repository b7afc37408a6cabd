"""What is done at the bench: one action after the other, and a view of where the specimen stands.

An action names the number of the last event that its sender saw: an action on an older state is
refused, and nothing happens twice. All that could refuse an action is asked before the device is
told, and the station is locked until the action is written down. A recording is written down first,
and then carried.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.bench.actions import GO, NOTED, REASON, UNDONE_BY, Action
from endurant.core.bench.engine import (
    RAN_THROUGH,
    apply,
    can_be_taken_back,
    departures_of,
    held_by_clock,
    ran_through,
    replay,
)
from endurant.core.bench.events import Event, OutOfOrder
from endurant.core.bench.procedure import refuse_values
from endurant.core.bench.procedures import procedure_of
from endurant.core.bench.state import State, turn_of
from endurant.core.bench.status import Status
from endurant.core.departures import in_sentences
from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.refusals import Conflict, Invalid, NeedsReason
from endurant.devices.driver import LineLost
from endurant.devices.indicator import LineIndicator
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.engine import open_session
from endurant.store.tables import BenchEvent, Specimen, Station
from endurant.work.base.actors import Actor
from endurant.work.base.read_scope import looking
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import committed, transaction
from endurant.work.facts.bench_events import (
    EARLY,
    aims_for,
    begun,
    events_of,
    state_after,
)
from endurant.work.facts.readiness import (
    UNLOAD,
    Readiness,
    readiness_of,
    reasons_for,
)
from endurant.work.facts.set_up_at_station import limits_of
from endurant.work.facts.status import (
    last_run,
    open_void,
    specimen_or_refuse,
    specimen_with_job,
)
from endurant.work.use_cases.bench.accepting import accept
from endurant.work.use_cases.bench.device_readings import question_of, shown_by
from endurant.work.use_cases.bench.entries import (
    given_at_first,
    is_unchanged,
    keep_bare_diaphragm,
    note_values,
    unload,
    write_reason,
)
from endurant.work.use_cases.bench.live import carry_in_background
from endurant.work.use_cases.bench.runs import refuse_unfit, stop
from endurant.work.use_cases.bench.station_holder import station_for
from endurant.work.use_cases.bench.stations import device_of, stations_for, status_of
from endurant.work.use_cases.bench.writing import start_recording, write_act
from endurant.work.use_cases.bench_record.events import write_event
from endurant.work.use_cases.people.staff import refuse_unauthorised
from endurant.work.views.bench.models import BenchView
from endurant.work.views.bench.page import bench_view
from endurant.work.views.stations import has_line

MAX_VALUES = 40
BARE = "bare"
TOLD_WITH: Mapping[str, tuple[str, ...]] = {
    "prepare": ("gauge_mm", "speed_mm_min", "force_limit_n"),
    "pretension": ("pretension_n",),
    "zero": ("limit_mm",),
    "bare": ("pump_rate_ml_min",),
}
"""What a recorder is told of its set-up with each action."""


class ActionRequest(RequestBody):
    """One action; `seen` is the number of the last event that its sender saw, 0 before any.

    `confirmed` are the codes that the person vouches for, `values` what the action asks for, `read`
    the serial numbers of what they were read off, by value;
    `deviation` names why a rule of the preparation was not kept.
    """

    act: str = Field(max_length=40)
    seen: int = Field(ge=0, le=100_000)
    station_id: int | None = None
    confirmed: list[str] = Field(default_factory=list, max_length=MAX_VALUES)
    values: dict[str, float | str | None] = Field(default_factory=dict, max_length=MAX_VALUES)
    read: dict[str, str] = Field(default_factory=dict, max_length=MAX_VALUES)
    deviation: str | None = Field(None, max_length=300)
    request_key: str | None = Field(None, max_length=64)


def look(specimen_id: int, station_id: int | None = None) -> BenchView:
    """Where a specimen stands, and the one thing to do next. Raises NotFound."""
    with open_session() as session:
        return _look(session, specimen_with_job(session, specimen_id), station_id)


def _look(session: Session, specimen: Specimen, station_id: int | None) -> BenchView:
    """The bench of a specimen of this session.

    No connection to the database is held while a device is asked what it reads.
    """
    stations = stations_for(session, find_method(specimen.test.method))
    run = last_run(specimen)
    own = (run.station_id if run else None) or station_id
    station = next((row for row in stations if row.id == own), next(iter(stations), None))
    session.commit()
    status, message = status_of(station)
    with looking(session):
        view = bench_view(session, specimen, stations, station, status, message)
        question = None if status is None else question_of(session, specimen, station, view.step)
    session.commit()
    return view if question is None else view.model_copy(update={"shows": shown_by(question)})


def act(actor: Actor, specimen_id: int, request: ActionRequest) -> BenchView:
    """Do one thing.

    Raises OutOfOrder, Conflict for whoever acts on an older state, Invalid for a value that is
    none, Unavailable when a device does not answer.
    """
    actor.must("test")
    if request.act in ("keep", "stop"):
        _settle(actor, specimen_id, request.act)
        return look(specimen_id, request.station_id)
    with open_session() as session:
        starts: tuple[int, str] | None = None
        with committed(session, cards_at_once=False):
            specimen = specimen_with_job(session, specimen_id, lock=True)
            happened = events_of(session, specimen_id)
            if not _is_repeated(happened, request):
                refuse_unauthorised(session, actor, specimen.test.method)
                starts = _do(session, actor, specimen, happened, request)
        if starts is not None:
            carry_in_background(*starts)
        return _look(session, specimen, request.station_id)


def _do(
    session: Session,
    actor: Actor,
    specimen: Specimen,
    happened: list[Event],
    request: ActionRequest,
) -> tuple[int, str] | None:
    """One thing; the run and the lease of a recording that it starts."""
    state = _open_state(specimen, happened, request)
    station = None if request.station_id is None else session.get(Station, request.station_id)
    if request.act == NOTED:
        note_values(session, actor, specimen, state, station, request.values)
    elif request.act == REASON:
        departed = readiness_of(session, specimen, station, state).departed
        if not departed:
            raise Conflict("bench.no-reason-needed", code=specimen.code)
        why = str(request.values.get("why") or request.deviation or "")
        write_reason(session, actor, specimen, state, departed, why)
    elif request.act == UNLOAD:
        for out in unload(session, actor, specimen, state, station, request.confirmed):
            _tell(station, out, {})
    else:
        return _do_step(session, actor, specimen, state, happened, request)
    return None


def _do_step(
    session: Session,
    actor: Actor,
    specimen: Specimen,
    state: State,
    happened: list[Event],
    request: ActionRequest,
) -> tuple[int, str] | None:
    """One action of the procedure; the run and the lease of a recording that it starts.

    All that could refuse it is asked before the device is told anything.
    """
    requested = _requested(state, request.act)
    station = station_for(session, specimen, request.station_id, requested, request.deviation)
    state, ready = _made_ready(session, actor, specimen, state, request, requested, station)
    event = _event_of(request, actor, state, requested, specimen)
    held = held_by_clock(state, requested, event.at)
    if held and ran_through(state, requested, status_of(station)[0]):
        event = replace(event, facts={**event.facts, RAN_THROUGH: True})
    after = apply(state, event)
    _refuse_without_reason(state, requested, event, after.facts, request)
    method = find_method(specimen.test.method)
    refuse_values(method, after.facts)
    aims = aims_for(specimen, happened)
    notified = _sent(state, requested, request.act)
    setup = procedure_of(method).setup(method, aims) | turn_setup(state, requested)
    if station is not None:
        setup |= limits_of(station, setup)
    status = _tell(station, notified, setup)
    if requested.code == BARE and status is not None:
        keep_bare_diaphragm(session, actor, specimen.test, status)
    if requested.records and station is not None:
        return start_recording(session, actor, specimen, station, state, event, status, aims, ready)
    reasons = reasons_for(session, specimen, state) if ready is None else ready.reasons
    write_act(session, actor, specimen, state, event, requested, station, status, reasons)
    return None


def _requested(state: State, code: str) -> Action:
    """The action that is asked for; the start of a rig belongs to the series that follows it."""
    return state.act(code.removeprefix(GO) if code.startswith(GO) else code)


def _sent(state: State, requested: Action, code: str) -> Action:
    """What the device is told: a rig starts before a turn, and stops for it."""
    if code.startswith(GO):
        return replace(requested, tells="start")
    turn = turn_of(state, requested)
    return replace(requested, tells="stop") if turn is not None and turn.goes else requested


def turn_setup(state: State, requested: Action) -> dict[str, float | str]:
    """The count or the seconds that a rig is set to for the next turn."""
    turn = turn_of(state, requested)
    if turn is None or turn.goes is None:
        return {}
    counts = turn.goes.counts
    set_to: dict[str, float | str] = {"run_s": turn.goes.seconds}
    return set_to if counts is None else set_to | {"preset_count": counts}


def _made_ready(
    session: Session,
    actor: Actor,
    specimen: Specimen,
    state: State,
    request: ActionRequest,
    requested: Action,
    station: Station | None,
) -> tuple[State, Readiness | None]:
    """The state with the reasons given; raises what stands in the way of a first action.

    Nothing is asked of a safety act, of one that comes before conditioning, or once a recording
    has begun.
    """
    if state.phase != "before" or requested.safety or requested.early:
        return state, None
    ready = readiness_of(session, specimen, station, state)
    if ready.loaded is not None and requested.moves:
        raise Conflict("bench.specimen-in-device", code=ready.loaded.code)
    for missing in ready.missing:
        raise Invalid(
            "bench.value-needed",
            label=specimen.label,
            missing=missing.text,
            field=missing.name,
            specimen=specimen.label,
        )
    if not ready.departed:
        return state, ready
    if not request.deviation:
        raise NeedsReason(
            "bench.departed-wait",
            departures=in_sentences(ready.departed),
            specimen=specimen.label,
        )
    after = write_reason(session, actor, specimen, state, ready.departed, request.deviation)
    return after, replace(ready, departed=[], reasons={**ready.reasons, **after.reasons})


def _refuse_without_reason(
    state: State, requested: Action, event: Event, facts: Mapping[str, Any], request: ActionRequest
) -> None:
    """Raises NeedsReason for a clock cut short, answers off a rule, or a second grade."""
    if request.deviation:
        return
    held = ""
    if not event.kind.startswith(GO) and not event.facts.get(RAN_THROUGH):
        held = held_by_clock(state, requested, event.at)
    if held:
        raise NeedsReason("bench.held", rule=held)
    departed = departures_of(requested, facts)
    if departed:
        raise NeedsReason(
            "bench.departed-correct", departures=in_sentences(departed), specimen=state.label
        )
    if requested.blind and event.by in state.people.get(requested.code, ()):
        raise NeedsReason("bench.same-assessor", assessor=event.by, label=state.label)


def take_back(actor: Actor, specimen_id: int, number: int, seen: int) -> BenchView:
    """A slip of the hand is taken back: the event stays, and another one makes it count no more.

    Raises Conflict for what a device did, or what later actions are built on.
    """
    actor.must("test")
    with transaction() as session:
        specimen = specimen_with_job(session, specimen_id, lock=True)
        happened = events_of(session, specimen_id)
        _refuse_unseen(happened, seen)
        named = next((event for event in happened if event.number == number), None)
        if named is None or not named.by or named.undoes is not None:
            raise Conflict("bench.nothing-to-undo", code=specimen.code, number=number)
        state = begun(specimen, happened)
        undone = state.act(named.kind)
        if not can_be_taken_back(undone):
            raise OutOfOrder("bench.device-not-undone", event=named.kind)
        if _run_settled(specimen):
            raise Conflict("specimen.decided", code=specimen.code)
        event = Event(
            happened[-1].number + 1, "taken-back", clock.now(), actor.name, {}, undoes=number
        )
        replay(state, [*happened, event])
        if undone.tells:
            station = _station_of(session, specimen_id, number)
            _tell(station, replace(undone, tells=UNDONE_BY[undone.tells]), {})
        write_event(session, specimen_id, event, actor=actor)
        record(
            session,
            person_id=actor.id,
            action="take-back",
            entity="specimen",
            entity_id=specimen.id,
            job_id=specimen.test.job_id,
            message=Message(
                "audit.take-back",
                {
                    "actor": actor.name,
                    "action": undone.title.format(label=specimen.label),
                    "label": specimen.label,
                },
            ),
        )
    return look(specimen_id)


def _station_of(session: Session, specimen_id: int, number: int) -> Station | None:
    """The station at which an action was done."""
    own = select(BenchEvent.station_id).where(
        BenchEvent.specimen_id == specimen_id, BenchEvent.number == number
    )
    station_id = session.scalar(own)
    return None if station_id is None else session.get(Station, station_id)


def _settle(actor: Actor, specimen_id: int, requested: str) -> None:
    with transaction() as session:
        specimen = specimen_or_refuse(session, specimen_id)
        run = last_run(specimen)
        if run is None:
            raise OutOfOrder("bench.not-tested", code=specimen.code)
        run_id = run.id
    if requested == "keep":
        accept(actor, run_id)
    else:
        stop(actor, run_id)


def _open_state(specimen: Specimen, happened: list[Event], request: ActionRequest) -> State:
    """The state that an action builds on; raises Conflict where nothing can be done any more."""
    run = last_run(specimen)
    if run is None or run.state == "settled" or open_void(specimen):
        refuse_unfit(specimen, clock.now())
    _refuse_unseen(happened, request.seen)
    if run is not None and not happened:
        raise Conflict("specimen.imported", code=specimen.code)
    return state_after(specimen, happened)


def _refuse_unseen(happened: list[Event], seen: int) -> None:
    last = happened[-1] if happened else None
    number = last.number if last else 0
    if seen == number:
        return
    if last is None or seen > number:
        raise Conflict("bench.actions-unseen", seen=seen, number=number)
    who = last.by or "the device"
    raise Conflict("bench.changed-since", who=who, at=last.at, event=last.kind)


def _is_repeated(happened: list[Event], request: ActionRequest) -> bool:
    """True when this very request has been written down already."""
    return request.request_key is not None and any(
        event.facts.get("request_key") == request.request_key for event in happened
    )


def _event_of(
    request: ActionRequest, actor: Actor, state: State, requested: Action, specimen: Specimen
) -> Event:
    facts: dict[str, Any] = {k: v for k, v in request.values.items() if v is not None}
    if request.confirmed:
        facts["confirmed"] = request.confirmed
    if request.read:
        facts["read"] = request.read
    if request.request_key:
        facts["request_key"] = request.request_key
    if request.deviation:
        facts["why"] = request.deviation
    turn = turn_of(state, requested)
    if turn is not None and turn.sets:
        facts["set"] = dict(turn.sets)
    if requested.early and is_unchanged(state):
        return Event(state.last + 1, request.act, clock.now(), actor.name, {**facts, EARLY: True})
    if state.folded and is_unchanged(state):
        facts["folded"] = True
    facts |= given_at_first(state, specimen)
    return Event(state.last + 1, request.act, clock.now(), actor.name, facts)


def _tell(
    station: Station | None, requested: Action, setup: Mapping[str, float | str]
) -> Status | None:
    """Tell the device what the action tells it; what it then reports of itself.

    One that records nothing and does not answer holds nobody up: a person does it by hand. Raises
    DeviceRefused where it says no.
    """
    if station is None or not has_line(station):
        return None
    device = device_of(station)
    if isinstance(device, LineIndicator):
        try:
            return device.do(requested.tells, **setup) if requested.tells else None
        except LineLost:
            return None
    named = {name: setup[name] for name in TOLD_WITH.get(requested.tells, ()) if name in setup}
    if requested.tells:
        return device.do(requested.tells, **named)
    return device.status() if requested.records else None


def _run_settled(specimen: Specimen) -> bool:
    run = last_run(specimen)
    return run is not None and run.state == "settled"
