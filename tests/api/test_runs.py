"""Live runs, runs from files, voids; and what happens when a plug is pulled."""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import httpx2
import numpy as np
import pytest
from fastapi.testclient import TestClient

from endurant.api import routes_bench
from endurant.api.app import build_app
from endurant.core.simulate.tear import sample_tear, specimen_from_label
from endurant.devices.driver import Order, Recorder
from endurant.store import clock
from endurant.store.engine import transaction
from endurant.store.server import DatabaseServer, port_is_free, wait_until, with_parent
from endurant.store.tables import Run, Specimen, Station, Test
from endurant.work.base.memory import Remembered
from endurant.work.facts import results
from endurant.work.upkeep.founding import move_station
from endurant.work.use_cases.bench import live
from endurant.work.use_cases.bench.live import close_run, drawn_columns
from endurant.work.use_cases.bench.runs import station_run
from endurant.work.use_cases.bench.stations import recorder_of
from tests.conftest import StandIn, free_port
from tests.laboratory import Bench, found

SAMPLES = 4501


@pytest.fixture
def slow(bench: Bench) -> Iterator[StandIn]:
    """A frame slow enough to be caught in mid-run; the laboratory's station is moved to it."""
    standin = StandIn(pace=12)
    standin.start()
    move_station(1, "127.0.0.1", standin.port)
    yield standin
    standin.kill()


def started(bench: Bench, job: dict[str, Any]) -> dict[str, Any]:
    """A run of W1 from which the first samples have come."""
    run = bench.start(job, "W1")
    wait_until(lambda: bench.get(f"/runs/{run['id']}")["samples"] > 100, 120, "no samples came")
    return run


def line_lost(bench: Bench, run: dict[str, Any]) -> None:
    """Wait until the record says that the line is lost."""
    wait_until(lambda: bench.get(f"/runs/{run['id']}")["line"] == "lost", 120, "nobody noticed")


def recorder_of_station_1() -> Recorder:
    """A line of one's own to the frame."""
    with transaction() as session:
        return recorder_of(session.get_one(Station, 1))


def samples_of(bench: Bench, run_id: int) -> list[list[float]]:
    text = bench.call("GET", f"/runs/{run_id}/trace.csv").text
    header, *rows = text.strip().split("\n")
    assert header == "time_s,extension_mm,force_n"
    return [[float(cell) for cell in row.split(",")] for row in rows]


def true_samples(code: str) -> list[list[float]]:
    columns = sample_tear(specimen_from_label(code), 150)
    rows = zip(columns["time_s"], columns["extension_mm"], columns["force_n"], strict=True)
    return [list(row) for row in rows]


def test_nothing_is_drawn_before_a_device_says_which_channels_it_has() -> None:
    pallet = Specimen(test=Test(method="iso-8611", parameters={"test": "stiffness"}))
    x, y = drawn_columns(Run(specimen=pallet, channels=None), np.empty((0, 3)))
    assert (x.size, y.size) == (0, 0)


