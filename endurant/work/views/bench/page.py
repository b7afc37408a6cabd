"""What the bench shows of one specimen: everything that is needed to draw it and to act."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.bench.actions import GO, NOTED, REASON, Step
from endurant.core.bench.engine import can_be_taken_back
from endurant.core.bench.events import Event, in_force
from endurant.core.bench.next_steps import beside, next_step
from endurant.core.bench.procedure import Drawing
from endurant.core.bench.procedures import procedure_of
from endurant.core.bench.state import State, turn_of
from endurant.core.bench.status import Status
from endurant.core.bench.swing import scale_of
from endurant.core.bench.trace import moves_of, start_mm_of
from endurant.core.devices import device_kind
from endurant.core.field_names import title_and_unit
from endurant.core.messages import Message, worded
from endurant.core.methods import find_method
from endurant.core.methods.guide import Advice, FrameGuide, PressGuide, SeriesGuide
from endurant.core.methods.method import Method
from endurant.core.moves import path_of, text_of, title_of
from endurant.core.refusals import Conflict
from endurant.core.rounding import in_numbers
from endurant.store import clock
from endurant.store.tables import Gauge, Run, Specimen, Station, Test
from endurant.work.facts.bench_events import aims_for, events_of, state_after
from endurant.work.facts.called_specimens import called_specimens
from endurant.work.facts.consumables import reminders
from endurant.work.facts.instrument_status import current_checks, instrument_status
from endurant.work.facts.readiness import (
    UNLOAD,
    Readiness,
    readiness_of,
    step_before,
    unload_step,
)
from endurant.work.facts.results import document_of, noted_of, test_figures
from endurant.work.facts.set_up_at_station import aims_at, limits_of
from endurant.work.facts.station_holder import held_by_another
from endurant.work.facts.status import (
    is_to_cut,
    last_run,
    open_void,
    state_of,
)
from endurant.work.facts.test_settings import parameters_of, set_up_names
from endurant.work.views.bench.checks import (
    answer_in_words,
    check_views,
)
from endurant.work.views.bench.models import (
    AxisView,
    BenchClock,
    BenchView,
    DrawingView,
    EventView,
    FactView,
    PathPointView,
    PathView,
    ProposalView,
    ScaleView,
    SealWindowView,
    SensorView,
    SeriesView,
    StationChoice,
    StepView,
    UndoView,
)
from endurant.work.views.bench.suspicions import (
    suspicion_views,
)
from endurant.work.views.gauges import GaugeView, gauge_view
from endurant.work.views.stations import StationView, station_view

SHOWN_EVENTS = 40
OF_ROUND = ("round", "side", "state", "refurbishing")
"""What a round presets of the answers."""


def bench_view(
    session: Session,
    specimen: Specimen,
    stations: Sequence[Station],
    station: Station | None,
    status: Status | None,
    message: str,
) -> BenchView:
    """The view; `status` is what the station reports, `message` why it does not."""
    test = specimen.test
    method = find_method(test.method)
    procedure = procedure_of(method)
    events = events_of(session, specimen.id)
    aims = aims_for(specimen, events)
    state = state_after(specimen, events)
    run = last_run(specimen)
    device = None if station is None else station_view(session, station, status, message)
    waits = _waits(specimen, state, procedure.device, device)
    ready, out_of_service = (
        (None, None) if waits else _readiness(session, specimen, station, state, status)
    )
    waits = waits or out_of_service
    is_open = waits is None
    suspicions = suspicion_views(run, method, test)
    step = None
    if is_open:
        if run is not None and run.state == "ended" and state.phase != "complete":
            state = State(state.label, (), phase="complete", last=state.last)
        step = next_step(state, status, aims_at(method, aims, station))
        step = _what_stands_before(step, state, ready, station)
        if step.kind == "look" and suspicions:
            step = replace(step, kind="suspect")
        if step.kind == "watch" and run is not None and run.line == "lost":
            step = replace(
                step,
                why=f"{run.line_message}. The stored data is safe; the rest is requested again.",
                button="Close run with the stored data",
            )
    advice = _advice(method, specimen, state) if step is not None else Advice(())
    goes_on = step is not None and step.act not in (NOTED, REASON, UNLOAD)
    drawing = procedure.drawing(method, aims)
    scale = scale_of(method, test.parameters)
    return BenchView(
        specimen_id=specimen.id,
        test_id=test.id,
        label=specimen.label,
        procedure=method.guide.bench,
        phase=state.phase,
        last=state.last,
        figure_unit=method.properties_for(parameters_of(test))[0].unit,
        step=None if step is None else _with_presets(StepView.model_validate(step), advice, aims),
        also=[StepView.model_validate(each) for each in beside(state)] if goes_on else [],
        waits="" if waits is None else waits.text,
        waits_code=None if waits is None else waits.code,
        set_up=_set_up(method, aims, station),
        proposals=_proposals(method, advice),
        checks=check_views(method, state, status, (aims, aims_at(method, aims, station)), events),
        clocks=[
            BenchClock(
                code=running.timer.code,
                title=running.timer.title,
                kind=running.timer.kind,
                seconds=running.timer.seconds,
                since=running.since,
            )
            for running in state.clocks
        ],
        facts=_facts(state),
        remarks=[
            *state.remarks,
            *_holders(session, specimen, station, state),
            *(
                Message("remark.reason", {"why": why}).text
                for why in dict.fromkeys(state.reasons.values())
            ),
            *advice.text,
            *(_equipment(session, method, station, state) if is_open else []),
        ],
        events=_events(events),
        undo=_undo(state, events, run),
        noted=noted_of(specimen),
        suspicions=suspicions,
        drawing=None if drawing is None else _drawing(drawing),
        path=_path(method, test),
        sensors=_sensors(method),
        series=_series(method, state, is_set_up=ready is None or not ready.missing),
        scale=None if scale is None else ScaleView.model_validate(scale),
        seal_window=_seal_window(specimen),
        shows=[],
        gauges=_gauges(session, state),
        stations=[StationChoice(id=row.id, name=row.name) for row in stations],
        station=device,
        may_void=_may_void(specimen, state, run),
        may_bring_in=(
            step is not None and method.guide.bench == "trace" and state.phase == "before"
        ),
        run_id=run.id if run else None,
        run_state=run.state if run else None,
        now=clock.now(),
    )


def _may_void(specimen: Specimen, state: State, run: Run | None) -> bool:
    """Everything that was cut and is not void, but while a device records and after release."""
    is_recorded = state.phase == "recording" or (run is not None and run.state == "running")
    is_over = specimen.test.job.released_at is not None or open_void(specimen) is not None
    return not is_recorded and not is_over and not is_to_cut(specimen)


def _waits(
    specimen: Specimen, state: State, device: str | None, station: StationView | None
) -> Message | None:
    """Why nothing can be done with this specimen now; None when something can."""
    now = clock.now()
    reached = state_of(specimen, now)
    about = {"label": specimen.label}
    if specimen.test.job.released_at is not None:
        return Message("waits.released")
    if reached in ("void", "tested", "to-cut"):
        return Message(f"waits.{reached}", about)
    if reached in ("running", "to-look-at") or open_void(specimen):
        return None
    by_rule = find_method(specimen.test.method).guide.calls is not None
    if not by_rule and specimen.id not in {each.id for each in called_specimens(specimen.test)}:
        return Message("waits.spare", about)
    return None if device is None else _waits_for(device, station, state)


def _waits_for(device: str, station: StationView | None, state: State) -> Message | None:
    """Why nothing can be done at this station."""
    if station is None:
        return Message("waits.no-device", {"kind": device_kind(device).title.lower()})
    if not station.reachable:
        return Message("waits.no-answer", {"problem": station.text})
    if station.busy_run_id is not None and state.phase == "before":
        return Message("waits.busy", {"station": station.name})
    return None


def _holders(
    session: Session, specimen: Specimen, station: Station | None, state: State
) -> list[str]:
    """Who else has the station in hand, while this specimen is still made ready."""
    if station is None or state.phase != "before":
        return []
    holder = held_by_another(session, specimen, station)
    return [holder] if holder else []


def _advice(method: Method, specimen: Specimen, state: State) -> Advice:
    """What the specimens of this test that were kept say of this one."""
    if method.guide.advises is None or state.phase == "complete":
        return Advice(())
    entries = [
        entry
        for entry in document_of(specimen.test)["specimens"]
        if entry["label"] != specimen.label
    ]
    return method.guide.advises(specimen.test.parameters, entries, state.facts)


def _readiness(
    session: Session,
    specimen: Specimen,
    station: Station | None,
    state: State,
    status: Status | None,
) -> tuple[Readiness | None, Message | None]:
    """What stands before the first action; or why the instrument cannot be used."""
    if state.phase != "before" or last_run(specimen) is not None:
        return None, None
    try:
        return readiness_of(session, specimen, station, state, status), None
    except Conflict as refusal:
        return None, refusal.message


def _what_stands_before(
    step: Step, state: State, ready: Readiness | None, station: Station | None
) -> Step:
    """What has to be done before this step: an empty station, missing values, a reason."""
    if ready is None or step.kind != "do":
        return step
    act = state.act(step.act.removeprefix(GO))
    if act.early or act.safety:
        return step
    if ready.holds and station is not None and act.moves:
        return unload_step(ready.loaded, station)
    return step_before(ready, state) or step


def _with_presets(step: StepView, advice: Advice, aims: Mapping[str, Any]) -> StepView:
    """What the advice and the round preset of the answers stands there already."""
    presets = {**advice.presets, **{name: aims[name] for name in OF_ROUND if name in aims}}
    asks = [
        ask.model_copy(update={"preset": presets.get(ask.name, ask.preset)}) for ask in step.asks
    ]
    return step.model_copy(update={"asks": asks})


def _proposals(method: Method, advice: Advice) -> list[ProposalView]:
    """Set-up that the specimens so far propose in place of what is set."""
    return [
        ProposalView(
            name=name, title=title_and_unit(name)[0], unit=title_and_unit(name)[1], value=v
        )
        for name, v in advice.proposes.items()
        if name in set_up_names(method)
    ]


def _equipment(
    session: Session, method: Method, station: Station | None, state: State
) -> list[str]:
    """What is to be said of the instrument and of what wears out, before a specimen is begun."""
    if state.phase != "before":
        return []
    message = reminders(session, method, None if station is None else station.id)
    if station is None:
        return message
    row = station.instrument
    checks = current_checks(session, row.serial).get(row.serial, [])
    condition, why = instrument_status(row, checks, clock.now())
    if condition in ("out", "watch", "overdue"):
        message.append(f"{station.name}: {why}")
    return message


def _path(method: Method, test: Test) -> PathView | None:
    if not isinstance(method.guide.live, FrameGuide):
        return None
    moves = moves_of(method, test.parameters)
    if not moves:
        return None
    gauge_mm = start_mm_of(method.guide.live, test.parameters)
    return PathView(
        title=title_of(str(test.parameters.get("moves") or "")),
        moves=text_of(moves).split("\n"),
        points=[PathPointView.model_validate(point) for point in path_of(moves, gauge_mm)],
    )


def _series(method: Method, state: State, *, is_set_up: bool) -> list[SeriesView]:
    series = method.guide.live if isinstance(method.guide.live, SeriesGuide) else None
    views = []
    while series is not None:
        items = list(state.facts.get(series.reading, ()))
        is_hidden = series.blind and state.phase != "complete"
        views.append(
            SeriesView(
                code=series.code,
                reading=series.reading,
                due=_due(state, series.code) if is_set_up else None,
                items=[] if is_hidden else items,
                hidden=len(items) if is_hidden else 0,
            )
        )
        series = series.then
    return views


def _due(state: State, code: str) -> dict[str, str | float] | None:
    act = next((act for act in state.in_phase() if act.code == code), None)
    turn = None if act is None or code in state.done else turn_of(state, act)
    return None if turn is None else dict(turn.sets)


def _sensors(method: Method) -> list[SensorView]:
    live = method.guide.live
    rows = live.sensors if isinstance(live, PressGuide) else ()
    return [SensorView.model_validate(row) for row in rows]


def _seal_window(specimen: Specimen) -> SealWindowView | None:
    """The window of this direction from what counts so far; None before the first point."""
    figures, _ = test_figures(specimen.test)
    windows = figures.more.get("seal_window", []) if figures is not None else []
    for window in windows:
        if window["direction"] in (specimen.direction, None):
            return SealWindowView.model_validate(window)
    return None


def _gauges(session: Session, state: State) -> list[GaugeView]:
    """The gauges that an action of this test can be read off."""
    kinds = {ask.gauge for act in state.actions for ask in act.asks if ask.gauge}
    if not kinds:
        return []
    rows = session.scalars(select(Gauge).where(Gauge.kind.in_(kinds)).order_by(Gauge.id))
    return [gauge_view(row, clock.now()) for row in rows]


def _facts(state: State) -> list[FactView]:
    asks = {ask.name: ask for act in state.actions for ask in act.asks}
    return [
        FactView(
            name=name,
            title=asks[name].title,
            value=answer_in_words(value),
            unit=asks[name].unit,
        )
        for name, value in state.facts.items()
        if name in asks
    ]


def _events(events: Sequence[Event]) -> list[EventView]:
    gone = {event.undoes for event in events}
    return [
        EventView(
            number=event.number,
            kind=event.kind,
            at=event.at,
            by=event.by,
            taken_back=event.number in gone,
        )
        for event in events[-SHOWN_EVENTS:]
    ]


def _undo(state: State, events: Sequence[Event], run: Run | None) -> UndoView | None:
    """The last action that stands, unless a device did it or the specimen was kept."""
    stood = [event for event in in_force(events) if event.by]
    if not stood or (run is not None and run.state == "settled"):
        return None
    last = stood[-1]
    act = next((act for act in state.actions if act.code == last.kind), None)
    is_last = max(event.number for event in in_force(events)) == last.number
    if act is None or not can_be_taken_back(act) or not is_last:
        return None
    title = act.title.format(label=state.label)
    if act.turns is not None:
        title = f"{act.code} {len(state.facts.get(act.collects, ()))}"
    return UndoView(number=last.number, title=title)


def _drawing(drawing: Drawing) -> DrawingView:
    return DrawingView(
        x=AxisView.model_validate(drawing.x),
        y=AxisView.model_validate(drawing.y),
        reach=drawing.reach,
    )


def _set_up(method: Method, aims: Mapping[str, Any], station: Station | None) -> str:
    """What the station is set to, in a line."""
    parameters = aims
    setup = procedure_of(method).setup(method, parameters)
    if station is not None:
        setup |= limits_of(station, setup)
    wording = []
    if setup.get("test_kind") == "stiffness":
        full_n = float(setup["full_n"])
        if not full_n:
            return ""
        return worded(
            "step.datum-n-full-load-n",
            datum_n=in_numbers(float(setup["datum_n"])),
            full_n=in_numbers(full_n),
        )
    if "limit_mm" in setup:
        wording.append(worded("step.limit-mm", limit_mm=in_numbers(float(setup["limit_mm"]))))
    if "speed_mm_min" in setup:
        wording.append(f"{in_numbers(float(setup['speed_mm_min']))} mm/min")
    if "gauge_mm" in setup:
        wording.append(worded("step.jaws-mm-apart", gauge_mm=in_numbers(float(setup["gauge_mm"]))))
    if "force_limit_n" in setup:
        wording.append(
            worded("step.stops-at-n", force_limit_n=in_numbers(float(setup["force_limit_n"])))
        )
    if "pump_rate_ml_min" in setup:
        wording.append(f"{in_numbers(float(setup['pump_rate_ml_min']))} mL/min")
    wording += [
        worded("step.pendulum", setup=in_numbers(float(setup[name])), unit=unit)
        for name, unit in (("pendulum_j", "J"), ("capacity_j", "J"), ("capacity_n", "N"))
        if name in setup
    ]
    if "area_cm2" in setup:
        wording.append(f"{in_numbers(float(setup['area_cm2']))} cm²")
    return " · ".join(wording)
