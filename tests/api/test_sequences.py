"""Sequences of moves: kept by name, chosen for a test, run as they were chosen."""

from __future__ import annotations

from tests.laboratory import Bench, sample, through

TWO_SPEEDS = "to 0,25 % at 1; to break at 50"
HELD = "# Short hold\nto 5 mm at 300\nhold 3 s\nto 1 mm at 300"


def test_a_sequence_is_kept_by_name_and_each_change_is_a_revision(bench: Bench) -> None:
    kept = bench.post("/sequences", {"name": " Two  speeds ", "moves": TWO_SPEEDS})
    assert (kept["name"], kept["revision"]) == ("Two speeds", 1)
    assert kept["moves"] == "to 0.25 % at 1\nto break at 50"
    late = {"name": "Two speeds", "moves": "to break at 20", "seen": 0}
    assert bench.refused("POST", "/sequences", 409, json=late) == "sequence.stale"
    bench.post("/sequences", late | {"seen": 1})
    bench.post("/sequences", {"name": "Loop", "moves": "cycle 3 x 0 mm to 9 mm at 100"})
    assert [(row["name"], row["revision"]) for row in bench.get("/sequences")] == [
        ("Loop", 1),
        ("Two speeds", 2),
    ]
    nothing = {"name": "Broken", "moves": "to 20 mm"}
    assert bench.refused("POST", "/sequences", 422, json=nothing) == "moves.unknown"


def test_a_text_of_moves_is_drawn_before_it_is_kept(bench: Bench) -> None:
    request = {"moves": "to 2 % at 60; hold 5 s; to break at 60", "gauge_mm": 50}
    read = bench.post("/sequences/interpret", request)
    assert [point["known"] for point in read["path"]] == [True, True, True, False]
    assert read["path"][1] == {"time_s": 1.0, "extension_mm": 1.0, "known": True}
    assert bench.get("/sequences") == []


def test_a_test_runs_the_sequence_that_it_was_set_up_with(bench: Bench) -> None:
    request = sample(
        form="pieces",
        count=6,
        width_mm=None,
        length_mm=None,
        tests=[{"method": "hysteresis", "parameters": {"gauge_length_mm": 100.0}}],
    )
    job = bench.post("/jobs", request)
    test = job["tests"][0]
    view = bench.at_bench(job, "S1")
    assert view["path"] is None
    prepare = {"act": "prepare", "seen": 0, "station_id": 1}
    path = f"/specimens/{view['specimen_id']}/actions"
    why = {"deviation": "not conditioned: a trial"}
    refusal = bench.refused("POST", path, 422, json=prepare | why)
    assert refusal == "bench.value-needed"
    set_up = {"parameters": {"moves": HELD}, "revision": test["revision"]}
    bench.put(f"/tests/{test['id']}/set-up", set_up)
    view = bench.at_bench(job, "S1")
    assert view["path"]["title"] == "Short hold"
    assert view["path"]["moves"] == ["to 5 mm at 300", "hold 3 s", "to 1 mm at 300"]
    bench.recorded(through(bench, view))
    bench.removed(job, "S1")
    run = bench.get(f"/runs/{bench.at_bench(job, 'S1')['run_id']}")
    assert run["end_reason"] == "end of path"
    (curve,) = run["curves"]
    assert max(curve["x"]) == 5
    assert curve["x"][-1] == 1
    assert run["settings"]["setup"]["speed_mm_min"] == 300


def test_moves_that_cannot_be_read_do_not_set_a_test_up(bench: Bench) -> None:
    request = sample(form="pieces", count=6, width_mm=None, length_mm=None)
    request["tests"] = [{"method": "hysteresis", "parameters": {}}]
    test = bench.post("/jobs", request)["tests"][0]
    wrong = {"parameters": {"moves": "up a bit"}, "revision": test["revision"]}
    refusal = bench.refused("PUT", f"/tests/{test['id']}/set-up", 422, json=wrong)
    assert refusal == "moves.unknown"