def test_a_run_ends_with_every_sample_and_its_figure(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    run = bench.pull(job, "W1")
    assert run["samples"] == SAMPLES
    assert run["end_reason"] == "end of travel"
    assert samples_of(bench, run["id"]) == true_samples(bench.specimen(job, "W1")["code"])
    assert run["result"]["values"]["tear_force"]["value"] == pytest.approx(
        bench.specimen(job, "W1")["value"]
    )
    kinds = [mark["kind"] for mark in run["result"]["marks"]]
    assert kinds == ["bands", "points", "line"]
    row = bench.get(f"/tests/{job['tests'][0]['id']}")["rows"][0]
    assert (row["summary"]["n"], row["to_go"], row["verdict"]) == (1, 4, "not judged")


def test_the_curve_reaches_every_browser_that_looks(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    run = bench.start(job, "W1")
    seen = 0
    headers = {"cookie": f"endurant={bench.token}"}
    with bench.client.websocket_connect(f"/api/runs/{run['id']}/live", headers=headers) as socket:
        piece = json.loads(socket.receive_text())
        while piece["state"] == "running":
            assert piece["samples"] >= seen
            seen = piece["samples"]
            piece = json.loads(socket.receive_text())
    assert piece["samples"] == SAMPLES
    assert bench.get(f"/runs/{run['id']}/samples?first=4400")["samples"] == SAMPLES


def test_the_ready_check_holds_the_start(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    path = f"/specimens/{bench.specimen(job, 'W1')['id']}/actions"
    start = {"act": "start", "station_id": 1, "seen": 0, "confirmed": ["fingers-clear"]}
    refusal = bench.refused("POST", path, 409, json=start)
    assert refusal == "bench.comes-after"
    view = bench.make_ready(job)
    start["seen"] = view["last"]
    refusal = bench.refused("POST", path, 422, json=start | {"confirmed": []})
    assert refusal == "bench.checks-unconfirmed"
    recorder_of_station_1().do("prepare", gauge_mm=180, speed_mm_min=50)
    refusal = bench.refused("POST", path, 422, json=start)
    assert refusal == "bench.ready-check-open"
    assert refusal == "bench.ready-check-open"
    assert bench.specimen(job, "W1")["state"] == "ready"


def test_a_retried_start_runs_once_and_a_tested_specimen_is_not_pulled_again(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    ready = bench.make_ready(job)
    begun = bench.act(ready, request_key="start-1")
    run = bench.ended({"id": begun["run_id"]})
    assert bench.act(ready, request_key="start-1")["run_id"] == run["id"]
    assert len(bench.at_bench(job, "W1")["events"]) == len(ready["events"]) + 2
    bench.removed(job, "W1")
    bench.post(f"/runs/{run['id']}/accept")
    path = f"/specimens/{run['specimen_id']}/actions"
    again = {"act": "start", "station_id": 1, "seen": 99, "confirmed": ["fingers-clear"]}
    assert bench.refused("POST", path, 409, json=again) == "specimen.already-tested"


def test_stopping_keeps_what_there_is(bench: Bench, slow: StandIn) -> None:
    job = bench.job_ready_to_test()
    run = started(bench, job)
    bench.post(f"/runs/{run['id']}/stop")
    over = bench.ended(run)
    assert over["end_reason"] == "stopped by hand"
    assert 100 < over["samples"] < SAMPLES
    kept = samples_of(bench, run["id"])
    assert kept == true_samples(bench.specimen(job, "W1")["code"])[: len(kept)]


@pytest.mark.parametrize("fault", ["unplug", "rubbish"])
def test_a_lost_line_is_caught_up(bench: Bench, fault: str) -> None:
    job = bench.job_ready_to_test()
    bench.post("/stations/1/simulation", {"fault": fault})
    run = bench.ended(bench.start(job, "W1"))
    assert run["samples"] == SAMPLES
    assert samples_of(bench, run["id"]) == true_samples(bench.specimen(job, "W1")["code"])


def test_a_frame_that_lost_its_memory_closes_the_run_with_what_is_stored(
    bench: Bench, slow: StandIn
) -> None:
    job = bench.job_ready_to_test()
    run = started(bench, job)
    slow.kill()
    line_lost(bench, run)
    assert "does not answer" in bench.get(f"/runs/{run['id']}")["line_message"]
    assert "does not answer" in bench.get("/stations")[0]["text"]
    slow.start()
    over = bench.ended(run)
    assert "no longer holds this test" in over["end_reason"]
    kept = samples_of(bench, run["id"])
    assert len(kept) > 100
    assert kept == true_samples(bench.specimen(job, "W1")["code"])[: len(kept)]


def test_a_run_can_be_closed_by_hand_while_the_line_is_lost(bench: Bench, slow: StandIn) -> None:
    run = started(bench, bench.job_ready_to_test())
    slow.kill()
    line_lost(bench, run)
    over = bench.post(f"/runs/{run['id']}/stop")
    assert (over["state"], over["end_reason"]) == (
        "recorded",
        "closed by the operator while the connection was lost",
    )


def test_a_frame_started_at_its_own_panel_is_not_ready(bench: Bench, slow: StandIn) -> None:
    job = bench.job_ready_to_test()
    ready = bench.make_ready(job)
    setup: dict[str, float | str] = {"speed_mm_min": 100, "end_mm": 150}
    recorder_of_station_1().begin(Order("by-hand", "nobody", "iso-13937-2", setup))
    path = f"/specimens/{ready['specimen_id']}/actions"
    body = {
        "act": "start",
        "seen": ready["last"],
        "station_id": 1,
        "confirmed": ["fingers-clear"],
    }
    wording = bench.refused("POST", path, 422, json=body)
    assert wording == "bench.ready-check-open"
    assert bench.specimen(job, "W1")["state"] == "ready"


def test_a_run_without_samples_leaves_the_specimen_to_be_run_again(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    w1 = bench.specimen(job, "W1")
    with transaction() as session:
        specimen = session.get_one(Specimen, w1["id"])
        station = session.get_one(Station, 1)
        run = station_run(session, bench.actor, specimen, station, clock.now(), {})
        session.add(run)
        session.flush()
        close_run(session, run, "the frame refused")
        assert run.state == "abandoned"
    assert bench.specimen(job, "W1")["state"] == "ready"
    assert bench.pull(job, "W1")["samples"] == SAMPLES


def test_a_live_view_ends_with_the_session_of_its_viewer(
    bench: Bench, slow: StandIn, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(routes_bench, "LOOKS_BETWEEN_SESSIONS", 1)
    job = bench.job_ready_to_test()
    run = started(bench, job)
    viewer = bench.as_("olga")
    headers = {"cookie": f"endurant={viewer.token}"}
    path = f"/api/runs/{run['id']}/live"
    with bench.client.websocket_connect(path, headers=headers) as socket:
        socket.receive_json()
        viewer.call("DELETE", "/session")
        message = socket.receive()
        while message["type"] == "websocket.send":
            message = socket.receive()
    assert message["code"] == routes_bench.REFUSED_CODE
    bench.ended(run)


def test_a_killed_server_loses_nothing(server: DatabaseServer, database: str) -> None:
    """One web process starts a run and is killed; another takes it up to its end."""
    standin = StandIn(pace=12)
    standin.start()
    found(standin.port)
    port = free_port()
    first = subprocess.Popen(
        [*with_parent(), sys.executable, "-m", "endurant.cli", "serve", "--port", str(port)]
    )
    wait_until(lambda: not port_is_free(port), 120, "the first web process did not start")
    with TestClient(build_app()) as client:
        here = Bench(client, "ines")
        job = here.job_ready_to_test()
        ready = here.make_ready(job)
        begun = httpx2.post(
            f"http://127.0.0.1:{port}/api/specimens/{ready['specimen_id']}/actions",
            json={
                "act": "start",
                "seen": ready["last"],
                "station_id": 1,
                "confirmed": ["fingers-clear"],
            },
            headers={"cookie": f"endurant={here.token}"},
            timeout=30,
        ).json()
        started = {"id": begun["run_id"]}
        wait_until(
            lambda: here.get(f"/runs/{started['id']}")["samples"] > 50, 120, "no samples came"
        )
        first.kill()
        first.wait()
        over = here.ended(started)
        assert over["samples"] == SAMPLES
        assert samples_of(here, started["id"]) == true_samples(here.specimen(job, "W1")["code"])
    standin.kill()


def test_the_database_down_is_a_sentence_and_the_run_waits_for_it(
    bench: Bench, slow: StandIn, server: DatabaseServer
) -> None:
    job = bench.job_ready_to_test()
    run = started(bench, job)
    server.kill()
    assert bench.refused("GET", "/jobs", 503) == "database.no-answer"
    server.start()
    over = bench.ended(run)
    assert over["samples"] == SAMPLES
    assert samples_of(bench, run["id"]) == true_samples(bench.specimen(job, "W1")["code"])


def test_a_file_is_looked_at_like_a_run(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    run = bench.bring_in(job, "W1", keep=False)
    assert run["state"] == "ended"
    assert run["source_name"] == "W1.csv"
    assert any("“Load (N)” taken as force_n" in line for line in run["said"])
    assert run["result"]["values"]["tear_force"]["value"] > 20
    assert bench.specimen(job, "W1")["state"] == "to-look-at"


@pytest.mark.parametrize(
    ("data", "wording"),
    [
        (b"1,2\n3,4\n", "csv.no-header"),
        (b"Extension (mm),Load (N)\n0,1\n1,slip\n", "csv.not-a-number"),
        (b"Extension (mm),Load (N)\n0,1\n1\n", "csv.value-count"),
        (b"Extension (mm),Load (N)\n", "csv.no-samples"),
        (b"Extension (mm),Load (N)\n0,1\n", "trace.too-short"),
        (b"Extension (mm),Load (N)\n0,5,1,2\n1,5,2,4\n", "csv.value-count-decimal-commas"),
        (b"Time (s),Extension (mm),Load (N)\n1,0,1\n0,1,2\n", "trace.time-falls"),
        (b"Extension (mm),Load (N)\n" + b"1,2\n" * 2_000_000, "csv.too-many-samples"),
    ],
)
def test_a_bad_file_leaves_the_specimen_as_it_was(bench: Bench, data: bytes, wording: str) -> None:
    job = bench.job_ready_to_test()
    specimen = bench.specimen(job, "W1")
    files = {"file": ("bad.csv", data)}
    assert bench.refused("POST", f"/specimens/{specimen['id']}/trace", 422, files=files) == wording
    after = bench.specimen(job, "W1")
    assert (after["state"], after["run_id"]) == ("ready", None)


def test_a_void_calls_for_the_spare_and_is_taken_back_with_a_reason(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    assert may(bench, job, "W1") == (True, True)
    bench.bring_in(job, "W1", keep=False)
    assert may(bench, job, "W1") == (True, False)
    spare = bench.specimen(job, "W6")
    assert spare["called"] is False
    body = {"station_id": 1, "confirmed": []}
    assert (
        bench.refused(
            "POST",
            f"/specimens/{spare['id']}/trace",
            409,
            files={"file": ("x.csv", b"Extension,Load\n0,1\n1,2\n")},
        )
        == "specimen.spare"
    ), body
    w1 = bench.specimen(job, "W1")
    bench.post(f"/specimens/{w1['id']}/void", {"code": "jaw-slip"})
    w1 = bench.specimen(job, "W1")
    assert may(bench, job, "W1") == (False, False)
    assert w1["state"] == "void"
    assert w1["value"] is not None
    assert w1["void"]["by"] == "Ines Tester"
    assert bench.specimen(job, "W6")["called"] is True
    row = bench.get(f"/tests/{job['tests'][0]['id']}")["rows"][0]
    assert (row["summary"], len(row["rule"]["voids"])) == (None, 1)
    back = f"/specimens/{w1['id']}/void/withdraw"
    assert bench.refused("POST", back, 422, json={"reason": " "}) == "void.undo-reason-needed"
    bench.post(back, {"reason": "the slip was on W2"})
    assert bench.specimen(job, "W1")["state"] == "tested"
    assert bench.specimen(job, "W6")["called"] is False


def may(bench: Bench, job: dict[str, Any], label: str) -> tuple[bool, bool]:
    """Whether a specimen may be voided, and its trace brought in, as the bench says."""
    view = bench.at_bench(job, label)
    return view["may_void"], view["may_bring_in"]


def test_unknown_void_codes_are_refused(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    run = bench.bring_in(job, "W1")
    path = f"/specimens/{run['specimen_id']}/void"
    assert bench.refused("POST", path, 422, json={"code": "unwelcome"}) == "void.code-unknown"


def test_two_people_voiding_the_same_specimen(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    run = bench.bring_in(job, "W1", keep=False)
    olga = bench.as_("olga")
    path = f"/specimens/{run['specimen_id']}/void"
    bench.post(path, {"code": "jaw-slip"})
    refusal = olga.refused("POST", path, 409, json={"code": "tear-off-line"})
    assert refusal == "void.already"
    assert bench.specimen(job, "W1")["void"]["code"] == "jaw-slip"


def test_two_voids_at_the_same_moment_make_one(bench: Bench) -> None:
    from endurant.core.refusals import Conflict
    from endurant.work.use_cases.bench.voids import VoidRequest, void

    job = bench.job_ready_to_test()
    run = bench.bring_in(job, "W1", keep=False)
    actors = [bench.actor, bench.as_("olga").actor] * 3

    def attempt(place: int) -> str:
        try:
            void(actors[place], run["specimen_id"], VoidRequest(code="jaw-slip"))
        except Conflict as refusal:
            return refusal.code
        return "voided"

    with ThreadPoolExecutor(6) as pool:
        outcomes = list(pool.map(attempt, range(6)))
    assert outcomes.count("voided") == 1
    assert bench.get("/jobs")["jobs"][0]["tested"] == 0


def test_a_second_void_needs_a_replacement_from_the_sheet(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    test_id = job["tests"][0]["id"]
    path = f"/tests/{test_id}/replacements/warp"
    assert bench.refused("POST", path, 409) == "replacement.not-needed"
    for label in ("W1", "W2"):
        run = bench.bring_in(job, label, keep=False)
        bench.post(f"/specimens/{run['specimen_id']}/void", {"code": "jaw-slip"})
    sheet = bench.post(path)
    assert sheet["broken"] == []
    fresh = bench.specimen(job, "W7")
    assert (fresh["state"], fresh["called"]) == ("cut", True)


def test_time_not_served_is_a_named_deviation(bench: Bench) -> None:
    job = bench.post("/jobs", _fresh())
    sheet = bench.post(
        f"/jobs/{job['id']}/sheet/place", {"revision": job["revision"], "seconds": 0}
    )
    bench.post(f"/jobs/{job['id']}/sheet/cut", {"revision": sheet["revision"]})
    w1 = bench.specimen(job, "W1")
    bench.post("/enclosures/1/placements", {"specimen_ids": [w1["id"]]})
    view = bench.at_bench(job, "W1")
    assert "was conditioned for 0 h of 24 h" in view["step"]["why"]
    early = {"act": "prepare", "seen": 0, "station_id": 1}
    path = f"/specimens/{w1['id']}/actions"
    assert bench.refused("POST", path, 409, json=early) == "bench.departed-wait"
    bench.post(path, early | {"deviation": "the client waits"})
    run = bench.start(job, "W1")
    bench.ended(run)
    bench.removed(job, "W1")
    bench.post(f"/runs/{run['id']}/accept")
    deviations = bench.get(f"/jobs/{job['id']}/draft")["deviations"]
    assert any("0 h of 24 h" in line and "the client waits" in line for line in deviations)


def _fresh() -> dict[str, object]:
    from tests.laboratory import sample

    return sample()


def test_figures_are_computed_before_the_run_is_closed(
    bench: Bench, monkeypatch: pytest.MonkeyPatch
) -> None:
    happened: list[str] = []

    def noted(name: str, whole: Callable[..., Any]) -> Callable[..., Any]:
        def act(*given: Any) -> Any:
            happened.append(name)
            return whole(*given)

        return act

    monkeypatch.setattr(results, "_figures", Remembered(9))
    monkeypatch.setattr(results, "test_result", noted("computed", results.test_result))
    monkeypatch.setattr(live, "close_run", noted("closed", live.close_run))
    job = bench.job_ready_to_test()
    bench.ended(bench.start(job, "W1"))
    closed = happened.index("closed")
    assert happened[:closed] == ["computed"]
