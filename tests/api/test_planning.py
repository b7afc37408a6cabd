"""The day of the laboratory: its open tests planned, kept, compared, thought about."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from typing import Any

import pytest
from icalendar import Calendar
from sqlalchemy import select

from endurant.core.methods import find_method
from endurant.store import clock
from endurant.store.plans import KeptPlan, PlanPin
from endurant.store.tables import Job, Person
from endurant.work.base.actors import Actor
from endurant.work.base.transactions import transaction
from endurant.work.upkeep.founding import (
    NewPerson,
    NewStation,
    add_person,
    add_station,
)
from endurant.work.use_cases.planning.lab import Frame, kind_for, lab_now
from endurant.work.use_cases.planning.minutes import KNOWN_FROM
from endurant.work.use_cases.review.second_person import barred, people_with_a_hand
from tests.api.test_amending import amended
from tests.api.test_instruments import pendulum
from tests.core.plan_checker import faults
from tests.laboratory import BAR, PASSWORD, PENDULUM, Bench, ready, sample, through
from tests.pdf_text import text_of


@pytest.fixture
def open_jobs(bench: Bench) -> tuple[Bench, dict[str, Any]]:
    """One job to be cut and one that is ready for the pendulum; no weekend makes one late."""
    pendulum("Pendulum", "P-1")
    job = ready(bench, "iso-180", "plastics-23-50", **PENDULUM)
    due_at = (datetime.now(UTC) + timedelta(days=7)).isoformat()
    bench.post("/jobs", sample(due_at=due_at))
    return bench, job


def planned(bench: Bench) -> dict[str, Any]:
    view: dict[str, Any] = bench.post("/schedule")
    with transaction() as session:
        kept = session.query(KeptPlan).order_by(KeptPlan.id.desc()).first()
        assert kept is not None
        assert faults(kept.document, kept.answer) == []
    return view


def test_what_is_left_of_each_open_test_is_planned(open_jobs: tuple[Bench, Any]) -> None:
    bench, job = open_jobs
    assert bench.get("/schedule")["made_at"] is None
    view = planned(bench)
    assert (view["stale"], view["unplanned"], view["left_out"]) == (False, [], 0)
    steps = [(block["test"], block["step"]) for block in view["next"]]
    tear = "J-0402 Trouser tear of woven fabric"
    assert {step for test, step in steps if test == tear} == {"cut", "hang", "test"}
    assert [step for test, step in steps if test != tear] == ["test"]
    places = {block["step"]: block["at"] for block in view["next"]}
    assert places == {"cut": "cutting", "hang": "conditioning", "test": "bench"}
    lanes = {(lane["kind"], lane["name"]) for lane in view["lanes"]}
    assert ("enclosure", "Textile room") in lanes
    assert ("person", "Ines Tester") in lanes
    first = view["next"][0]
    assert first["why"]
    assert bench.get("/schedule")["next"] == view["next"]
    assert job["id"] in {block["job_id"] for block in view["next"]}


def test_the_plan_is_old_once_the_laboratory_moves_on(open_jobs: tuple[Bench, Any]) -> None:
    bench, _ = open_jobs
    planned(bench)
    bench.post("/jobs", sample(product="Another cloth"))
    assert bench.get("/schedule")["stale"] is True
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
    requested = {"test_id": block["test_id"], "step": "test", "start": start}
    wording = bench.refused("POST", "/schedule/pin", 404, json=requested | {"person": "Nobody"})
    assert wording == "person.name-unknown"
    past = requested | {"start": (datetime.now(UTC) - timedelta(hours=1)).isoformat()}
    assert bench.refused("POST", "/schedule/pin", 422, json=past) == "pin.in-past"
    night = requested | {
        "start": (datetime.fromisoformat(morning) - timedelta(hours=5)).isoformat()
    }
    if datetime.fromisoformat(night["start"]) < datetime.now(UTC):
        day = datetime.fromisoformat(night["start"]) + timedelta(days=7)
        night["start"] = day.isoformat()
    assert bench.refused("POST", "/schedule/pin", 422, json=night) == "pin.nobody-present"
    named = night | {"person": "Olga Tester"}
    assert bench.refused("POST", "/schedule/pin", 422, json=named) == "pin.person-absent"
    bench.post("/schedule/pin", requested | {"person": "Olga Tester"})
    (pinned,) = (one for one in planned(bench)["next"] if one["job_id"] == job["id"])
    assert (pinned["pinned"], pinned["person"]) == (True, "Olga Tester")
    assert datetime.fromisoformat(pinned["start"]) == datetime.fromisoformat(start)
    gone = {"test_id": block["test_id"], "step": "test"}
    bench.post("/schedule/unpin", gone)
    assert bench.refused("POST", "/schedule/unpin", 404, json=gone) == "pin.none"
    (free,) = (one for one in planned(bench)["next"] if one["job_id"] == job["id"])
    assert free["pinned"] is False


def test_a_client_is_notified_of_a_job_whose_only_station_is_out_of_service(
    open_jobs: tuple[Bench, Any],
) -> None:
    bench, job = open_jobs
    assert planned(bench)["tell"] == []
    bench.post("/instruments/P-1/out", {"reason": "the bearing grates"})
    view = planned(bench)
    (row,) = view["unplanned"]
    assert row["job_id"] == job["id"]
    assert "Pendulum" in row["why"]
    (note,) = view["tell"]
    assert job["number"] in note
    assert row["why"] in note
    assert planned(bench)["tell"] == []


def test_a_day_that_is_printed_or_exported_is_planned_first(
    open_jobs: tuple[Bench, Any],
) -> None:
    bench, job = open_jobs
    assert bench.get("/schedule")["made_at"] is None
    answer = bench.call("GET", "/schedule/calendar.ics")
    assert answer.status_code == 200
    assert job["number"] in answer.text
    view = bench.get("/schedule")
    assert view["stale"] is False
    assert bench.call("GET", "/schedule/day.pdf").status_code == 200
    assert bench.get("/schedule")["made_at"] == view["made_at"]


def test_what_is_thought_of_changes_nothing(open_jobs: tuple[Bench, Any]) -> None:
    bench, job = open_jobs
    now = datetime.now(UTC)
    assert bench.refused("POST", "/schedule/what-if", 404, json={}) == ("schedule.no-plan")
    before = planned(bench)
    sooner = {"due": [{"job_id": job["id"], "due_at": (now - timedelta(days=1)).isoformat()}]}
    thought = bench.post("/schedule/what-if", sooner)
    assert [row["job_id"] for row in thought["late"]] == [job["id"]]
    assert any("late" in line for line in thought["later"])
    more = bench.post("/schedule/what-if", {"one_more_like": job["id"]})
    assert more["added_ends"] is not None
    unknown = {"away": [{"station": "Anvil", "start": now.isoformat(), "end": now.isoformat()}]}
    assert bench.refused("POST", "/schedule/what-if", 404, json=unknown) == "station.name-unknown"
    assert bench.get("/schedule")["next"] == before["next"]


def test_a_day_is_promised_at_the_counter_from_the_plan(open_jobs: tuple[Bench, Any]) -> None:
    bench, _ = open_jobs
    quick = bench.post("/schedule/promise", {"form": "pieces", "tests": [{"method": "iso-180"}]})
    long = bench.post("/schedule/promise", {"tests": [{"method": "iso-13937-2"}]})
    assert datetime.fromisoformat(long["tested_by"]) > datetime.now(UTC) + timedelta(hours=20)
    assert quick["text"] == "by the current plan"
    bench.post("/schedule/promise", {"form": "pieces", "tests": [{"method": "16-cfr-1610"}]})
    never = bench.post("/schedule/promise", {"tests": [{"method": "iso-13938-1"}]})
    assert never["tested_by"] is None
    assert never["text"] == "test: there is no station of the kind burst-rig"
    assert bench.get("/jobs")["total"] == 2


def test_minutes_are_the_guide_s_until_the_record_knows(open_jobs: tuple[Bench, Any]) -> None:
    bench, job = open_jobs
    assert [row["method"] for row in bench.get("/schedule/minutes")] == ["cut", "hang", "review"]
    at = datetime.now(UTC) - timedelta(minutes=60)
    for number in range(1, KNOWN_FROM + 1):
        specimen = bench.specimen(job, f"S{number}")
        sizes = {"dimensions": BAR, "revision": specimen["revision"]}
        bench.put(f"/specimens/{specimen['id']}/dimensions", sizes)
        view = bench.at_bench(job, f"S{number}")
        with clock.as_if(at):
            view = through(bench, view, until="read")
        with clock.as_if(at + timedelta(minutes=4)):
            bench.act(bench.act(view, values={"energy_j": 1.9, "break_type": "C"}))
    row, *_ = bench.get("/schedule/minutes")
    assert (row["method"], row["by_record"], row["seen"]) == ("iso-180", 4.0, KNOWN_FROM)
    assert row["by_guide"] == 3
    assert {step["seen"] for step in row["steps"]} == {KNOWN_FROM}
    minutes = [step["by_record"] for step in row["steps"]]
    assert sorted(minutes) == [0.0] * (len(minutes) - 1) + [4.0]
    assert all(step["by_guide"] > 0 for step in row["steps"])


def test_two_people_of_one_name_have_a_lane_each(open_jobs: tuple[Bench, Any]) -> None:
    bench, _ = open_jobs
    add_person(NewPerson("ines2", "Ines Tester", "technician", PASSWORD))
    view = planned(bench)
    lanes = {lane["name"] for lane in view["lanes"] if lane["kind"] == "person"}
    assert {"Ines Tester (ines)", "Ines Tester (ines2)"} <= lanes
    me = bench.get("/session")["id"]
    mine = [block for block in view["next"] if block["person_id"] == me]
    assert {block["person"] for block in mine} <= {"Ines Tester (ines)"}
    block = view["next"][0]
    with transaction() as session:
        _, (morning, _), *_ = lab_now(session, clock.now()).document["people"][0]["hours"]
    start = (datetime.fromisoformat(morning) + timedelta(hours=1)).isoformat()
    requested = {"test_id": block["test_id"], "step": block["step"], "start": start}
    assert (
        bench.refused("POST", "/schedule/pin", 404, json=requested | {"person": "Ines Tester"})
        == "person.name-unknown"
    )
    bench.post("/schedule/pin", requested | {"person": "Ines Tester (ines2)"})
    with transaction() as session:
        (pin,) = session.query(PlanPin).all()
        assert pin.person is not None
        assert pin.person.login == "ines2"


def test_of_two_alike_tests_the_second_keeps_its_places_when_the_first_is_gone(
    open_jobs: tuple[Bench, Any],
) -> None:
    bench, _ = open_jobs
    job = bench.post("/jobs", sample(tests=[{"method": "iso-535"}, {"method": "iso-535"}]))
    first, second = (test["id"] for test in job["tests"])
    before = {block["test_id"]: block["id"] for block in blocks_of(planned(bench))}
    assert before[first] != before[second]
    revision = job["tests"][0]["revision"]
    bench.post(f"/tests/{first}/cancel", {"revision": revision, "reason": "asked for twice"})
    after = {block["test_id"]: block["id"] for block in blocks_of(planned(bench))}
    assert first not in after
    assert after[second] == before[second]


def blocks_of(view: dict[str, Any]) -> list[dict[str, Any]]:
    return [block for lane in view["lanes"] for block in lane["blocks"]]


def test_the_plan_is_a_calendar_of_one_person_or_of_all(open_jobs: tuple[Bench, Any]) -> None:
    bench, _ = open_jobs
    view = planned(bench)
    whole = Calendar.from_ical(bench.call("GET", "/schedule/calendar.ics").text)
    blocks = {(block["id"], block["step"]) for block in blocks_of(view)}
    assert len(whole.walk("VEVENT")) == len(blocks)
    path = "/schedule/calendar.ics?kind=person&name=Ines Tester"
    own = Calendar.from_ical(bench.call("GET", path).text).walk("VEVENT")
    (lane,) = (lane for lane in view["lanes"] if lane["name"] == "Ines Tester")
    assert len(own) == len(lane["blocks"])
    path = "/schedule/calendar.ics?kind=station&name=Anvil"
    assert bench.refused("GET", path, 404) == "schedule.nothing-planned"


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
    wording = bench.refused("POST", "/plan", 422, json=bad)
    assert wording == "planning.until-before-now"


def test_hours_of_a_person_and_days_of_the_house_bound_the_plan(
    open_jobs: tuple[Bench, Any],
) -> None:
    bench, job = open_jobs
    greta = bench.as_("greta")
    people = {row["name"]: row for row in bench.get("/people")}
    week = {"since": str(date.today()), "until": str(date.today() + timedelta(days=9))}
    for name, row in people.items():
        if name != "Olga Tester":
            body = {"hours": None, "away": [week | {"why": "fair"}]}
            greta.put(f"/people/{row['id']}/hours", body)
    olga = people["Olga Tester"]["id"]
    nights = {"days": [0, 1, 2, 3, 4, 5, 6], "start": "20:00", "end": "23:00"}
    kept = greta.put(f"/people/{olga}/hours", {"hours": nights})
    assert next(row for row in kept if row["id"] == olga)["hours"]["start"] == "20:00"
    view = planned(bench)
    hands = [block for block in view["next"] if block["job_id"] == job["id"]]
    assert {block["person"] for block in hands} == {"Olga Tester"}
    assert all(
        20 <= datetime.fromisoformat(block["begins"]).astimezone().hour < 23 for block in hands
    )
    backwards = {"hours": nights | {"end": "19:00"}}
    wording = greta.refused("PUT", f"/people/{olga}/hours", 422, json=backwards)
    assert wording == "hours.backwards"

    shut = [week | {"why": "works outing"}]
    laboratory = bench.get("/lab-settings")
    body = {rule["name"]: rule["value"] for rule in laboratory["rules"]}
    body |= {name: laboratory[name] for name in ("name", "address", "revision")}
    tables = laboratory["tables"] | {"shut": shut}
    greta.put("/lab-settings", body | {"tables": tables, "reason": "an outing"})
    nothing = planned(bench)
    assert nothing["next"] == []
    assert {row["job_id"] for row in nothing["unplanned"]} >= {job["id"]}


def test_an_enclosure_without_room_for_a_set_is_said(bench: Bench) -> None:
    maren = bench.as_("maren")
    small = {"name": "Textile room", "atmosphere": "textile-20-65", "capacity": 3}
    maren.put("/enclosures/1", small)
    bench.post("/jobs", sample())
    (row,) = planned(bench)["unplanned"]
    assert "Textile room" in row["why"]


def test_racks_and_heats_are_listed_in_their_order(bench: Bench) -> None:
    now = datetime.now(UTC)
    add_station(
        NewStation(
            "Melt rig", "", 0, False, "Rig", "M-1", 0, "C", now, now + timedelta(9), "melt-rig"
        )
    )
    parameters = {"temperatures_c": [-20.0, 23.0], "specimens_wanted": 2}
    pieces = {"form": "pieces", "width_mm": None, "length_mm": None, "count": 20}
    bars = {"method": "iso-180", "parameters": parameters}
    bench.post("/jobs", sample(tests=[bars], **pieces))
    bag = {"form": "granules", "width_mm": None, "length_mm": None, "mass_g": 200}
    for heat in (230.0, 190.0):
        melt = {"temperature_c": heat, "load_kg": 2.16}
        request = {"method": "iso-1133-1-a", "parameters": melt}
        bench.post("/jobs", sample(tests=[request], **bag))
    order = bench.get("/schedule/order-of-work")
    assert [(turn["temperature_c"], turn["bars"]) for turn in order["racks"]] == [
        (23.0, 2),
        (-20.0, 2),
    ]
    assert order["racks"][0]["goes_in"] is None
    assert [heat["temperature_c"] for heat in order["heats"]] == [190.0, 230.0]
    assert {turn["struck_from"] for turn in order["racks"]} == {None}, "nothing is planned yet"
    lanes = planned(bench)["lanes"]
    (barrel,) = (lane["blocks"] for lane in lanes if lane["kind"] == "station")
    assert [row["job_id"] for row in barrel] == [3, 2]
    test = bench.get("/jobs/1")["tests"][0]
    assert sum(not one["spare"] for one in test["specimens"]) == 4


def test_racks_have_the_times_of_the_plan(bench: Bench) -> None:
    now = datetime.now(UTC)
    add_station(
        NewStation(
            "Pendulum", "", 0, False, "P", "P-1", 0, "J", now, now + timedelta(9), "pendulum"
        )
    )
    parameters = {"temperatures_c": [-20.0, 23.0], "specimens_wanted": 2}
    pieces = {"form": "pieces", "width_mm": None, "length_mm": None, "count": 20}
    bars = {"method": "iso-180", "parameters": parameters}
    bench.post("/jobs", sample(tests=[bars], **pieces))
    lanes = planned(bench)["lanes"]
    (blocks,) = (lane["blocks"] for lane in lanes if lane["name"] == "Pendulum")
    turns = bench.get("/schedule/order-of-work")["racks"]
    assert [turn["temperature_c"] for turn in turns] == [23.0, -20.0]
    assert turns[0]["struck_from"] == blocks[0]["start"]
    assert turns[1]["goes_in"] < turns[1]["soaked_at"] <= turns[1]["struck_from"]


def test_the_day_is_printed_for_everybody_or_for_one(open_jobs: tuple[Bench, Any]) -> None:
    bench, _ = open_jobs
    view = planned(bench)
    hand = view["next"][0]["person"]
    pdf = bench.call("GET", "/schedule/day.pdf", params={"name": hand}).content
    wording = text_of(pdf)
    assert hand in wording
    assert len({row["name"] for row in view["lanes"] if row["name"] in wording}) >= 1
    assert bench.refused("GET", "/schedule/day.pdf?name=Nemo", 404) == "person.name-unknown"


def test_who_is_to_be_told_is_said_with_the_day(open_jobs: tuple[Bench, Any]) -> None:
    bench, job = open_jobs
    planned(bench)
    behind = (datetime.now(UTC) - timedelta(days=1)).isoformat()
    own = bench.get(f"/jobs/{job['id']}")
    bench.put(f"/jobs/{job['id']}", amended(own, due_at=behind))
    (notified,) = planned(bench)["tell"]
    assert notified.startswith(f"Notify Quay Awnings: {job['number']} Test cloth will be tested by")
    assert planned(bench)["tell"] == []


@pytest.mark.parametrize(
    ("frames", "method", "kind"),
    [
        ([(500, False), (50_000, False)], "iso-13937-2", "frame of 500 N"),
        ([(500, False), (50_000, False)], "astm-e8", "frame of 50000 N"),
        ([(500, True), (50_000, False)], "iso-13937-2", "frame of 50000 N"),
        ([(500, False), (2_000, False)], "astm-e8", "frame of 2000 N"),
        ([], "astm-e8", "frame"),
        ([(500, False)], "iso-180", "pendulum"),
    ],
)
def test_a_test_is_planned_at_a_frame_that_takes_its_force(
    frames: list[tuple[float, bool]], method: str, kind: str
) -> None:
    there = [Frame(capacity_n, is_out) for capacity_n, is_out in frames]
    request = "frame" if kind.startswith("frame") else kind
    assert kind_for(find_method(method), request, there) == kind


def reviews(view: dict[str, Any]) -> list[tuple[str, str, str]]:
    """The reviews of a plan: job, person, and the screen each is done on."""
    return [
        (block["job_number"], lane["name"], block["at"])
        for lane in view["lanes"]
        for block in lane["blocks"]
        if block["step"] == "review"
    ]


def test_a_review_is_planned_for_a_person_who_took_no_part_in_the_job(bench: Bench) -> None:
    due_at = (datetime.now(UTC) + timedelta(days=7)).isoformat()
    job = bench.tested_job(due_at=due_at)
    assert reviews(planned(bench)) == [(job["number"], "Maren Reviewer", "judge")]
    maren = bench.as_("maren")
    test = job["tests"][0]
    taken = {"revision": test["revision"], "limits": [], "reason": "the client asks for none"}
    maren.put(f"/tests/{test['id']}/limits", taken)
    others = {name for _, name, _ in reviews(planned(bench))}
    assert others.isdisjoint({"Maren Reviewer", "Ines Tester"})


def test_a_released_job_is_planned_no_more(bench: Bench) -> None:
    job = bench.tested_job(due_at=(datetime.now(UTC) + timedelta(days=7)).isoformat())
    bench.as_("maren").release(job["id"])
    view = planned(bench)
    assert reviews(view) == []
    assert {block["job_id"] for lane in view["lanes"] for block in lane["blocks"]} <= {None}


def test_people_with_a_hand_in_many_jobs_are_those_who_are_barred_from_each(bench: Bench) -> None:
    jobs = [bench.tested_job(), bench.tested_job(lot="W-2")]
    test = jobs[1]["tests"][0]
    taken = {"revision": test["revision"], "limits": [], "reason": "the client asks for none"}
    bench.as_("maren").put(f"/tests/{test['id']}/limits", taken)
    with transaction() as session:
        involved = people_with_a_hand(session, [job["id"] for job in jobs])
        for job in jobs:
            row = session.get_one(Job, job["id"])
            for person in session.scalars(select(Person)):
                actor = Actor(person.id, person.name, person.role)
                is_barred = barred(session, row, actor) is not None
                assert is_barred == (person.id in involved[job["id"]])
