"""Jobs at the bench, each with the mistake that is easily made in it."""

from __future__ import annotations

from typing import Any

from endurant.core.bench.actions import GO
from endurant.store.server import wait_until
from tests.laboratory import WHY, Bench, answers, pieces, ready, through

SHAKEN = {"motion": "random", "level_g_rms": 0.6}


def deviations(bench: Bench, job: dict[str, Any]) -> str:
    return " | ".join(bench.get(f"/jobs/{job['id']}/draft")["deviations"])


def actions(view: dict[str, Any]) -> str:
    return f"/specimens/{view['specimen_id']}/actions"


def test_a_table_that_is_stopped_early_needs_a_reason_and_one_that_ran_through_does_not(
    bench: Bench, rig: int
) -> None:
    long = bench.post("/jobs", pieces("iso-13355", SHAKEN | {"minutes": 600.0}))
    view = through(bench, bench.at_bench(long, "S1"), f"{GO}look", deviation=WHY)
    assert "load as it travels" in str(view["checks"])
    assert "Everyone clear of the table while it runs" in view["step"]["caution"]
    view = bench.act(view)
    assert "You confirm" not in view["step"]["caution"]
    look = {"act": "look", "seen": view["last"], "station_id": view["station"]["id"]}
    look["values"] = answers(view["step"]) | {"minutes": 0.1}
    assert bench.refused("POST", actions(view), 409, json=look) == "bench.held"
    view = bench.post(actions(view), look | {"deviation": "the load fell over"})
    bench.act(through(bench, view))
    assert "Reason: the load fell over." in deviations(bench, long)

    short = bench.post("/jobs", pieces("iso-13355", SHAKEN | {"minutes": 1.0}))
    view = bench.act(through(bench, bench.at_bench(short, "S1"), f"{GO}look", deviation=WHY))
    path = f"/specimens/{view['specimen_id']}/bench"
    wait_until(lambda: bench.get(path)["step"]["held_until"] is None, 120, "it did not run through")
    view = bench.get(path)
    bench.act(through(bench, view, minutes=1.0))
    assert "Examine" not in deviations(bench, short)
    assert " s of 60 s" not in deviations(bench, short)


def test_a_pack_under_vacuum_is_looked_at_for_its_time_and_clinging_bubbles_are_no_leak(
    bench: Bench, rig: int
) -> None:
    job = bench.post("/jobs", pieces("bubble-leak", {"vacuum_kpa": 30.0}))
    view = bench.at_bench(job, "S1")
    while view["step"]["held_until"] is None:
        view = bench.act(view, values={})
    asks = [ask["name"] for ask in view["step"]["asks"]]
    look = {"act": view["step"]["act"], "seen": view["last"], "station_id": view["station"]["id"]}
    bubbles = next(ask for ask in view["step"]["asks"] if ask["choices"])
    clinging = next(choice for choice in bubbles["choices"] if "cling" in choice)
    look["values"] = {bubbles["name"]: clinging}
    assert bench.refused("POST", actions(view), 409, json=look) == "bench.held"
    view = bench.post(actions(view), look | {"deviation": "a corner of the pack came off"})
    assert len(asks) == 2
    while view["step"]["act"] != "keep":
        view = bench.act(view, values={})
    bench.act(view)
    kept = bench.specimen(job, "S1")
    assert [flag["code"] for flag in kept["flags"] if flag["severity"] == "void"] == []
    assert "Reason: a corner of the pack came off." in deviations(bench, job)


def test_a_film_is_not_punctured_without_its_thickness_and_a_large_cell_needs_a_reason(
    bench: Bench, rig: int
) -> None:
    job = ready(bench, "astm-f1306", "plastics-23-50")
    view = bench.at_bench(job, "O1")
    assert view["step"]["title"] == "Complete the data of O1"
    assert [ask["name"] for ask in view["step"]["asks"]] == ["thickness_mm"]
    frame = view["station"]
    path = actions(view)
    before = {"act": "prepare", "seen": view["last"], "station_id": frame["id"]}
    assert bench.refused("POST", path, 422, json=before) == "bench.value-needed"
    view = bench.act(view, values={"thickness_mm": "0.08 0.081 0.079"})
    large = next(each for each in view["stations"] if each["name"] == "Large frame")
    before = {"act": "prepare", "seen": view["last"], "station_id": large["id"]}
    said = bench.refused("POST", path, 409, json=before)
    assert said == "bench.departed-wait"


def test_an_opening_under_load_is_measured_while_it_is_held(bench: Bench, rig: int) -> None:
    job = ready(bench, "iso-13936-2", "textile-20-65")
    view = through(bench, bench.at_bench(job, "W1"), "start")
    view = bench.act(view)
    path = f"/specimens/{view['specimen_id']}/bench"
    wait_until(lambda: bench.get(path)["phase"] == "paused", 120, "it was not held")
    view = bench.get(path)
    assert view["step"]["title"] == "Measure while the force is held"
    empty = {"act": view["step"]["act"], "seen": view["last"], "station_id": view["station"]["id"]}
    assert bench.refused("POST", actions(view), 422, json=empty) == "bench.value-missing"
    view = bench.act(bench.act(view, values={"seam_opening_mm": "5.8 6.1"}))
    wait_until(lambda: bench.get(path)["phase"] not in ("recording", "paused"), 120, "no end")
    bench.act(through(bench, bench.get(path)))
    assert bench.specimen(job, "W1")["value"] == 6.1
