"""What is done at the bench: one act after the other, and a view of where the specimen stands.

An act names the number of the last event that its sender saw. Whoever acts on an older state is
told, and nothing happens twice. All that could refuse an act is asked before the device is told,
and the station is locked until the act is written down. A recording is written down first, and
then carried.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime
from typing import Any

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from endurant.core.bench.events import Event, OutOfOrder
from endurant.core.bench.picture import SETS_ONLY, refuse_values
from endurant.core.bench.pictures import picture_of
from endurant.core.bench.procedure import (
    Act,
    State,
    apply,
    replay,
    turn_of,
    unticked,
)
from endurant.core.bench.recorded import recorded_entry
from endurant.core.bench.rig import lacks_load
from endurant.core.bench.status import Status
from endurant.core.bench.trace import lacks_moves
from endurant.core.document import analyse, read_document
from endurant.core.methods import find_method
from endurant.core.refusals import Conflict, Invalid, NotFound
from endurant.devices.driver import LineLost
from endurant.devices.indicator import LineIndicator
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.samples import pack_entry
from endurant.store.tables import Run, Specimen, Station, Test
from endurant.work.bench.bench_views import aims_of, bench_view
from endurant.work.bench.gauges_read import gauges_read
from endurant.work.bench.happenings import begun, events_of, write_event
from endurant.work.bench.holding import station_for
from endurant.work.bench.live import LEASE, carry_in_background, new_lease
from endurant.work.bench.runs import (
    end_stay,
    keep,
    refuse_unfit,
    settings_at,
    station_run,
    stop,
)
from endurant.work.bench.showing import question_of, shown_by
from endurant.work.bench.stations import device_of, has_line, stations_for, status_of
from endurant.work.bench.views import BenchView
from endurant.work.instruments.equipment import note
from endurant.work.instruments.supplies import worn_by
from endurant.work.jobs.settings import missing_set_up
from endurant.work.jobs.states import (
    last_run,
    specimen_or_refuse,
    specimen_with_job,
    standing_void,
)
from endurant.work.judging.results import columns_of, own_facts
from endurant.work.record.asked import Asked
from endurant.work.record.people import Actor
from endurant.work.record.run_facts import CheckFacts
from endurant.work.record.staff import refuse_unauthorised
from endurant.work.record.transactions import transaction

MOST_VALUES = 40


class ActAsked(Asked):
    """One act; `seen` is the number of the last event that its sender saw, 0 before any.

    `confirmed` are the codes that the person vouches for, `values` what the act asks for, `read`
    the serial numbers of what they were read off, by value;
    `deviation` names why a rule of the preparation was not kept.
    """

    act: str = Field(max_length=40)
    seen: int = Field(ge=0, le=100_000)
    station_id: int | None = None
    confirmed: list[str] = Field(default_factory=list, max_length=MOST_VALUES)
    values: dict[str, float | str | None] = Field(default_factory=dict, max_length=MOST_VALUES)
    read: dict[str, str] = Field(default_factory=dict, max_length=MOST_VALUES)
    deviation: str | None = Field(None, max_length=300)
    request_key: str | None = Field(None, max_length=64)


def look(specimen_id: int, station_id: int | None = None) -> BenchView:
    """Where a specimen stands, and the one thing to do next. Raises NotFound."""
    with transaction() as session:
        method = session.scalar(
            select(Test.method)
            .join(Specimen, Specimen.test_id == Test.id)
            .where(Specimen.id == specimen_id)
        )
        if method is None:
            raise NotFound(f"there is no specimen with id {specimen_id}")
        stations = stations_for(session, find_method(method))
        ran_at = session.scalar(
            select(Run.station_id)
            .where(Run.specimen_id == specimen_id, Run.state != "abandoned")
            .order_by(Run.id.desc())
            .limit(1)
        )
        own = ran_at or station_id
        chosen = next((row for row in stations if row.id == own), None) or next(
            iter(stations), None
        )
    status, says = status_of(chosen)
    with transaction() as session:
        specimen = specimen_with_job(session, specimen_id)
        view = bench_view(session, specimen, stations, chosen, status, says)
        question = None if status is None else question_of(session, specimen, chosen, view.step)
    return view if question is None else view.model_copy(update={"shows": shown_by(question)})


def act(actor: Actor, specimen_id: int, asked: ActAsked) -> BenchView:
    """Do one thing.

    Raises OutOfOrder, Conflict for whoever acts on an older state, Invalid for a value that is
    none, Unavailable when a device does not answer.
    """
    actor.must("test")
    if asked.act in ("keep", "stop"):
        _settle(actor, specimen_id, asked.act)
        return look(specimen_id, asked.station_id)
    if _is_repeated(specimen_id, asked):
        return look(specimen_id, asked.station_id)
    starts: tuple[int, str] | None = None
    with transaction() as session:
        specimen = specimen_with_job(session, specimen_id, lock=True)
        refuse_unauthorised(session, actor, specimen.test.method)
        state = _open_state(session, specimen, asked)
        wanted = state.act(asked.act)
        after = apply(state, _event_of(asked, actor, state))
        refuse_values(find_method(specimen.test.method), after.facts)
        station = station_for(session, specimen, asked.station_id, wanted, asked.deviation)
        method = find_method(specimen.test.method)
        status = _tell(station, wanted, picture_of(method).setup(method, specimen.test.parameters))
        if wanted.records and station is not None:
            starts = _start(session, actor, specimen, station, asked, state, status)
        else:
            _write(session, actor, specimen, asked, state, station, status)
    if starts is not None:
        carry_in_background(*starts)
    return look(specimen_id, asked.station_id)


def take_back(actor: Actor, specimen_id: int, number: int, seen: int) -> BenchView:
    """A slip of the hand is taken back: the event stays, and another one makes it count no more.

    Raises Conflict for what a device did, or what later acts are built on.
    """
    actor.must("test")
    with transaction() as session:
        specimen = specimen_with_job(session, specimen_id, lock=True)
        happened = events_of(session, specimen_id)
        _refuse_unseen(happened, seen)
        named = next((event for event in happened if event.number == number), None)
        if named is None or not named.by or named.takes_back is not None:
            raise Conflict(f"{specimen.code} has no act number {number} that can be taken back")
        state = begun(specimen, happened)
        undone = state.act(named.kind)
        if undone.tells or undone.records or undone.resumes:
            raise OutOfOrder(f"{named.kind} was done by a device, and cannot be taken back")
        if _run_settled(specimen):
            raise Conflict(f"{specimen.code} was kept or voided already")
        event = Event(
            happened[-1].number + 1, "taken-back", clock.now(), actor.name, {}, takes_back=number
        )
        replay(state, [*happened, event])
        write_event(session, specimen_id, event, actor=actor)
        record(
            session,
            person_id=actor.id,
            action="take-back",
            entity="specimen",
            entity_id=specimen.id,
            job_id=specimen.test.job_id,
            words=f"{actor.name} took back {undone.code} of {specimen.label}",
        )
    return look(specimen_id)


def _settle(actor: Actor, specimen_id: int, wanted: str) -> None:
    with transaction() as session:
        specimen = specimen_or_refuse(session, specimen_id)
        run = last_run(specimen)
        if run is None:
            raise OutOfOrder(f"{specimen.code} was not tested yet")
        run_id = run.id
    if wanted == "keep":
        keep(actor, run_id)
    else:
        stop(actor, run_id)


def _open_state(session: Session, specimen: Specimen, asked: ActAsked) -> State:
    """The state that an act builds on; raises Conflict where nothing can be done any more."""
    for name in missing_set_up(specimen.test):
        raise Conflict(f"set-up: {name} is missing; set the test up before its first specimen")
    if lacks_moves(find_method(specimen.test.method), specimen.test.parameters):
        raise Conflict(
            "set-up: what the frame goes to is missing; name it in the test, or choose a sequence "
            "of moves"
        )
    lacking = lacks_load(find_method(specimen.test.method), specimen.test.parameters)
    if lacking:
        raise Conflict(f"set-up: {lacking} is missing; the rig would not know where to go")
    run = last_run(specimen)
    if run is None or run.state == "settled" or standing_void(specimen):
        refuse_unfit(specimen, clock.now())
    happened = events_of(session, specimen.id)
    _refuse_unseen(happened, asked.seen)
    if run is not None and not happened:
        raise Conflict(f"{specimen.code} was brought in already; keep or void it")
    return replay(begun(specimen, happened), happened)


def _refuse_unseen(happened: list[Event], seen: int) -> None:
    last = happened[-1] if happened else None
    number = last.number if last else 0
    if seen == number:
        return
    if last is None or seen > number:
        raise Conflict(f"seen is {seen}, but {number} acts were done here; look at it again")
    who = last.by or "the device"
    raise Conflict(
        f"{who} was at this specimen at {last.at:%H:%M:%S} UTC ({last.kind}), after you looked; "
        "look at it again, then do what is next"
    )


def _is_repeated(specimen_id: int, asked: ActAsked) -> bool:
    """True when this very request has been written down already."""
    if asked.request_key is None:
        return False
    with transaction() as session:
        return any(
            event.facts.get("request_key") == asked.request_key
            for event in events_of(session, specimen_id)
        )


def _event_of(asked: ActAsked, actor: Actor, state: State, now: datetime | None = None) -> Event:
    facts: dict[str, Any] = {k: v for k, v in asked.values.items() if v is not None}
    if asked.confirmed:
        facts["confirmed"] = asked.confirmed
    if asked.read:
        facts["read"] = asked.read
    if asked.request_key:
        facts["request_key"] = asked.request_key
    if asked.deviation:
        facts["why"] = asked.deviation
    turn = next((turn_of(state, act) for act in state.acts if act.code == asked.act), None)
    if turn is not None and turn.sets:
        facts["set"] = dict(turn.sets)
    if state.folded and asked.seen == 0:
        facts["folded"] = True
    return Event(asked.seen + 1, asked.act, now or clock.now(), actor.name, facts)


def _tell(station: Station | None, wanted: Act, setup: Mapping[str, float | str]) -> Status | None:
    """Tell the device what the act tells it; what it then reports of itself.

    One that records nothing and does not answer holds nobody up: a person does it by hand. Raises
    DeviceRefused where it says no.
    """
    if station is None or not has_line(station):
        return None
    device = device_of(station)
    if isinstance(device, LineIndicator):
        try:
            return device.do(wanted.tells, **setup) if wanted.tells else None
        except LineLost:
            return None
    if wanted.tells == "prepare":
        names = ("gauge_mm", "speed_mm_min")
        return device.do("prepare", **{name: setup[name] for name in names if name in setup})
    if wanted.tells:
        return device.do(wanted.tells)
    return device.status() if wanted.records else None


def _write(
    session: Session,
    actor: Actor,
    specimen: Specimen,
    asked: ActAsked,
    state: State,
    station: Station | None,
    status: Status | None,
) -> None:
    """Write an act down; the last one of a test makes its readings count as read."""
    event = _event_of(asked, actor, state)
    if status is not None and _reports(state, asked.act):
        event = replace(event, facts={**event.facts, "device": dict(status.facts)})
    after = apply(state, event)
    run = last_run(specimen)
    completes = after.phase == "complete" and state.phase != "complete"
    if not completes and after.facts != state.facts:
        _refuse_nonsense(specimen, after)
    if completes and run is None:
        run = _typed_run(session, actor, specimen, after, station, asked.deviation)
    elif completes and run is not None:
        read = _readings(specimen, after, run)
        run.beside = read or None
        run.state = "ended"
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
    log = state.act(asked.act).logs
    if log and station is not None:
        note(session, actor, station.instrument.serial, log, f"after {specimen.code}")
    record(
        session,
        person_id=actor.id,
        action="bench-act",
        entity="specimen",
        entity_id=specimen.id,
        job_id=None,
        words=f"{actor.name}, {specimen.label}: {state.act(asked.act).code}",
        after={"number": event.number, "facts": dict(event.facts)},
    )


def _reports(state: State, act: str) -> bool:
    """What the device reported as it did this act is kept with it: a rig's temperatures, a fan."""
    return state.act(act).tells not in SETS_ONLY


