"""Enclosures over the API: logs, chains, weighings, and how departures reach the report."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from sqlalchemy import text

from endurant.store.engine import engine_for
from endurant.work.base.transactions import transaction
from endurant.work.read_models.board import board_key
from endurant.work.upkeep.founding import NewLogger, add_enclosure
from endurant.work.upkeep.verify import verify
from endurant.work.use_cases.preparation.enclosures import read_loggers
from endurant.work.use_cases.preparation.windows import watch_windows
from tests.conftest import StandIn
from tests.laboratory import Bench, behind_its_back, sample

FIRE = {"method": "16-cfr-1610", "parameters": {"surface": "plain"}}
PLASTICS = {"method": "iso-527"}
BAR = {"method": "iso-180", "parameters": {"pendulum_j": 5.5, "friction_j": 0.02}}


def log_of(*stretches: tuple[float, float, float], every_min: int = 10) -> bytes:
    """A log: temperatures from so many hours ago to so many hours ago."""
    now = datetime.now(UTC).replace(microsecond=0)
    rows = ["time,temperature_c,humidity_percent"]
    for start_h, end_h, celsius in stretches:
        at = now - timedelta(hours=start_h)
        while at < now - timedelta(hours=end_h):
            rows.append(f"{at.isoformat()},{celsius},65")
            at += timedelta(minutes=every_min)
    return "\n".join(rows).encode()


def bring_log(bench: Bench, data: bytes, enclosure: int = 1, status: int = 201) -> Any:
    answer = bench.call("POST", f"/enclosures/{enclosure}/log", files={"file": ("room.csv", data)})
    assert answer.status_code == status, answer.text
    return answer.json()


def room(bench: Bench, place: int = 0) -> Any:
    return bench.get("/conditioning")["enclosures"][place]


def cut_job(bench: Bench, *tests: dict[str, Any]) -> dict[str, Any]:
    job = bench.post("/jobs", sample(tests=list(tests), length_mm=2000))
    body = {"revision": job["revision"], "seconds": 0}
    sheet = bench.post(f"/jobs/{job['id']}/sheet/place", body)
    bench.post(f"/jobs/{job['id']}/sheet/cut", {"revision": sheet["revision"]})
    cut: dict[str, Any] = bench.get(f"/jobs/{job['id']}")
    return cut


def ids(job: dict[str, Any]) -> list[int]:
    return [specimen["id"] for test in job["tests"] for specimen in test["specimens"]]


def hours_pass(database: str, hours: float) -> None:
    """Every stay began, and ended, so many hours earlier than the record says."""
    seconds = round(hours * 3600)
    behind_its_back(
        database,
        *(
            f"UPDATE conditioning_period SET {column} = {column} - INTERVAL {seconds} SECOND"
            for column in ("placed_at", "removed_at")
        ),
    )


def test_a_log_proves_the_time_and_an_excursion_restarts_it(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    group = room(bench)["groups"][0]
    assert (group["ready"], group["counted_by"]) == (True, "clock")
    bring_log(bench, log_of((26, 0, 20)))
    group = room(bench)["groups"][0]
    assert (group["ready"], group["counted_by"]) == (True, "log")
    assert bench.specimen(job, "W1")["state"] == "ready"


def test_both_schools_are_told_and_the_house_takes_one(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    bring_log(bench, log_of((26, 6, 20), (6, 5.5, 23.1), (5.5, 0, 20)))
    group = room(bench)["groups"][0]
    assert not group["ready"]
    assert group["excursions"] == 1
    assert group["outside_minutes"] == pytest.approx(30, abs=10)
    assert group["restart_minutes"] == pytest.approx(5.5 * 60, abs=11)
    assert group["subtract_minutes"] == pytest.approx(24.5 * 60, abs=11)
    assert group["runs_out_at"] is not None
    assert bench.specimen(job, "W1")["state"] == "conditioning"
    log = bench.get("/enclosures/1/log?hours=24")
    assert [excursion["text"] for excursion in log["excursions"]] == [
        "out of tolerance, worst 23.1 °C"
    ]


def test_a_gap_proves_nothing_and_the_clock_stands(bench: Bench) -> None:
    bench.job_ready_to_test()
    bring_log(bench, log_of((26, 3, 20)))
    group = room(bench)["groups"][0]
    assert not group["ready"]
    assert group["runs_out_at"] is None
    assert group["unproven_minutes"] == pytest.approx(180, abs=21)
    log = bench.get("/enclosures/1/log?hours=12")
    assert len(log["gaps"]) == 1


def test_a_log_comes_once_and_contradicts_nothing(bench: Bench) -> None:
    data = log_of((3, 1, 20))
    assert bring_log(bench, data)["added"] == 12
    again = bring_log(bench, data)
    assert (again["added"], again["known"]) == (0, 12)
    other = data.replace(b",20,65", b",20.5,65")
    assert bring_log(bench, other, status=409)["code"] == "log-file.contradicts"
    csv = bench.call("GET", "/enclosures/1/log.csv").text
    assert csv.count("\n") == 13
    assert bring_log(bench, csv.encode())["known"] == 12


def test_an_older_part_of_a_log_is_on_the_board_at_once(bench: Bench) -> None:
    bring_log(bench, log_of((3, 0, 20)))
    with transaction() as session:
        before = board_key(session)
    bring_log(bench, log_of((26, 20, 23.5)))
    with transaction() as session:
        after = board_key(session)
    mended, newest = 2, 5
    assert after[newest] == before[newest]
    assert after[mended] != before[mended]


@pytest.mark.parametrize(
    ("data", "wording"),
    [
        (
            b"time,temperature_c,humidity_percent\n2099-01-01T00:00Z,20,65\n",
            "log-file.ends-in-future",
        ),
        (b"time,temperature_c\n2026-01-01T00:00Z,20\n", "log-file.humidity-missing"),
        (b"\xff\x00\xfe", "csv.not-text"),
    ],
)
def test_a_log_that_cannot_be_is_refused(bench: Bench, data: bytes, wording: str) -> None:
    assert bring_log(bench, data, status=422)["code"] == wording
    assert bring_log(bench, log_of((2, 1, 20)), 77, 422)["code"] == "enclosure.unknown"


def test_specimens_are_moved_and_a_wrong_room_does_not_count(bench: Bench) -> None:
    add_enclosure("Film room", "film-23-50")
    job = bench.job_ready_to_test()
    ask = {"specimen_ids": ids(job)[:2]}
    assert (
        bench.refused("POST", "/enclosures/1/placements", 409, json=ask)
        == "conditioning.already-placed"
    )
    view = bench.post("/enclosures/2/placements", ask)
    group = view["enclosures"][1]["groups"][0]
    assert not group["counts"]
    assert group["then"] == "does not count: requires textile room"
    assert bench.specimen(job, "W1")["state"] == "ready"
    bench.post("/enclosures/removals", ask)
    refusal = bench.refused("POST", "/enclosures/removals", 409, json=ask)
    assert refusal == "conditioning.not-placed"


def test_a_chain_with_windows_reaches_the_report(bench: Bench, database: str) -> None:
    oven, cooler = add_enclosure("Oven", "oven-105"), add_enclosure("Desiccator", "desiccator")
    job = cut_job(bench, FIRE)
    ask = {"specimen_ids": ids(job)}
    waiting = bench.get("/conditioning")["waiting"]
    assert [specimen["atmosphere_title"] for specimen in waiting] == ["Drying oven"]
    assert [early["code"] for early in waiting[0]["early"]] == ["mounted"]
    unmounted = bench.refused("POST", f"/enclosures/{oven}/placements", 422, json=ask)
    assert unmounted == "bench.action-unconfirmed"
    bench.post(f"/enclosures/{oven}/placements", ask | {"confirmed": ["mounted"]})
    hours_pass(database, 0.55)
    group = room(bench, 1)["groups"][0]
    assert (group["ready"], group["then"]) == (True, "then the desiccator")
    assert [specimen["atmosphere_title"] for specimen in bench.get("/conditioning")["waiting"]] == [
        "Desiccator"
    ]
    bench.post(f"/enclosures/{cooler}/placements", ask)
    hours_pass(database, 0.3)
    assert room(bench, 2)["groups"][0]["ready"]
    bench.post("/enclosures/removals", ask)
    clocks = bench.get("/clocks")["clocks"]
    assert [clock["kind"] for clock in clocks] == ["at-most"]
    watch_windows()
    assert closed_windows(bench, job) == []
    hours_pass(database, 0.05)
    watch_windows()
    watch_windows()
    (closed,) = closed_windows(bench, job)
    assert closed.endswith("the window into the test closed")
    path = f"/tests/{job['tests'][0]['id']}/readings"
    burned = {"label": "L1", "direction": "length", "round": "preliminary", "code": "DNI"}
    body = {"document": {"specimens": [burned]}}
    late = bench.refused("POST", path, 409, json=body)
    assert late == "bench.departed-wait"
    bench.post(path, body | {"deviation": "the hood was taken"})
    bench.post(f"/tests/{job['tests'][0]['id']}/accept")
    deviations = bench.get(f"/jobs/{job['id']}/draft")["deviations"]
    assert any("The maximum is 45 s. Reason: the hood was taken." in line for line in deviations)
    assert not any("window closed" in line for line in deviations)


def closed_windows(bench: Bench, job: dict[str, Any]) -> list[str]:
    happened = bench.get(f"/jobs/{job['id']}")["events"]
    return [line["text"] for line in happened if "window" in line["text"]]


def test_the_next_stage_is_not_left_out_in_silence(bench: Bench, database: str) -> None:
    oven = add_enclosure("Oven", "oven-105")
    job = cut_job(bench, FIRE)
    mounted = {"specimen_ids": ids(job), "confirmed": ["mounted"]}
    bench.post(f"/enclosures/{oven}/placements", mounted)
    hours_pass(database, 1)
    burned = {"label": "L1", "direction": "length", "round": "preliminary", "code": "DNI"}
    path = f"/tests/{job['tests'][0]['id']}/readings"
    said = bench.refused("POST", path, 409, json={"document": {"specimens": [burned]}})
    assert said == "bench.departed-wait"


def test_equilibrium_by_weighing_ends_the_wait(bench: Bench, database: str) -> None:
    job = cut_job(bench, {"method": "iso-13937-2"})
    first = ids(job)[0]
    path = f"/specimens/{first}/weighings"
    refusal = bench.refused("POST", path, 409, json={"mass_g": 4.2})
    assert refusal == "conditioning.weigh-not-placed"
    bench.post("/enclosures/1/placements", {"specimen_ids": ids(job)})
    bench.post(path, {"mass_g": 4.2})
    hours_pass(database, 3)
    behind_its_back(database, "UPDATE weighing SET at = at - INTERVAL 3 HOUR")
    bench.post(path, {"mass_g": 4.205})
    states = {
        specimen["label"]: specimen["state"]
        for specimen in bench.get(f"/tests/{job['tests'][0]['id']}")["specimens"]
    }
    assert (states["W1"], states["W2"]) == ("ready", "conditioning")
    placed = room(bench)["groups"][0]["specimens"][0]
    assert placed["counted_by"] == "weighing"
    assert placed["equilibrium"].startswith("in equilibrium: 0.12 %")
    assert bench.refused("POST", path, 422, json={"mass_g": 0}) == "field.too-low"


def test_a_wet_test_is_soaked_and_tested_within_a_minute(bench: Bench, database: str) -> None:
    bath = add_enclosure("Bath", "water")
    job = cut_job(bench, {"method": "iso-13937-2"})
    test = job["tests"][0]
    body = {"state": "wet", "revision": test["revision"]}
    view = bench.call("PUT", f"/tests/{test['id']}/preparation", json=body).json()
    assert [stage["text"] for stage in view["stages"]] == ["Water bath 60 min, then within 60 s"]
    assert bench.refused("PUT", f"/tests/{test['id']}/preparation", 409, json=body) == "stale"
    bench.post(f"/enclosures/{bath}/placements", {"specimen_ids": ids(job)})
    hours_pass(database, 1.1)
    bench.make_ready(job)
    bench.bring_in(job, "W1")
    document = bench.get(f"/tests/{test['id']}/document.json")
    assert document["specimens"][0]["state"] == "wet"
    summary = bench.get(f"/jobs/{job['id']}")["tests"][0]["rows"]
    assert any("wet" in row["group"] for row in summary)


def test_another_chain_is_named_in_the_report(bench: Bench) -> None:
    job = bench.post("/jobs", sample(tests=[BAR]))
    test = job["tests"][0]
    chain = [
        {"atmosphere": "plastics-23-50", "least_minutes": 960},
        {"atmosphere": "chamber", "least_minutes": 30, "most_wait_minutes": 0.0833},
    ]
    path = f"/tests/{test['id']}/preparation"
    body = {"stages": chain, "revision": test["revision"]}
    view = bench.call("PUT", path, json=body).json()
    assert view["changed"]
    deviations = bench.get(f"/jobs/{job['id']}/draft")["deviations"]
    assert any(
        "prepared by Plastics room 16 h; Cold or hot chamber 30 min, then within 5 s" in line
        for line in deviations
    )
    odd = {"stages": [{"atmosphere": "sauna", "least_minutes": 3}], "revision": view["revision"]}
    assert bench.refused("PUT", path, 422, json=odd) == "conditioning.atmosphere-unknown"
    back = bench.call("PUT", path, json={"revision": view["revision"]}).json()
    assert not back["changed"]


def test_rubber_is_tested_neither_too_young_nor_too_old(bench: Bench) -> None:
    rubber = add_enclosure("Rubber room", "rubber-23-50")
    job = cut_job(bench, {"method": "iso-37"})
    test = job["tests"][0]
    made = (datetime.now(UTC) - timedelta(hours=2)).isoformat()
    path = f"/tests/{test['id']}/preparation"
    bench.call("PUT", path, json={"made_at": made, "revision": test["revision"]})
    bench.post(f"/enclosures/{rubber}/placements", {"specimen_ids": ids(job)})
    reading = {"label": "S1", "dimensions": {"width_mm": [6.0], "thickness_mm": [2.0, 2.0, 2.0]}}
    document = {"specimens": [reading | {"trace": TRACE}]}
    body = {"document": document}
    said = bench.refused("POST", f"/tests/{test['id']}/readings", 409, json=body)
    assert said == "bench.departed-wait"
    later = (datetime.now(UTC) + timedelta(hours=2)).isoformat()
    facts = {"made_at": later, "revision": test["revision"] + 1}
    assert bench.refused("PUT", path, 422, json=facts) == "preparation.in-future"


TRACE = {"extension_mm": [0, 10, 50, 100], "force_n": [0, 5, 20, 60]}


def test_a_set_point_holds_from_its_confirmation_on_and_never_counts_backwards(
    bench: Bench,
) -> None:
    job = bench.job_ready_to_test()
    bring_log(bench, log_of((26, 0, 23)))
    assert not room(bench)["groups"][0]["ready"]
    request: dict[str, Any] = {
        "temperature_c": 23,
        "temperature_tolerance_c": 2,
        "humidity_percent": 65,
        "humidity_tolerance_percent": 4,
    }
    path = "/enclosures/1/set-point"
    assert bench.refused("PUT", path, 422, json=request) == "field.missing"
    request["reason"] = "the new standard"
    maren = bench.as_("maren")
    maren.put(path, request)
    assert maren.refused("POST", f"{path}/confirm", 403) == "set-point.own-request"
    assert bench.refused("POST", f"{path}/confirm", 403) == "access.role"
    bench.put(path, request)
    assert room(bench)["temperature_c"] == 20
    assert "requested by Ines Tester: the new standard" in room(bench)["requested"]
    maren.post(f"{path}/confirm")
    assert maren.refused("POST", f"{path}/confirm", 409) == "set-point.none-requested"
    assert (room(bench)["temperature_c"], room(bench)["requested"]) == (23, "")
    assert not room(bench)["groups"][0]["ready"]
    wording = [event["text"] for event in bench.get(f"/jobs/{job['id']}")["events"]]
    (said,) = [each for each in wording if "was set to 23" in each]
    assert "specimens placed before keep 20" in said
    assert verify().sentences == []
    half = request | {"humidity_tolerance_percent": None}
    assert bench.refused("PUT", "/enclosures/1/set-point", 422, json=half) == "set-point.incomplete"


def test_loggers_are_read_over_their_line_and_their_silence_is_told(
    bench: Bench, frame: StandIn, database: str
) -> None:
    logger = NewLogger("127.0.0.1", frame.port, "TH-2", simulated=True)
    made = add_enclosure("Logged room", "film-23-50", logger)
    lost = add_enclosure("Lost room", "film-23-50", NewLogger("127.0.0.1", 1, "TH-9", True))
    read_loggers()
    rooms = {enclosure["id"]: enclosure for enclosure in bench.get("/conditioning")["enclosures"]}
    assert rooms[made]["logged"]
    assert rooms[made]["in_tolerance"]
    assert "does not answer" in rooms[lost]["line_message"]
    with engine_for(database).begin() as connection:
        kept = connection.execute(text("SELECT COUNT(*) FROM enclosure_reading")).scalar()
    assert kept is not None
    assert kept > 1000
    assert read_loggers() <= 1
    bench.post(f"/enclosures/{made}/simulation", {"fault": "rubbish"})
    bench.post("/enclosures/read-loggers")
    rooms = {enclosure["id"]: enclosure for enclosure in bench.get("/conditioning")["enclosures"]}
    assert "sends data that cannot be read" in rooms[made]["line_message"]
    bench.post(f"/enclosures/{made}/simulation", {"fault": "none"})
    bench.post("/enclosures/read-loggers")
    rooms = {enclosure["id"]: enclosure for enclosure in bench.get("/conditioning")["enclosures"]}
    assert rooms[made]["line_message"] == ""
    real = bench.refused("POST", "/enclosures/1/simulation", 403, json={"fault": "warm"})
    assert real == "enclosure.real"


def test_an_enclosure_is_added_once_and_not_by_a_trainee(bench: Bench) -> None:
    request = {"name": "Paper room", "atmosphere": "paper-23-50"}
    assert bench.as_("pelle").refused("POST", "/enclosures", 403, json=request) == "access.role"
    maren = bench.as_("maren")
    assert maren.post("/enclosures", request)["enclosures"][1]["name"] == "Paper room"
    assert maren.refused("POST", "/enclosures", 409, json=request) == "enclosure.name-taken"
