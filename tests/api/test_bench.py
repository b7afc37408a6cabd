"""The bench over the API: actions in their order, by two people, with and without a device."""

from __future__ import annotations

import re
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from sqlalchemy import select

from endurant.core.methods import all_methods, find_method
from endurant.core.methods.guide import FrameGuide
from endurant.core.simulate.traces import parameters_for, pull_for
from endurant.store import clock
from endurant.store.engine import open_session
from endurant.store.server import wait_until
from endurant.store.tables import Job, JobCard
from endurant.work.base.transactions import transaction
from endurant.work.facts.station_holder import HELD_FOR
from endurant.work.upkeep.verify import verify
from endurant.work.use_cases.reporting.content import content_of
from tests.conftest import StandIn
from tests.laboratory import BAR, PENDULUM, WHY, Bench, answers, pieces, ready, through


def test_a_colleague_who_acts_on_an_older_state_is_told(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    seen = bench.at_bench(job, "W1")
    prepare = {"act": "prepare", "seen": 0, "station_id": 1}
    bench.post(f"/specimens/{seen['specimen_id']}/actions", prepare)
    olga = bench.as_("olga")
    path = f"/specimens/{seen['specimen_id']}/actions"
    late = {"act": "prepare", "seen": seen["last"], "station_id": 1}
    assert olga.refused("POST", path, 409, json=late) == "bench.changed-since"
    ahead = late | {"seen": 99}
    assert olga.refused("POST", path, 409, json=ahead) == "bench.actions-unseen"
    now = olga.at_bench(job, "W1")
    assert now["step"]["act"] == "legs-symmetrical"
    assert [event["by"] for event in now["events"]] == ["Ines Tester"]


def test_a_station_that_is_made_ready_is_held_for_its_specimen(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    w1, w2 = (bench.specimen(job, label)["id"] for label in ("W1", "W2"))
    prepare = {"act": "prepare", "seen": 0, "station_id": 1}
    mine = bench.post(f"/specimens/{w1}/actions", prepare)
    olga = bench.as_("olga")
    (wording,) = olga.get(f"/specimens/{w2}/bench?station_id=1")["remarks"]
    assert wording.startswith("Frame 1 was made ready for J-")
    assert "by Ines Tester" in wording
    refusal = olga.refused("POST", f"/specimens/{w2}/actions", 409, json=prepare)
    assert refusal == "station.in-use"
    assert bench.at_bench(job, "W2")["events"] == []
    reason = prepare | {"deviation": "W1 was cut too short and is not in the jaws"}
    theirs = olga.post(f"/specimens/{w2}/actions", reason)
    assert theirs["events"][-1]["kind"] == "prepare"
    again = {"act": "legs-symmetrical", "seen": mine["last"], "station_id": 1}
    confirms = {"confirmed": mine["step"]["confirms"]}
    mine = bench.post(f"/specimens/{w1}/actions", again | confirms)
    zero = {"act": "zero", "seen": mine["last"], "station_id": 1}
    assert bench.refused("POST", f"/specimens/{w1}/actions", 409, json=zero) == "station.in-use"


def test_a_station_left_alone_is_free_again(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    w1, w2 = (bench.specimen(job, label)["id"] for label in ("W1", "W2"))
    prepare = {"act": "prepare", "seen": 0, "station_id": 1}
    bench.post(f"/specimens/{w1}/actions", prepare)
    with clock.as_if(datetime.now(UTC) + HELD_FOR + timedelta(seconds=1)):
        bench.post(f"/specimens/{w2}/actions", prepare)


def test_an_act_whose_device_is_silent_is_not_written(bench: Bench, frame: StandIn) -> None:
    job = bench.job_ready_to_test()
    w1 = bench.specimen(job, "W1")["id"]
    frame.kill()
    prepare = {"act": "prepare", "seen": 0, "station_id": 1}
    bench.refused("POST", f"/specimens/{w1}/actions", 503, json=prepare)
    frame.start()
    assert bench.at_bench(job, "W1")["events"] == []


def test_a_slip_of_the_hand_is_taken_back_and_stays_in_the_record(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    w1 = bench.specimen(job, "W1")["id"]
    view = bench.post(f"/specimens/{w1}/actions", {"act": "prepare", "seen": 0, "station_id": 1})
    view = bench.act(view)
    assert view["step"]["act"] == "zero"
    number = view["events"][-1]["number"]
    path = f"/specimens/{view['specimen_id']}/actions/{number}/undo"
    back = bench.post(path, {"seen": view["last"]})
    assert back["step"]["act"] == "legs-symmetrical"
    assert [event["taken_back"] for event in back["events"]] == [False, True, False]
    device = back["events"][0]["number"]
    path = f"/specimens/{view['specimen_id']}/actions/{device}/undo"
    assert (
        bench.refused("POST", path, 409, json={"seen": back["last"]}) == "bench.device-not-undone"
    )


def test_loops_stop_at_the_force_limit_and_say_so(bench: Bench) -> None:
    request = {"target_mm": 60.0, "gauge_length_mm": 100.0, "force_limit_n": 4.0, "cycles": 3}
    job = bench.post("/jobs", pieces("hysteresis", request))
    view = through(bench, bench.at_bench(job, "S1"), until="start")
    assert "It stops at 4 N" in view["step"]["why"]
    bench.recorded(through(bench, view))
    view = bench.removed(job, "S1")
    run = bench.get(f"/runs/{view['run_id']}")
    assert run["end_reason"] == "force limit"
    assert max(run["curves"][0]["y"]) < 4.5
    bench.act(view)
    (flag,) = bench.specimen(job, "S1")["flags"]
    assert (flag["code"], flag["severity"]) == ("no-cycle", "void")
    assert flag["text"].endswith("the force limit of 4 N stopped the run.")


def test_a_grip_that_was_confirmed_by_mistake_is_opened_again(bench: Bench, rig: int) -> None:
    request = {"gauge_length_mm": 50.0, "speed_mm_min": 5.0, "extensometer_off_strain": 0.02}
    job = bench.post("/jobs", pieces("astm-e8", request))
    view = through(bench, bench.at_bench(job, "S1"), until="upper-gripped")
    view = bench.act(view)
    assert view["step"]["act"] == "grips-relieved"
    path = f"/specimens/{view['specimen_id']}/actions/{view['undo']['number']}/undo"
    view = bench.post(path, {"seen": view["last"]})
    assert view["step"]["act"] == "upper-gripped"
    view = bench.act(view)
    assert view["step"]["act"] == "grips-relieved"


def test_absorption_is_weighed_poured_and_weighed_again(bench: Bench) -> None:
    job = ready(bench, "iso-535", "paper-23-50")
    view = bench.at_bench(job, "T1")
    assert (view["procedure"], view["drawing"], view["station"]) == ("weigh", None, None)
    early = {"act": "poured", "seen": 0}
    path = f"/specimens/{view['specimen_id']}/actions"
    assert bench.refused("POST", path, 409, json=early) == "bench.comes-after"
    start = datetime.now(UTC)
    actions = []
    with clock.as_if(start):
        while view["step"]["act"] != "poured":
            values = {"dry_g": 1.25} if view["step"]["asks"] else {}
            view = bench.act(view, values=values)
            actions.append(view["step"]["act"])
        view = bench.act(view)
    assert actions[-2:] == ["weighed-before", "poured"]
    running = {each["code"]: (each["kind"], each["seconds"]) for each in view["clocks"]}
    assert running == {"wet": ("exactly", 60), "pour-off": ("exactly", 45)}
    pour_off = {"act": "poured-off", "seen": view["last"]}
    with clock.as_if(start + timedelta(seconds=3.4)):
        too_early = bench.refused("POST", path, 409, json=pour_off)
    assert too_early == "bench.held"
    with clock.as_if(start + timedelta(seconds=45)):
        view = bench.act(view)
    with clock.as_if(start + timedelta(seconds=71)):
        view = bench.act(view)
    assert view["clocks"] == []
    assert view["remarks"] == ["Time under water: 71 s. Required: 60 s."]
    wording: dict[str, Any] = {
        "act": "weighed-after",
        "seen": view["last"],
        "values": {"wet_g": "wet"},
    }
    assert bench.refused("POST", path, 422, json=wording) == "bench.number-expected"
    lighter = wording | {"values": {"wet_g": 1.0}}
    assert bench.refused("POST", path, 422, json=lighter) == "reading.wet-lighter-than-dry"
    view = bench.act(view, values={"wet_g": 1.55})
    assert view["step"]["act"] == "keep"
    bench.act(view)
    specimen = bench.specimen(job, "T1")
    assert (specimen["state"], specimen["value"]) == ("tested", pytest.approx(30.0))
    deviations = [each for each in draft_of(job) if "Time under water" in each]
    assert deviations == ["T1: Time under water: 71 s. Required: 60 s. Reason: not given."]


def draft_of(job: dict[str, Any]) -> list[str]:
    """The deviations that a report of this job would state now."""
    with transaction() as session:
        return content_of(session, session.get_one(Job, job["id"]), None).deviations


def test_a_burst_is_recorded_in_its_own_channels(bench: Bench, rig: int) -> None:
    job = ready(bench, "iso-13938-1", "textile-20-65", diaphragm_pressure_kpa=24.5)
    view = through(bench, bench.at_bench(job, "S1"))
    assert view["step"]["kind"] == "watch"
    bench.recorded(view)
    view = bench.at_bench(job, "S1")
    assert (view["phase"], view["step"]["act"]) == ("after", "drained")
    early = {"act": "opened", "seen": view["last"], "station_id": rig}
    path = f"/specimens/{view['specimen_id']}/actions"
    assert bench.refused("POST", path, 409, json=early) == "bench.comes-after"
    keep = early | {"act": "keep"}
    assert bench.refused("POST", path, 409, json=keep) == "run.not-complete"
    view = through(bench, view)
    bench.act(view)
    run = bench.get(f"/runs/{view['run_id']}")
    assert run["end_reason"] == "burst"
    text = bench.call("GET", f"/runs/{run['id']}/trace.csv").text
    assert text.startswith("time_s,pressure_kpa,height_mm\n")
    assert text.count("\n") == run["samples"] + 1
    assert bench.specimen(job, "S1")["value"] == pytest.approx(
        run["result"]["values"]["bursting_strength"]["value"]
    )


def test_a_void_before_the_rig_is_open_enters_no_figure(bench: Bench, rig: int) -> None:
    job = ready(bench, "iso-13938-1", "textile-20-65", diaphragm_pressure_kpa=24.5)
    view = through(bench, bench.at_bench(job, "S1"))
    bench.recorded(view)
    bench.post(f"/specimens/{view['specimen_id']}/void", {"code": "jaw-burst"})
    assert bench.specimen(job, "S1")["state"] == "void"
    assert "replacement" in bench.at_bench(job, "S1")["waits"]
    test = bench.get(f"/tests/{job['tests'][0]['id']}")
    assert test["problem"] is None


LIVE = [method.id for method in all_methods().values() if method.runs_live]
MELT = {"temperature_c": 190.0, "load_kg": 2.16}
DART = {"dart": "A", "start_g": 150.0, "step_g": 15.0}
ASKED: dict[str, dict[str, Any]] = {
    "linear-abrasion": {
        "medium": "coarse felt",
        "force_n": 9.0,
        "stroke_mm": 50.0,
        "cycles": 500,
    },
    "iso-180": PENDULUM,
    "iso-179-1": PENDULUM | {"pendulum_j": 5.0},
    "astm-d256": PENDULUM,
    "iso-3036": {"friction_j": 0.3, "capacity_j": 12.0},
    "hysteresis": {"target_mm": 30.0},
    "relaxation": {"gauge_length_mm": 100.0, "times_s": [1.0, 10.0]},
    "iso-8611": {
        "test": "stiffness",
        "full_load_n": 5000.0,
        "datum_s": 30.0,
        "full_s": 60.0,
        "relaxed_s": 30.0,
    },
    "scuff": {"weight_n": 9.0},
    "liquid-rub": {"liquid": "water", "cycles": 20, "force_n": 9.0},
    "iso-12947-2": {"pressure_kpa": 12.0},
    "16-cfr-1610": {"surface": "plain"},
    "iso-1133-1-a": MELT | {"cut_interval_s": 20.0},
    "astm-d1238-a": MELT | {"cut_interval_s": 20.0},
    "melt-density": MELT | {"cut_interval_s": 20.0},
    "iso-1133-1-b": MELT,
    "astm-d1238-b": MELT,
    "iso-7765-1": DART,
    "astm-d1709": DART,
    "bubble-leak": {"vacuum_kpa": 60.0},
    "iso-2248": {"sequence": ["3", "2-3", "2-3-5"], "drop_height_mm": 600.0},
    "iso-13355": {"minutes": 30.0, "motion": "random", "level_g_rms": 0.6},
    "iso-2247": {"minutes": 30.0, "frequency_hz": 4.0, "amplitude_mm": 12.0},
    "iso-8318": {"minutes": 30.0, "sweep_hz": [5.0, 100.0], "acceleration_g": 0.5},
    "iso-6383-2": {"capacity_n": 16.0},
    "iso-1974": {"capacity_n": 16.0},
}
SIZES: dict[str, dict[str, list[float]]] = {
    "iso-180": BAR,
    "iso-179-1": BAR,
    "astm-d256": BAR | {"remaining_width_mm": [10.16, 10.16]},
}


@pytest.mark.parametrize("method_id", LIVE)
def test_every_live_method_goes_from_its_first_act_to_its_figure(
    bench: Bench, rig: int, method_id: str
) -> None:
    method = find_method(method_id)
    room = method.guide.atmosphere
    why = {"deviation": "dried and cooled elsewhere"} if method.guide.stages else {}
    few = {"specimens_wanted": 2} if "specimens_wanted" in method.parameters.model_fields else {}
    request = few | parameters_for(method_id) | ASKED.get(method_id, {})
    if room is None:
        job = bench.post("/jobs", pieces(method_id, request))
    else:
        job = ready(bench, method_id, room, **request)
    specimen = job["tests"][0]["specimens"][0]
    simulated = pull_for(method_id)
    sizes = (simulated.beside if simulated else {}).get("dimensions", SIZES.get(method_id, {}))
    named = {measure.field for measure in method.guide.measures}
    if any(size in named for size in sizes):
        own = {name: size for name, size in sizes.items() if name in named}
        body = {"dimensions": own, "revision": specimen["revision"]}
        bench.put(f"/specimens/{specimen['id']}/dimensions", body)
    path = f"/specimens/{specimen['id']}/bench"
    view = bench.get(path)
    assert view["waits"] == ""
    live = method.guide.live
    if isinstance(live, FrameGuide):
        fit = "Large frame" if live.usual_max_n > 500 else "Frame 1"
        assert view["station"]["name"] == fit
    while view["step"]["act"] != "keep":
        if view["step"]["kind"] == "watch":
            wait_until(lambda: bench.get(path)["phase"] != "recording", 120, "it did not end")
            view = bench.get(path)
            continue
        is_second = method.guide.bench == "grades"
        late = {"deviation": WHY} if view["step"]["held_until"] or is_second else {}
        values = answers(view["step"])
        if method_id == "melt-density" and "length_mm" in values:
            values["length_mm"] = 1.03
        view = bench.act(view, values=values, **(why or late))
    bench.act(view)
    kept = bench.specimen(job, specimen["label"])
    assert kept["state"] == "tested"
    has_none = method_id == "iso-13355"  # a random motion has no amplitude
    assert kept["value"] is not None or kept["flags"] or has_none
    assert bench.get(f"/tests/{job['tests'][0]['id']}")["problem"] is None


def test_the_clocks_of_the_bench_are_on_the_rail_of_every_screen(bench: Bench) -> None:
    job = bench.post("/jobs", pieces("iso-1133-1-a", MELT | {"cut_interval_s": 20.0}))
    view = bench.at_bench(job, "S1")
    view = through(bench, view, "charging")
    assert bench.get("/clocks")["clocks"] == []
    bench.act(view, values=answers(view["step"]))
    clocks = bench.get("/clocks")["clocks"]
    assert [(clock["text"], clock["kind"]) for clock in clocks] == [
        ("Charging, S1", "at-most"),
        ("Preheat, S1", "exactly"),
        ("From charging, S1", "at-most"),
    ]
    assert clocks[0]["leads_to"] == f"/bench/{job['id']}?specimen={view['specimen_id']}"
    assert clocks[0]["whose"].startswith("J-0401 Melt mass-flow rate")
    with clock.as_if(datetime.now(UTC) + timedelta(hours=2)):
        assert bench.get("/clocks")["clocks"] == []


def test_the_rail_shows_a_new_clock_while_another_process_writes_the_card(bench: Bench) -> None:
    job = bench.post("/jobs", pieces("iso-1133-1-a", MELT | {"cut_interval_s": 20.0}))
    view = through(bench, bench.at_bench(job, "S1"), "charging")
    with clock.as_if(datetime.now(UTC)):
        assert bench.get("/clocks")["clocks"] == []
        bench.act(view, values=answers(view["step"]))
        with open_session() as other:
            other.execute(select(JobCard.job_id).with_for_update())
            assert len(bench.get("/clocks")["clocks"]) == 3


def test_a_cold_bar_is_struck_in_time_or_void_and_its_rest_is_kept(bench: Bench) -> None:
    request = PENDULUM | {"temperatures_c": [-30.0]}
    job = ready(bench, "iso-180", "plastics-23-50", **request)
    for label, seconds, late in (("S1", 3.5, False), ("S2", 7.5, True)):
        specimen = bench.specimen(job, label)
        sizes = {"dimensions": BAR, "revision": specimen["revision"]}
        bench.put(f"/specimens/{specimen['id']}/dimensions", sizes)
        view = through(bench, bench.at_bench(job, label), "taken-out", temperature_c=-30.0)
        early = {"act": "taken-out", "seen": view["last"]}
        path = f"/specimens/{view['specimen_id']}/actions"
        assert bench.refused("POST", path, 409, json=early) == "bench.held"
        soaked = datetime.now(UTC) + timedelta(minutes=31)
        with clock.as_if(soaked):
            view = bench.act(view)
        assert view["clocks"][0]["kind"] == "at-most"
        with clock.as_if(soaked + timedelta(seconds=seconds)):
            view = bench.act(view)
        assert ("From chamber to strike" in " ".join(view["remarks"])) is late
        values = {"energy_j": 1.9, "break_type": "C"}
        bench.act(bench.act(view, values=values))
        flags = {flag["code"] for flag in bench.specimen(job, label)["flags"]}
        assert ("too-slow" in flags) is late
    document = bench.get(f"/tests/{job['tests'][0]['id']}/document.json")
    first = document["specimens"][0]
    assert (first["temperature_c"], first["rested_h"]) == (-30.0, 60.0)
    assert first["soaked_min"] >= 30


def test_a_pilot_gives_the_pretension_of_the_others_and_counts_in_no_mean(
    bench: Bench, rig: int
) -> None:
    job = ready(bench, "astm-d4595", "geo-21-65")
    for specimen in job["tests"][0]["specimens"]:
        body = {"dimensions": {"width_mm": [200.0, 200.0, 200.0]}, "revision": specimen["revision"]}
        bench.put(f"/specimens/{specimen['id']}/dimensions", body)
    first, second = (specimen["label"] for specimen in job["tests"][0]["specimens"][:2])
    view = bench.at_bench(job, first)
    path = f"/specimens/{view['specimen_id']}/bench"
    through(bench, view)
    wait_until(lambda: bench.get(path)["phase"] == "paused", 120, "it did not pause past the peak")
    view = bench.get(path)
    assert view["step"]["title"] == "Remove the extensometer"
    early = {"act": "go-on", "seen": view["last"], "station_id": view["station"]["id"]}
    assert (
        bench.refused("POST", path.replace("bench", "actions"), 409, json=early)
        == "bench.comes-after"
    )
    bench.recorded(through(bench, view))
    bench.act(bench.removed(job, first))
    test = bench.get(f"/tests/{job['tests'][0]['id']}")
    flags = [flag["code"] for flag in test["specimens"][0]["flags"]]
    assert flags == ["strain-from-crosshead", "pilot"]
    assert test["to_go"] == test["required"]
    view = through(bench, bench.at_bench(job, second), "pretensioned")
    wording = re.fullmatch(r"Apply a pretension of (\d+(\.\d)?) N", view["step"]["title"])
    assert wording
    assert 115 < float(wording[1]) < 135
    through(bench, view)
    path = f"/specimens/{view['specimen_id']}/bench"
    wait_until(lambda: bench.get(path)["phase"] == "paused", 120, "it did not pause past the peak")
    bench.recorded(through(bench, bench.get(path)))
    run = bench.get(f"/runs/{bench.at_bench(job, second)['run_id']}")
    assert run["curves"][0]["y"][0] == pytest.approx(float(wording[1]), rel=0.2)


def test_after_three_clean_runs_the_set_up_is_confirmed_in_one_act(bench: Bench, rig: int) -> None:
    job = ready(bench, "iso-535", "paper-23-50")

    def acts_of(label: str) -> list[str]:
        view, actions = bench.at_bench(job, label), []
        while view["step"]["act"] != "keep":
            actions.append(view["step"]["act"])
            late = {"deviation": WHY} if view["step"]["held_until"] else {}
            view = bench.act(view, values=answers(view["step"]), **late)
        bench.act(view)
        return actions

    long = [acts_of(f"T{number}") for number in (1, 2, 3)]
    assert {"balance", "blotter"} <= set(long[0])
    assert long[0] == long[1] == long[2]
    short = acts_of("T4")
    assert short[0] == "as-before"
    assert len(short) == len(long[0]) - 1
    assert "ring-dry" in short
    checks = {check["code"]: check["ticked"] for check in bench.at_bench(job, "T4")["checks"]}
    assert all(checks.values())
    bench.post(f"/specimens/{bench.specimen(job, 'T3')['id']}/void", {"code": "leaked-at-ring"})
    assert "as-before" not in acts_of("T5")


def test_the_fourth_specimen_at_a_frame_takes_two_acts_and_its_holds_stay(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    for label in ("W1", "W2", "W3"):
        bench.pull(job, label)
    view = bench.at_bench(job, "W4")
    actions = []
    while view["step"]["kind"] == "do":
        actions.append(view["step"]["act"])
        if view["step"]["act"] == "start":
            request = {"act": "start", "seen": view["last"], "station_id": 1}
            path = f"/specimens/{view['specimen_id']}/actions"
            halfway = request | {"confirmed": ["fingers-clear"]}
            missing = bench.refused("POST", path, 422, json=halfway)
            assert missing == "bench.checks-unconfirmed"
        view = bench.act(view)
    assert actions == ["zero", "start"]
    bench.recorded(view)


def test_a_label_leads_to_its_specimen_unless_another_one_is_in_hand(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    w1, w2 = (bench.specimen(job, label) for label in ("W1", "W2"))
    path = f"/specimens/{w1['id']}/bench/scanned"
    assert bench.get(f"{path}/{w1['code']}")["right"] is True
    leads = bench.get(f"{path}/{w2['code'].lower()}")
    assert (leads["right"], leads["specimen_id"]) == (False, w2["id"])
    bench.post(f"/specimens/{w1['id']}/actions", {"act": "prepare", "seen": 0, "station_id": 1})
    periods = bench.get(f"{path}/{w2['code']}")
    assert periods["specimen_id"] is None
    assert f"{w1['code']} is in hand" in periods["text"]
    assert "No specimen has the code “J-1-X”" in bench.get(f"{path}/J-1-X")["text"]


def test_a_pair_is_one_recording_of_two_halves(bench: Bench, rig: int) -> None:
    job = ready(bench, "iso-13936-1", "textile-20-65")
    view = through(bench, bench.at_bench(job, "W1"))
    wait_until(
        lambda: bench.at_bench(job, "W1")["phase"] == "paused", 120, "the unsewn half did not end"
    )
    view = bench.at_bench(job, "W1")
    early = {"act": "go-on", "seen": view["last"], "station_id": 1}
    path = f"/specimens/{view['specimen_id']}/actions"
    assert bench.refused("POST", path, 409, json=early) == "bench.comes-after"
    bench.recorded(through(bench, view))
    view = bench.removed(job, "W1")
    run = bench.get(f"/runs/{view['run_id']}")
    assert [curve["name"] for curve in run["curves"]] == ["trace_unsewn", "trace_sewn"]
    unsewn, sewn = (curve["x"][-1] for curve in run["curves"])
    assert 3 < sewn - unsewn < 12
    bench.act(view)
    assert bench.specimen(job, "W1")["value"] is not None
    with transaction() as session:
        (reported,) = content_of(session, session.get_one(Job, job["id"]), None).tests
    faces, pause = reported.at_bench
    assert faces == "Confirmed before testing: Grab faces 25 mm wide fitted"
    assert re.fullmatch(r"Paused under way: W1, for \d+ s at most", pause)


def test_a_pallet_goes_through_its_schedule_and_is_read_on_time(bench: Bench, rig: int) -> None:
    holds = {"datum_s": 30.0, "full_s": 60.0, "relaxed_s": 30.0}
    job = bench.post("/jobs", pieces("iso-8611", {"test": "stiffness", **holds}))
    view = bench.at_bench(job, "S1")
    assert [ask["name"] for ask in view["step"]["asks"]] == ["full_load_n"]
    request = {"act": "lowered", "seen": 0, "station_id": view["station"]["id"]}
    path = f"/specimens/{view['specimen_id']}/actions"
    assert bench.refused("POST", path, 422, json=request) == "bench.value-needed"
    job = bench.post("/jobs", pieces("iso-8611", {"full_load_n": 5000.0, **holds}))
    bench.recorded(through(bench, bench.at_bench(job, "S1")))
    view = bench.removed(job, "S1")
    result = bench.get(f"/runs/{view['run_id']}")["result"]
    values = {name: figure["value"] for name, figure in result["values"].items()}
    assert 10 < values["deflection_full"] < 30
    assert 0 < values["creep"] < values["deflection_full"]
    assert 0 < values["residual"] < values["deflection_full"]
    assert [row["name"] for row in result["channels"]][-1] == "middle"
    test = bench.get(f"/tests/{job['tests'][0]['id']}")
    assert "strength_force" not in {row["property"] for row in test["rows"]}


def test_a_pallet_that_moves_the_wrong_way_is_stopped(bench: Bench, rig: int) -> None:
    strength = {"test": "strength", "span_mm": 1000.0, "speed_mm_min": 20.0}
    job = bench.post("/jobs", pieces("iso-8611", strength))
    view = bench.at_bench(job, "S1")
    bench.post(f"/stations/{view['station']['id']}/simulation", {"fault": "wrong-sign"})
    bench.recorded(through(bench, view))
    run = bench.get(f"/runs/{bench.at_bench(job, 'S1')['run_id']}")
    assert run["end_reason"] == "wrong sign"
    assert min(run["curves"][0]["x"]) < -1.9
    bench.removed(job, "S1")
    flags = {flag["code"] for flag in bench.specimen(job, "S1")["flags"]}
    assert "wrong-sign" in flags


def test_a_schedule_that_was_stopped_is_taken_out_and_can_only_be_void(
    bench: Bench, rig: int
) -> None:
    job = bench.post("/jobs", pieces("iso-8611", {"test": "stiffness", "full_load_n": 5000.0}))
    view = through(bench, bench.at_bench(job, "S1"))
    bench.post(f"/runs/{view['run_id']}/stop")
    bench.recorded(view)
    view = bench.removed(job, "S1")
    (odd,) = view["suspicions"]
    assert "The schedule ended early" in odd["text"]
    assert view["step"]["kind"] == "suspect"
    kept = bench.refused("POST", f"/runs/{view['run_id']}/accept", 409)
    assert kept == "reading.stiffness-incomplete"
    bench.post(f"/specimens/{view['specimen_id']}/void", {"code": "support-moved"})
    assert bench.get(f"/tests/{job['tests'][0]['id']}")["problem"] is None
    assert bench.specimen(job, "S1")["state"] == "void"


def test_a_schedule_that_moved_the_wrong_way_is_void_by_itself(bench: Bench, rig: int) -> None:
    job = bench.post("/jobs", pieces("iso-8611", {"test": "stiffness", "full_load_n": 5000.0}))
    view = bench.at_bench(job, "S1")
    bench.post(f"/stations/{view['station']['id']}/simulation", {"fault": "wrong-sign"})
    bench.recorded(through(bench, view))
    bench.act(bench.removed(job, "S1"))
    test = bench.get(f"/tests/{job['tests'][0]['id']}")
    assert (test["problem"], test["specimens"][0]["flags"][0]["code"]) == (None, "wrong-sign")


def test_a_slip_is_pointed_at_and_left_to_the_technician(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    bench.post("/stations/1/simulation", {"fault": "jaw-slip"})
    bench.ended(bench.start(job, "W1"))
    view = bench.removed(job, "W1")
    assert [odd["code"] for odd in view["suspicions"]] == ["slip"]
    assert (view["step"]["act"], view["step"]["kind"]) == ("keep", "suspect")
    bench.act(view)
    assert bench.specimen(job, "W1")["state"] == "tested"
    bench.ended(bench.start(job, "W2"))
    assert bench.at_bench(job, "W2")["suspicions"] == []


def test_whoever_leaves_a_paused_run_is_let_go(bench: Bench, rig: int) -> None:
    request = {"gauge_length_mm": 50.0, "speed_mm_min": 5.0, "extensometer_off_strain": 0.02}
    job = bench.post("/jobs", pieces("astm-e8", request))
    view = through(bench, bench.at_bench(job, "S1"))
    path = f"/specimens/{view['specimen_id']}/bench"
    wait_until(lambda: bench.get(path)["phase"] == "paused", 120, "it did not pause")
    headers = {"cookie": f"endurant={bench.token}"}
    live = f"/api/runs/{view['run_id']}/live"
    with bench.client.websocket_connect(live, headers=headers) as socket:
        assert socket.receive_json()["state"] == "running"
    # The socket above is closed here, while the run still pauses; then it is stopped.
    view = bench.get(path)
    bench.post(f"/runs/{view['run_id']}/stop")
    bench.recorded(view)
    assert bench.get(f"/runs/{view['run_id']}")["end_reason"] == "stopped by hand"


def test_an_acceptance_is_undone_within_a_minute_by_whoever_accepted(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    bench.bring_in(job, "W1")
    run_id = bench.specimen(job, "W1")["run_id"]
    path = f"/runs/{run_id}/accept/undo"
    assert bench.as_("olga").refused("POST", path, 409) == "accept.undo-too-late"
    assert bench.post(path)["state"] == "ended"
    view = bench.at_bench(job, "W1")
    assert (view["step"]["kind"], view["step"]["act"]) == ("look", "keep")
    assert bench.refused("POST", path, 409) == "accept.undo-too-late"
    bench.act(view)
    assert bench.specimen(job, "W1")["state"] == "tested"
    codes = [event["code"] for event in bench.get(f"/jobs/{job['id']}")["events"]]
    assert codes[:3] == ["keep", "undo-keep", "keep"]
    with clock.as_if(datetime.now(UTC) + timedelta(minutes=2)):
        assert bench.refused("POST", path, 409) == "accept.undo-too-late"
    assert verify().sentences == []


def test_accepting_all_is_undone_within_a_minute_and_together(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    for label in ("W1", "W2", "W3"):
        bench.bring_in(job, label, keep=label == "W3")
    test_id = bench.get(f"/jobs/{job['id']}")["tests"][0]["id"]
    path = f"/tests/{test_id}/accept"

    def states() -> dict[str, str]:
        return {label: bench.specimen(job, label)["state"] for label in ("W1", "W2", "W3")}

    bench.post(path)
    assert set(states().values()) == {"tested"}
    assert bench.as_("olga").refused("POST", f"{path}/undo", 409) == "accept.undo-too-late"
    bench.post(f"{path}/undo")
    assert states() == {"W1": "to-look-at", "W2": "to-look-at", "W3": "tested"}
    assert bench.refused("POST", f"{path}/undo", 409) == "accept.undo-too-late"
    bench.post(path)
    w2 = bench.specimen(job, "W2")["id"]
    bench.post(f"/specimens/{w2}/void", {"code": "set-aside", "remark": "mislabelled"})
    assert bench.refused("POST", f"{path}/undo", 409) == "accept.undo-too-late"
    assert states()["W1"] == "tested"
    with clock.as_if(datetime.now(UTC) + timedelta(minutes=2)):
        assert bench.refused("POST", f"{path}/undo", 409) == "accept.undo-too-late"
    assert verify().sentences == []