def _readings(specimen: Specimen, state: State, run: Run | None) -> dict[str, Any]:
    """The readings of a specimen as its picture makes them.

    Raises Invalid for values that its method cannot compute.
    """
    method = find_method(specimen.test.method)
    columns = columns_of(run) if run is not None else None
    entry = picture_of(method).readings(state, columns)
    recorded = {} if columns is None else recorded_entry(method, columns)
    alone = {"label": specimen.label} | own_facts(specimen) | recorded | entry
    document = {
        "method": method.id,
        "parameters": specimen.test.parameters,
        "specimens": [alone],
    }
    analyse(read_document(document))
    return entry


def _refuse_nonsense(specimen: Specimen, state: State) -> None:
    """Raises Invalid as soon as what was written down so far cannot go together.

    It is tried once nothing more is asked for, so that nobody learns at the last act what was
    wrong with an earlier one.
    """
    asks_more = any(
        act.asks or act.turns
        for act in state.acts
        if act.code not in state.done and not act.optional
    )
    if not asks_more and not any(act.records for act in state.acts):
        _readings(specimen, state, None)


def _typed_run(
    session: Session,
    actor: Actor,
    specimen: Specimen,
    state: State,
    station: Station | None,
    deviation: str | None,
) -> Run:
    """The run of a test that no device recorded: its readings are what was written down."""
    now = clock.now()
    readings = _readings(specimen, state, None)
    packed, sha256 = pack_entry(readings)
    worn = worn_by(find_method(specimen.test.method), readings, specimen.test.parameters)
    settings = settings_at(session, actor, specimen, station, now, deviation, worn)
    run = Run(
        specimen=specimen,
        state="ended",
        busy_specimen_id=specimen.id,
        station_id=None if station is None else station.id,
        instrument_id=None if station is None else station.instrument_id,
        settings=settings.model_dump(mode="json"),
        checks=_checks_of(state, actor),
        source_said=list(state.remarks),
        started_at=now,
        ended_at=now,
        end_reason="read at the bench",
        by_id=actor.id,
        samples=0,
        entry=packed,
        sha256=sha256,
    )
    session.add(run)
    end_stay(specimen, now)
    session.flush()
    return run


