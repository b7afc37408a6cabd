"""Acts in their order, whoever asks for which: nothing starts or opens before its turn."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from endurant.core.bench.engine import apply, held_by_clock, replay
from endurant.core.bench.events import Event, OutOfOrder
from endurant.core.bench.next_steps import next_step
from endurant.core.bench.procedure import begin
from endurant.core.bench.procedures import PROCEDURES, procedure_of
from endurant.core.bench.recorded import recorded_entry
from endurant.core.bench.state import State
from endurant.core.bench.status import READS, Status, tick
from endurant.core.methods import all_methods, find_method
from endurant.core.refusals import Conflict, Invalid

START = datetime(2026, 3, 2, 9, tzinfo=UTC)
BAR = {
    "gauge_length_mm": 50.0,
    "grip_separation_mm": 100.0,
    "speed_mm_min": 5.0,
    "extensometer_off_strain": 0.02,
}
LIVE = [method for method in all_methods().values() if method.runs_live]


def bar() -> State:
    """A metal bar to which nothing has happened."""
    method = find_method("astm-e8")
    return begin(procedure_of(method), method, BAR, "S1")


def done(state: State, kind: str, seconds: float = 0, **facts: object) -> State:
    """The state once one more thing has happened."""
    if kind not in ("paused", "ended", "abandoned"):
        act = next((act for act in state.actions if act.code == kind), None)
        facts = {"confirmed": list(act.confirms) if act else []} | facts
    at = START + timedelta(seconds=seconds)
    return apply(state, Event(state.last + 1, kind, at, "Ines", facts))


def ready(state: State) -> State:
    """Everything up to the start."""
    for act in state.actions:
        if act.records:
            return state
        state = done(state, act.code)
    return state


@given(st.lists(st.sampled_from([*(act.code for act in bar().actions), "paused", "ended"])))
def test_no_order_of_requests_starts_or_goes_on_with_an_extensometer_at_risk(
    kinds: list[str],
) -> None:
    state, happened = bar(), []
    for kind in kinds:
        try:
            state = done(state, kind)
        except OutOfOrder:
            continue
        happened.append(kind)
    if "start" in happened:
        before = happened[: happened.index("start")]
        order = ["lower-gripped", "upper-gripped", "pin-pulled"]
        assert [kind for kind in before if kind in order] == order
        if "zero-force" in before:
            last = len(before) - 1 - before[::-1].index("zero-force")
            assert last < before.index("upper-gripped")
    if "go-on" in happened:
        pause = happened[happened.index("paused") : happened.index("go-on")]
        assert pause == ["paused", "extensometer-off", "pin-back"]


def test_a_bar_goes_through_its_pause_to_its_halves() -> None:
    state = done(ready(bar()), "start")
    assert next_step(state, None, BAR).kind == "watch"
    state = done(state, "paused")
    assert next_step(state, None, BAR).act == "extensometer-off"
    with pytest.raises(OutOfOrder, match="bench.comes-after"):
        done(state, "go-on")
    state = done(done(done(state, "extensometer-off"), "pin-back"), "go-on")
    state = done(state, "ended", samples=900)
    assert next_step(state, None, BAR).act == "removed"
    with pytest.raises(OutOfOrder, match="bench.comes-after"):
        done(state, "looked")
    state = done(state, "removed")
    assert next_step(state, None, BAR).act == "looked"
    with pytest.raises(Invalid, match="bench.number-expected"):
        done(state, "looked", final_gauge_mm="long")
    state = done(state, "looked", final_gauge_mm=58.5)
    assert state.phase == "complete"
    procedure = procedure_of(find_method("astm-e8"))
    columns = {"force_n": np.array([0.0, 1.0])}
    assert procedure.readings(find_method("astm-e8"), state) == {"final_gauge_mm": 58.5}
    assert recorded_entry(find_method("astm-e8"), columns) == {"trace": columns}
    with pytest.raises(OutOfOrder, match="complete"):
        done(state, "zero")


def test_a_schedule_stopped_before_its_first_sample_has_sensors_and_no_readings() -> None:
    entry = recorded_entry(find_method("iso-8611"), {"time_s": np.empty(0), "force_n": np.empty(0)})
    assert [channel["name"] for channel in entry["channels"]][:2] == ["platen", "left"]
    assert "readings" not in entry


def test_holds_are_vouched_for_every_time() -> None:
    with pytest.raises(Invalid, match="bench.checks-unconfirmed"):
        done(ready(bar()), "start", confirmed=[])


def test_a_run_without_samples_begins_from_the_beginning() -> None:
    state = done(done(ready(bar()), "start"), "abandoned")
    assert (state.phase, state.done) == ("before", ())
    assert next_step(state, None, BAR).act == "prepare"


def test_what_was_taken_back_has_not_happened() -> None:
    events = [
        Event(1, "lower-gripped", START, "Ines", {"confirmed": ["lower-gripped"]}),
        Event(2, "upper-gripped", START, "Ines", {"confirmed": ["upper-gripped"]}),
        Event(3, "taken-back", START, "Ines", {}, undoes=2),
    ]
    state = replay(bar(), events)
    assert (state.done, state.last) == (("lower-gripped",), 3)
    back = Event(4, "taken-back", START, "Ines", {}, undoes=1)
    again = Event(5, "upper-gripped", START, "Ines", events[1].facts)
    with pytest.raises(OutOfOrder):
        replay(bar(), [*events, back, again])


def test_nothing_that_a_device_says_comes_before_its_recording() -> None:
    with pytest.raises(OutOfOrder, match="bench.not-recording"):
        done(bar(), "ended")


@pytest.mark.parametrize(
    ("seconds", "wording"),
    [(58.5, ""), (61.9, ""), (57, "water: 57 s"), (64, "Time under water: 64 s. Required: 60 s")],
)
def test_a_clock_that_was_not_kept_is_said(seconds: float, wording: str) -> None:
    method = find_method("iso-535")
    state = begin(procedure_of(method), method, {"time_s": 60.0}, "T1")
    for act in state.actions:
        after = {"poured-off": 45.0, "blotted": seconds, "weighed-after": seconds + 5}
        values = {ask.name: 1.0 for ask in act.asks}
        state = done(state, act.code, after.get(act.code, 0.0), **values)
    assert wording in " ".join(state.remarks)
    assert bool(state.remarks) is bool(wording)


def test_a_cold_bar_comes_from_its_chamber_and_a_warm_one_does_not() -> None:
    method = find_method("iso-180")
    request = {"max_transfer_s": 5.0, "soak_min": 30.0, "temperatures_c": [23.0, -30.0]}
    begun = begin(procedure_of(method), method, request, "S1")
    warm = done(begun, "temperature", temperature_c=23.0)
    assert next_step(warm, None, {}).act == "pendulum"
    with pytest.raises(OutOfOrder, match="bench.not-of-this-test"):
        done(warm, "taken-out")
    cold = done(begun, "temperature", temperature_c=-30.0)
    assert next_step(cold, None, {}).act == "chambered"
    cold = done(cold, "chambered", 10)
    for act in ("pendulum", "free-swing", "clamped-upright"):
        cold = done(cold, act, 20)
    with pytest.raises(OutOfOrder, match="bench.comes-after"):
        done(cold, "struck", 1900)
    out = cold.act("taken-out")
    early = held_by_clock(cold, out, START + timedelta(minutes=20))
    assert early == "In the chamber: 1190 s of 1800 s have passed; 610 s are left"
    struck = done(done(cold, "taken-out", 1900), "struck", 1907.2)
    assert struck.facts["transfer_s"] == pytest.approx(7.2)
    assert "at most 5 s" in struck.remarks[0]
    facts = procedure_of(method).readings(method, struck)
    assert (facts["soaked_min"], facts["temperature_c"]) == (31.5, -30.0)
    with pytest.raises(Invalid, match="bench.value-out-of-range"):
        done(begun, "temperature", temperature_c=-40.0)


def test_every_live_method_has_a_picture_a_start_and_readings_that_exist() -> None:
    for method in LIVE:
        procedure = PROCEDURES[method.guide.bench]
        state = begin(procedure, method, method.defaults | {"cut_interval_s": 10.0}, "S1")
        records = [act for act in state.actions if act.records]
        assert len(records) == (procedure.device is not None), method.id
        request = {ask.name: 1.0 for act in state.actions for ask in act.asks}
        kept = procedure.readings(method, replace(state, facts=request))
        assert set(kept) <= set(method.readings.model_fields), method.id
        holds = {code for act in state.actions if act.hold for code in act.confirms}
        assert {check.code for check in method.guide.ready_checks if check.hold} <= holds, method.id
        assert len({act.code for act in state.actions}) == len(state.actions), method.id


def test_a_box_is_zeroed_with_its_platens_clear_and_preloaded_by_the_run_itself() -> None:
    method = find_method("iso-12048")
    actions = begin(procedure_of(method), method, {"preload_n": 220.0}, "S1").actions
    codes = [act.code for act in actions]
    assert codes.index("start") == codes.index("zero") + 1
    zero = actions[codes.index("zero")]
    assert zero.title == "Zero force and extension, the platens clear"
    assert "pretension" not in {act.tells for act in actions}
    preload = next(act for act in actions if "preload" in act.confirms)
    assert preload.title.startswith("Preload set to 220 N")


def test_a_method_that_the_bench_does_not_run_is_refused_in_words() -> None:
    with pytest.raises(Conflict, match="bench.no-procedure"):
        procedure_of(find_method("barrel-check"))


def test_what_the_device_ticks_is_read_off_what_it_reports() -> None:
    at = Status("F", "idle", {"gauge_mm": 100.4, "extension_mm": 0.2, "speed_mm_min": 50.0})
    aims = {"gauge_mm": 100.0, "speed_mm_min": 50.0}
    assert tick("gauge-length", at, aims).ticked
    assert not tick("gauge-length", at, {}).ticked
    assert not tick("gauge-length", at, aims | {"gauge_mm": 80.0}).ticked
    assert not tick("speed", at, aims | {"speed_mm_min": 100.0}).ticked
    assert not tick("zeroed", at, aims).ticked
    rig = {"height_mm": 112.0, "pressure_kpa": 0.0, "zeroed": True, "drain_open": True}
    assert not tick("seated", Status("R", "idle", rig), {}).ticked
    assert tick("seated", Status("R", "idle", rig | {"height_mm": 0.0}), {}).ticked
    assert not tick("drain-shut", Status("R", "idle", rig), {}).ticked
    assert {name: tick(name, None, {}).ticked for name in READS} == dict.fromkeys(READS, False)


def test_what_is_confirmed_before_a_device_acts_is_never_put_after_it() -> None:
    tear = find_method("iso-13937-2")
    folded = begin(procedure_of(tear), tear, {}, "S1", folded=True)
    assert [act.code for act in folded.actions] == ["prepare", "zero", "start", "removed"]
    burst = find_method("iso-2758")
    codes = [act.code for act in begin(procedure_of(burst), burst, {}, "S1", folded=True).actions]
    assert codes.index("side") < codes.index("clamp")
