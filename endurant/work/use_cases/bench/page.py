"""What the bench shows of one specimen: everything that is needed to draw it and to act."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.bench.events import Event, standing
from endurant.core.bench.picture import Drawing, checks_of
from endurant.core.bench.pictures import picture_of
from endurant.core.bench.procedure import (
    GO,
    NOTED,
    REASON,
    Action,
    State,
    Step,
    beside,
    can_be_taken_back,
    next_step,
    turn_of,
)
from endurant.core.bench.recorded import recorded_entry
from endurant.core.bench.sequence_suspicions import sequence_suspicions
from endurant.core.bench.status import Status, tick
from endurant.core.bench.suspicions import suspicions
from endurant.core.bench.swing import scale_of
from endurant.core.bench.trace import expected_of, moves_of, sequence_of, start_mm_of
from endurant.core.devices import device_kind
from endurant.core.field_names import title_and_unit
from endurant.core.methods import find_method
from endurant.core.methods.guide import Advice, FrameGuide, PressGuide, RigGuide, SeriesGuide
from endurant.core.methods.method import Method
from endurant.core.moves import path_of, title_of, words_of
from endurant.core.refusals import Conflict
from endurant.core.rounding import in_numbers
from endurant.store import clock
from endurant.store.tables import Gauge, Run, Specimen, Station, Test
from endurant.work.base.memory import Remembered
from endurant.work.facts.bench_events import aims_for, events_of, state_after
from endurant.work.facts.called_specimens import called_specimens
from endurant.work.facts.instrument_status import standing_checks, standing_of
from endurant.work.facts.known_at_start import most_force_n
from endurant.work.facts.results import columns_of, document_of, test_figures
from endurant.work.facts.run_facts import RunSettings
from endurant.work.facts.status import (
    is_to_cut,
    last_run,
    standing_void,
    state_of,
)
from endurant.work.facts.test_settings import parameters_of, set_up_names
from endurant.work.use_cases.bench.observations import noted_of
from endurant.work.use_cases.bench.page_models import (
    AxisView,
    BenchClock,
    BenchView,
    CheckView,
    DrawingView,
    EventView,
    FactView,
    PathView,
    ProposalView,
    ScaleView,
    SealWindowView,
    SensorView,
    SeriesView,
    StationChoice,
    StepView,
    SuspicionView,
    UndoView,
)
from endurant.work.use_cases.bench.readiness import (
    UNLOAD,
    Readiness,
    readiness_of,
    step_before,
    unload_step,
)
from endurant.work.use_cases.bench.runs import limits_of
from endurant.work.use_cases.bench.sequences import PathPointView
from endurant.work.use_cases.bench.station_holder import held_by_another
from endurant.work.use_cases.bench.stations import StationView, station_view
from endurant.work.use_cases.instruments.consumables import reminders
from endurant.work.use_cases.preparation.measuring import GaugeView, gauge_view

SHOWN_EVENTS = 40
OF_ROUND = ("round", "side", "state", "refurbishing")
"""What a round presets of the answers."""
MAX_OTHERS = 8


def bench_view(
    session: Session,
    specimen: Specimen,
    stations: Sequence[Station],
    station: Station | None,
    status: Status | None,
    says: str,
) -> BenchView:
    """The view; `status` is what the station reports, `says` why it does not."""
    test = specimen.test
    method = find_method(test.method)
    picture = picture_of(method)
    events = events_of(session, specimen.id)
    aims = aims_for(specimen, events)
    state = state_after(specimen, events)
    run = last_run(specimen)
    device = None if station is None else station_view(session, station, status, says)
    waits = _waits(specimen, state, picture.device, device)
    ready, out_of_service = (
        (None, "") if waits else _readiness(session, specimen, station, state, status)
    )
    waits = waits or out_of_service
    suspicions = _suspicions(run, method, test)
    step = None
    if not waits:
        if run is not None and run.state == "ended" and state.phase != "complete":
            state = State(state.label, (), phase="complete", last=state.last)
        step = next_step(state, status, aims_at(method, aims, station))
        step = _what_stands_before(step, state, ready, station)
        if step.kind == "look" and suspicions:
            step = replace(step, kind="suspect")
        if step.kind == "watch" and run is not None and run.line == "lost":
            step = replace(
                step,
                why=f"{run.line_says}. The stored data is safe; the rest is requested again.",
                button="Close run with the stored data",
            )
    advice = _advice(method, specimen, state) if step is not None else Advice(())
    goes_on = step is not None and step.act not in (NOTED, REASON, UNLOAD)
    drawing = picture.drawing(method, aims)
    scale = scale_of(method, test.parameters)
    return BenchView(
        specimen_id=specimen.id,
        test_id=test.id,
        label=specimen.label,
        picture=method.guide.bench,
        phase=state.phase,
        last=state.last,
        figure_unit=method.properties_for(parameters_of(test))[0].unit,
        step=None if step is None else _with_presets(StepView.model_validate(step), advice, aims),
        also=[StepView.model_validate(each) for each in beside(state)] if goes_on else [],
        waits=waits,
        set_up=_set_up(method, aims, station),
        proposals=_proposals(method, advice),
        checks=_checks(method, state, status, (aims, aims_at(method, aims, station)), events),
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
            *(f"Reason given: {why}" for why in dict.fromkeys(state.reasons.values())),
            *advice.says,
            *([] if waits else _equipment(session, method, station, state)),
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
    is_over = specimen.test.job.released_at is not None or standing_void(specimen) is not None
    return not is_recorded and not is_over and not is_to_cut(specimen)


def _waits(
    specimen: Specimen, state: State, device: str | None, station: StationView | None
) -> str:
    """Why nothing can be done with this specimen now; empty when something can."""
    now = clock.now()
    reached = state_of(specimen, now)
    if specimen.test.job.released_at is not None:
        return "The report is released. Open a correction to change the job."
    if reached == "void":
        return f"{specimen.label} is void. Its replacement is tested in its place."
    if reached == "tested":
        return f"{specimen.label} was tested and accepted."
    if reached == "to-cut":
        return f"{specimen.label} is not cut yet."
    if reached in ("running", "to-look-at") or standing_void(specimen):
        return ""
    by_rule = find_method(specimen.test.method).guide.calls is not None
    if not by_rule and specimen.id not in {each.id for each in called_specimens(specimen.test)}:
        return f"{specimen.label} is a spare and is tested only to replace a void specimen."
    if device is None:
        return ""
    if station is None:
        kind = device_kind(device).title.lower()
        return f"The laboratory has no {kind}. Import the readings instead."
    if not station.reachable:
        return f"{station.says}. Check its plug and its line, or import the readings."
    if station.busy_run_id is not None and state.phase == "before":
        return f"{station.name} is running another specimen."
    return ""


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
) -> tuple[Readiness | None, str]:
    """What stands before the first act; or why the instrument cannot be used."""
    if state.phase != "before" or last_run(specimen) is not None:
        return None, ""
    try:
        return readiness_of(session, specimen, station, state, status), ""
    except Conflict as refusal:
        return None, f"{refusal.sentence}."


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
    says = reminders(session, method, None if station is None else station.id)
    if station is None:
        return says
    row = station.instrument
    checks = standing_checks(session, row.serial).get(row.serial, [])
    standing, why = standing_of(row, checks, clock.now())
    if standing in ("out", "watch", "overdue"):
        says.append(f"{station.name}: {why}")
    return says


def _path(method: Method, test: Test) -> PathView | None:
    if not isinstance(method.guide.live, FrameGuide):
        return None
    moves = moves_of(method, test.parameters)
    if not moves:
        return None
    gauge_mm = start_mm_of(method.guide.live, test.parameters)
    return PathView(
        title=title_of(str(test.parameters.get("moves") or "")),
        moves=words_of(moves).split("\n"),
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


_looked_at: Remembered[list[SuspicionView]] = Remembered(200)


def _suspicions(run: Run | None, method: Method, test: Test) -> list[SuspicionView]:
    """What a trace gives away, worked out once for each recording that is still looked at."""
    if run is None or run.state not in ("recorded", "ended") or run.sha256 is None:
        return []
    live = method.guide.live
    if isinstance(live, RigGuide):
        return _burst_time(run, live)
    if isinstance(live, PressGuide):
        return _schedule_unfinished(run, method, test)
    if not isinstance(live, FrameGuide):
        return []
    key = (run.sha256, method.id, repr(test.parameters), len(_kept_before(run)))
    kept = _looked_at.get(key)
    if kept is not None:
        return kept
    columns = columns_of(run) or {}
    if "extension_mm" not in columns or "force_n" not in columns:
        return []
    x, force = (np.asarray(columns[name], np.float64) for name in ("extension_mm", "force_n"))
    time_s = np.asarray(columns["time_s"], np.float64) if "time_s" in columns else None
    strain = np.asarray(columns["strain"], np.float64) if "strain" in columns else None
    sequence = sequence_of(method, test.parameters)
    if sequence is None:
        expected = expected_of(method, test.parameters)
        odd = suspicions(x, force, time_s, expected, strain, _others_n(run))
    else:
        odd = [] if time_s is None else sequence_suspicions(x, force, time_s, sequence)
    views = [SuspicionView.model_validate(suspicion) for suspicion in odd]
    _looked_at.put(key, views)
    return views


def _schedule_unfinished(run: Run, method: Method, test: Test) -> list[SuspicionView]:
    """A schedule that was ended early has no readings, and gives no figure."""
    columns = columns_of(run) or {}
    entry = recorded_entry(method, columns)
    if test.parameters.get("test") != "stiffness" or entry.get("readings") is not None:
        return []
    return [
        SuspicionView(
            code="early-end",
            says=f"the schedule ended early ({run.end_reason}), so there is no reading to compute "
            "from. Void the specimen with the reason",
            at_x=float(np.asarray(columns.get("time_s", [0.0]), np.float64)[-1]),
            at_y=0.0,
        )
    ]


def _burst_time(run: Run, live: RigGuide) -> list[SuspicionView]:
    """A burst that came too early or too late; the rate of the pump decides it."""
    columns = columns_of(run) or {}
    if live.window_s is None or "pressure_kpa" not in columns or "time_s" not in columns:
        return []
    pressure = np.asarray(columns["pressure_kpa"], np.float64)
    time_s = np.asarray(columns["time_s"], np.float64)
    place = int(np.argmax(pressure))
    took_s = float(time_s[place] - time_s[0])
    low, high = live.window_s
    if low <= took_s <= high:
        return []
    set_to = RunSettings.model_validate(run.settings).setup.get("pump_rate_ml_min")
    if isinstance(set_to, float | int):
        better = in_numbers(round(set_to * took_s / ((low + high) / 2)))
        advice = f"Set {better} mL/min for the next specimen, in place of {in_numbers(set_to)}"
    else:
        advice = f"Pump {'slower' if took_s < low else 'faster'} for the next specimen"
    return [
        SuspicionView(
            code="burst-time",
            says=f"it burst after {in_numbers(round(took_s, 1))} s; {in_numbers(low)} to "
            f"{in_numbers(high)} s are required. {advice}",
            at_x=float(time_s[place]),
            at_y=float(pressure[place]),
        )
    ]


def _kept_before(run: Run) -> list[Run]:
    """The runs of the same test and direction that count."""
    kept = [
        last_run(other)
        for other in run.specimen.test.specimens
        if other.direction == run.specimen.direction and standing_void(other) is None
    ]
    return [
        other
        for other in kept
        if other is not None and other.id < run.id and other.state == "settled" and other.samples
    ]


def _others_n(run: Run) -> list[float]:
    """The highest force of each of the last few that count."""
    return [most_force_n(other) for other in _kept_before(run)[-MAX_OTHERS:]]


def _gauges(session: Session, state: State) -> list[GaugeView]:
    """The gauges that an act of this test can be read off."""
    kinds = {ask.gauge for act in state.acts for ask in act.asks if ask.gauge}
    if not kinds:
        return []
    rows = session.scalars(select(Gauge).where(Gauge.kind.in_(kinds)).order_by(Gauge.id))
    return [gauge_view(row, clock.now()) for row in rows]


def _done_by_device(state: State, code: str) -> bool:
    """True for an act that a device did: it cannot be taken back."""
    return any(act.code == code and (act.tells or act.records) for act in state.acts)


def _checks(
    method: Method,
    state: State,
    status: Status | None,
    aims: tuple[Mapping[str, Any], Mapping[str, Any]],
    events: Sequence[Event],
) -> list[CheckView]:
    """The list of the ready check: `aims` are those of the test, and those at its station."""
    by_hand = {
        event.kind: event.number
        for event in standing(events)
        if event.by and not _done_by_device(state, event.kind)
    }
    confirmed = {code for act in state.acts if act.code in state.done for code in act.confirms}
    checks = []
    answers = {
        code: says for act in state.acts for code in act.confirms if (says := _answered(act, state))
    }
    for check in checks_of(picture_of(method), method, aims[0]):
        ticked, says = check.code in confirmed, answers.get(check.code, "confirmed by the operator")
        if check.reads is not None:
            read = tick(check.reads, status, aims[1])
            ticked, says = read.ticked, read.says
        checks.append(
            CheckView(
                code=check.code,
                title=check.title,
                reason=check.reason,
                reads=check.reads,
                hold=check.hold,
                ticked=ticked,
                says=says if ticked or check.reads else "",
                event=by_hand.get(check.code) if ticked else None,
            )
        )
    return checks


def _answered(act: Action, state: State) -> str:
    """The numbers that answer an item."""
    return ", ".join(
        f"{_in_words(state.facts[ask.name])} {ask.unit}".strip()
        for ask in act.asks
        if ask.name in state.facts
    )


def _facts(state: State) -> list[FactView]:
    asks = {ask.name: ask for act in state.acts for ask in act.asks}
    return [
        FactView(
            name=name,
            title=asks[name].title,
            value=_in_words(value),
            unit=asks[name].unit,
        )
        for name, value in state.facts.items()
        if name in asks
    ]


def _in_words(value: object) -> str:
    if isinstance(value, list):
        return " ".join(map(_in_words, value))
    return in_numbers(value) if isinstance(value, float) else str(value)


def _events(events: Sequence[Event]) -> list[EventView]:
    gone = {event.takes_back for event in events}
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
    """The last act that stands, unless a device did it or the specimen was kept."""
    stood = [event for event in standing(events) if event.by]
    if not stood or (run is not None and run.state == "settled"):
        return None
    last = stood[-1]
    act = next((act for act in state.acts if act.code == last.kind), None)
    is_last = max(event.number for event in standing(events)) == last.number
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


def aims_at(method: Method, aims: Mapping[str, Any], station: Station | None) -> dict[str, Any]:
    """What a device has to stand at: parameters, set-up, and the limits of the station."""
    setup = picture_of(method).setup(method, aims)
    return {**aims, **setup, **({} if station is None else limits_of(station, setup))}


def _set_up(method: Method, aims: Mapping[str, Any], station: Station | None) -> str:
    """What the station is set to, in a line."""
    parameters = aims
    setup = picture_of(method).setup(method, parameters)
    if station is not None:
        setup |= limits_of(station, setup)
    words = []
    if setup.get("test_kind") == "stiffness":
        full_n = float(setup["full_n"])
        if not full_n:
            return ""
        return f"datum {in_numbers(float(setup['datum_n']))} N · full load {in_numbers(full_n)} N"
    if "limit_mm" in setup:
        words.append(f"limit {in_numbers(float(setup['limit_mm']))} mm")
    if "speed_mm_min" in setup:
        words.append(f"{in_numbers(float(setup['speed_mm_min']))} mm/min")
    if "gauge_mm" in setup:
        words.append(f"jaws {in_numbers(float(setup['gauge_mm']))} mm apart")
    if "force_limit_n" in setup:
        words.append(f"stops at {in_numbers(float(setup['force_limit_n']))} N")
    if "pump_rate_ml_min" in setup:
        words.append(f"{in_numbers(float(setup['pump_rate_ml_min']))} mL/min")
    words += [
        f"pendulum {in_numbers(float(setup[name]))} {unit}"
        for name, unit in (("pendulum_j", "J"), ("capacity_j", "J"), ("capacity_n", "N"))
        if name in setup
    ]
    if "area_cm2" in setup:
        words.append(f"{in_numbers(float(setup['area_cm2']))} cm²")
    return " · ".join(words)
