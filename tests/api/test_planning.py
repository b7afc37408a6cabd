"""The day of the laboratory: its open tests planned, kept, compared, thought about."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from icalendar import Calendar

from endurant.store import clock
from endurant.store.asked_for import KeptPlan
from endurant.work.planning.lab import lab_now
from endurant.work.planning.minutes import KNOWN_FROM
from endurant.work.record.transactions import transaction
from tests.api.test_instruments import pendulum
from tests.core.plan_checker import faults
from tests.laboratory import BAR, PENDULUM, Bench, ready, sample, through


@pytest.fixture
def open_jobs(bench: Bench) -> tuple[Bench, dict[str, Any]]:
    """One job to be cut and one that is ready for the pendulum; no weekend makes one late."""
    pendulum("Pendulum", "P-1")
    job = ready(bench, "iso-180", "plastics-23-50", **PENDULUM)
    due_at = (datetime.now(UTC) + timedelta(days=7)).isoformat()
    bench.post("/jobs", sample(due_at=due_at))
    return bench, job


def planned(bench: Bench) -> dict[str, Any]:
    view: dict[str, Any] = bench.post("/today")
    with transaction() as session:
        kept = session.query(KeptPlan).order_by(KeptPlan.id.desc()).first()
        assert kept is not None
        assert faults(kept.document, kept.answer) == []
    return view


def test_what_is_left_of_each_open_test_is_planned(open_jobs: tuple[Bench, Any]) -> None:
    bench, job = open_jobs
    assert bench.get("/today")["made_at"] is None
    view = planned(bench)
    assert (view["stale"], view["unplanned"], view["left_out"]) == (False, [], 0)
    steps = [(block["test"], block["step"]) for block in view["next"]]
    tear = "J-0402 Trouser tear of woven fabric"
    assert {step for test, step in steps if test == tear} == {"cut", "hang", "test"}
    assert [step for test, step in steps if test != tear] == ["test"]
    lanes = {(lane["kind"], lane["name"]) for lane in view["lanes"]}
    assert ("enclosure", "Textile room") in lanes
    assert ("person", "Ines Tester") in lanes
    first = view["next"][0]
    assert first["why"]
    assert bench.get("/today")["next"] == view["next"]
    assert job["id"] in {block["job_id"] for block in view["next"]}


def test_the_plan_is_old_once_the_laboratory_moves_on(open_jobs: tuple[Bench, Any]) -> None:
    bench, _ = open_jobs
    planned(bench)
    bench.post("/jobs", sample(product="Another cloth"))
    assert bench.get("/today")["stale"] is True
    again = planned(bench)
    assert again["stale"] is False
    assert again["stayed_percent"] is not None
    held = again["next"][0]["job_id"]
    tests = bench.get(f"/jobs/{held}")["tests"]
    hold = {"reason": "the client asked", "revision": bench.get(f"/jobs/{held}")["revision"]}
    bench.post(f"/tests/{tests[0]['id']}/hold", hold)
    after = planned(bench)
    assert held not in {block["job_id"] for block in after["next"]}


def test_a_pinned_step_stays_where_somebody_wants_it(open_jobs: tuple[Bench, Any]) -> None:
    bench, job = open_jobs
    view = planned(bench)
    (block,) = (one for one in view["next"] if one["job_id"] == job["id"])
    assert block["pinned"] is False
    with transaction() as session:
        _, (morning, _), *_ = lab_now(session, clock.now()).document["people"][0]["hours"]
    start = (datetime.fromisoformat(morning) + timedelta(hours=1)).isoformat()
    wanted = {"test_id": block["test_id"], "step": "test", "start": start}
    says = bench.refused("POST", "/today/pin", 404, json=wanted | {"person": "Nobody"})
    assert says == "nobody here is called Nobody"
    past = wanted | {"start": (datetime.now(UTC) - timedelta(hours=1)).isoformat()}
    assert "lies behind us" in bench.refused("POST", "/today/pin", 422, json=past)
    bench.post("/today/pin", wanted | {"person": "Olga Tester"})
    (pinned,) = (one for one in planned(bench)["next"] if one["job_id"] == job["id"])
    assert (pinned["pinned"], pinned["person"]) == (True, "Olga Tester")
    assert datetime.fromisoformat(pinned["start"]) == datetime.fromisoformat(start)
    gone = {"test_id": block["test_id"], "step": "test"}
    bench.post("/today/unpin", gone)
    assert bench.refused("POST", "/today/unpin", 404, json=gone) == "test is not pinned"
    (free,) = (one for one in planned(bench)["next"] if one["job_id"] == job["id"])
    assert free["pinned"] is False


def test_what_is_thought_of_changes_nothing(open_jobs: tuple[Bench, Any]) -> None:
    bench, job = open_jobs
    now = datetime.now(UTC)
    assert bench.refused("POST", "/today/what-if", 404, json={}) == (
        "there is no plan yet; make one first"
    )
    before = planned(bench)
    sooner = {"due": [{"job_id": job["id"], "due_at": (now - timedelta(days=1)).isoformat()}]}
    thought = bench.post("/today/what-if", sooner)
    assert [row["job_id"] for row in thought["late"]] == [job["id"]]
    assert any("late" in line for line in thought["later"])
    more = bench.post("/today/what-if", {"one_more_like": job["id"]})
    assert more["added_ends"] is not None
    unknown = {"away": [{"station": "Anvil", "start": now.isoformat(), "end": now.isoformat()}]}
    assert "there is no station Anvil" in bench.refused("POST", "/today/what-if", 404, json=unknown)
    assert bench.get("/today")["next"] == before["next"]


def test_a_day_is_promised_at_the_counter_from_the_plan(open_jobs: tuple[Bench, Any]) -> None:
    bench, _ = open_jobs
    quick = bench.post("/today/promise", {"form": "pieces", "tests": [{"method": "iso-180"}]})
    long = bench.post("/today/promise", {"tests": [{"method": "iso-13937-2"}]})
    assert datetime.fromisoformat(long["tested_by"]) > datetime.now(UTC) + timedelta(hours=20)
    assert quick["says"] == "by the plan as it stands"
    never = bench.post("/today/promise", {"tests": [{"method": "iso-13938-1"}]})
    assert never["tested_by"] is None
    assert never["says"] == "test: there is no station of the kind burst-rig"
    assert bench.get("/jobs")["total"] == 2


def test_minutes_are_the_guide_s_until_the_record_knows(open_jobs: tuple[Bench, Any]) -> None:
    bench, job = open_jobs
    assert bench.get("/today/minutes") == []
    at = datetime.now(UTC) - timedelta(minutes=60)
    for number in range(1, KNOWN_FROM + 1):
        specimen = bench.specimen(job, f"S{number}")
        sizes = {"dimensions": BAR, "revision": specimen["revision"]}
        bench.put(f"/specimens/{specimen['id']}/dimensions", sizes)
        view = bench.at_bench(job, f"S{number}")
        with clock.as_if(at):
            view = through(bench, view, until="read")
        with clock.as_if(at + timedelta(minutes=3)):
            bench.act(bench.act(view, values={"energy_j": 1.9, "break_type": "C"}))
    (row,) = bench.get("/today/minutes")
    assert (row["method"], row["by_record"], row["seen"]) == ("iso-180", 3.0, KNOWN_FROM)
    assert row["by_guide"] > 3


def test_the_plan_is_a_calendar_of_one_person_or_of_all(open_jobs: tuple[Bench, Any]) -> None:
    bench, _ = open_jobs
    view = planned(bench)
    whole = Calendar.from_ical(bench.call("GET", "/today/calendar.ics").text)
    blocks = {(b["test"], b["step"]) for lane in view["lanes"] for b in lane["blocks"]}
    assert len(whole.walk("VEVENT")) == len(blocks)
    path = "/today/calendar.ics?kind=person&name=Ines Tester"
    own = Calendar.from_ical(bench.call("GET", path).text).walk("VEVENT")
    (lane,) = (lane for lane in view["lanes"] if lane["name"] == "Ines Tester")
    assert len(own) == len(lane["blocks"])
    path = "/today/calendar.ics?kind=station&name=Anvil"
    assert bench.refused("GET", path, 404) == "nothing is planned for station Anvil"


def test_who_is_not_authorised_is_given_nothing_of_a_method(open_jobs: tuple[Bench, Any]) -> None:
    bench, _ = open_jobs
    olga = next(one for one in bench.get("/people") if one["login"] == "olga")
    bench.as_("greta").post(f"/people/{olga['id']}/authorisations", {"method": "iso-180"})
    with transaction() as session:
        people = {row["name"]: row for row in lab_now(session, clock.now()).document["people"]}
    assert "iso-180" in people["Olga Tester"]["may"]
    assert "iso-180" not in people["Ines Tester"]["may"]
    view = planned(bench)
    struck = [block for block in view["next"] if "Izod" in block["test"]]
    assert {block["person"] for block in struck} == {"Olga Tester"}


def test_a_planning_document_is_answered_over_the_api(bench: Bench) -> None:
    document = {
        "now": "2026-03-02T08:00:00Z",
        "until": "2026-03-03T08:00:00Z",
        "time_limit_s": 1,
        "people": [{"name": "A", "hours": [["2026-03-02T08:00:00Z", "2026-03-02T16:00:00Z"]]}],
        "tests": [{"id": "T", "method": "m", "steps": [{"id": "look", "hands_on_minutes": 30}]}],
    }
    answer = bench.post("/plan", document)
    assert answer["ends"] == "2026-03-02T08:30:00Z"
    bad = document | {"until": "2026-03-01T08:00:00Z"}
    says = bench.refused("POST", "/plan", 422, json=bad)
    assert says == "until lies before now; expected a later time"