def _checks_of(state: State, actor: Actor) -> list[dict[str, Any]]:
    return [
        CheckFacts(code=code, title=title, says="confirmed by hand", by=actor.name).model_dump()
        for act in state.acts
        for code, title in act.confirms.items()
        if act.code in state.done
    ]


def _start(
    session: Session,
    actor: Actor,
    specimen: Specimen,
    station: Station,
    asked: ActAsked,
    before: State,
    status: Status | None,
) -> tuple[int, str]:
    """Write down that a recording starts; the run and the lease that it is carried with."""
    now = clock.now()
    method = find_method(specimen.test.method)
    missing = unticked(before, status, aims_of(method, specimen.test))
    if missing:
        titles = {str(check.reads): check.title for check in method.guide.ready_checks}
        words = "; ".join(titles[name] for name in missing)
        raise Invalid(f"the ready check is not done: {words}", field="confirmed")
    event = _event_of(asked, actor, before, now)
    run = station_run(session, actor, specimen, station, now, asked.deviation)
    run.checks = _checks_of(apply(before, event), actor)
    session.add(run)
    end_stay(specimen, now)
    lease = new_lease()
    station.leased_by, station.leased_until = lease, now + LEASE
    try:
        session.flush()
    except IntegrityError as error:
        raise Conflict(f"{station.name} or {specimen.code} is taken") from error
    write_event(session, specimen.id, event, actor=actor, station_id=station.id, run_id=run.id)
    record(
        session,
        person_id=actor.id,
        action="start-run",
        entity="run",
        entity_id=run.id,
        job_id=specimen.test.job_id,
        words=f"{actor.name} started {specimen.label} on {station.name}",
        after={"settings": run.settings, "checks": run.checks},
    )
    return run.id, lease


def _run_settled(specimen: Specimen) -> bool:
    run = last_run(specimen)
    return run is not None and run.state == "settled"
