"""The planner: its rules, its aims in their order, and its words."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from endurant.core.planning.document import read_plan
from endurant.core.planning.first import first_plan
from endurant.core.planning.plan import plan_document
from endurant.core.planning.problem import problem_of
from endurant.core.planning.week import first_come, planned_order, simulated_week
from endurant.core.refusals import Invalid
from tests.core.made_up_labs import made_up_lab
from tests.core.plan_checker import faults

DAY = "2026-03-02"


def lab(**changes: Any) -> dict[str, Any]:
    """One person in from 8 to 16:30, a frame set up for jaws 50, a room, and no test."""
    return {
        "now": f"{DAY}T08:00:00Z",
        "until": "2026-03-05T08:00:00Z",
        "time_limit_s": 2,
        "people": [{"name": "A", "hours": hours(2, 3, 4)}],
        "stations": [
            {"name": "frame 1", "kind": "frame", "set_up_minutes": 15, "set_up": "jaws 50"}
        ],
        "enclosures": [{"name": "textile room", "places": 20}],
        "tests": [],
    } | changes


def hours(*days: int) -> list[list[str]]:
    return [[f"2026-03-{day:02d}T08:00:00Z", f"2026-03-{day:02d}T16:30:00Z"] for day in days]


def request(name: str = "one", method: str = "tear", **changes: Any) -> dict[str, Any]:
    pull = {"id": "pull", "station": "frame", "hands_on_minutes": 45}
    return {"id": name, "method": method, "steps": [pull]} | changes


def placed(name: str, set_up: str = "jaws 50", **changes: Any) -> dict[str, Any]:
    hang = {"id": "hang", "enclosure": "textile room", "places": 12, "hands_on_minutes": 10}
    pull = {"id": "pull", "station": "frame", "set_up": set_up, "hands_on_minutes": 45}
    steps = [hang | {"unattended_minutes": 1440}, pull | {"most_minutes": 120}]
    return {"id": name, "method": "tear", "steps": steps} | changes


def planned(document: dict[str, Any]) -> Any:
    """The answer, which must hold."""
    answer = plan_document(document)
    assert faults(document, answer) == []
    return answer


def why(answer: dict[str, Any], test: str, step: str = "pull") -> str:
    (row,) = (row for row in answer["steps"] if (row["test"], row["step"]) == (test, step))
    return str(row["why"]["words"])


@pytest.mark.parametrize("seed", range(40))
def test_no_plan_of_a_made_up_laboratory_breaks_a_rule(seed: int) -> None:
    document = made_up_lab(seed, tests=6) | {"time_limit_s": 0.35}
    answer = plan_document(document)
    assert faults(document, answer) == []


def test_the_checker_sees_what_is_wrong() -> None:
    document = lab(tests=[placed("one")])
    answer = json.loads(json.dumps(planned(document)))
    answer["steps"][1]["start"] = "2026-03-03T12:30:00Z"
    wrong = faults(document, answer)
    assert "one, pull: greatest wait" in wrong
    answer["steps"][0]["person"] = None
    assert "one, hang: person" in faults(document, answer)


def test_conditioning_runs_overnight_and_the_pull_waits_for_it() -> None:
    answer = planned(lab(tests=[placed("one")]))
    hang, pull = answer["steps"]
    assert (hang["start"], hang["end"]) == (f"{DAY}T08:00:00Z", "2026-03-03T08:10:00Z")
    assert (pull["start"], pull["person"]) == ("2026-03-03T08:10:00Z", "A")
    assert pull["why"] == {
        "rule": "previous",
        "words": "waits for hang until Tue 03 Mar, 08:10",
    }
    assert (answer["changes"], answer["lateness"], answer["lateness_bound"]) == (0, 0, 0)


def test_set_ups_are_put_together_but_never_before_a_due_date() -> None:
    requested = [("a", "jaws 60"), ("b", "jaws 50"), ("c", "jaws 60"), ("d", "jaws 50")]
    pull = {"id": "pull", "station": "frame", "hands_on_minutes": 30}
    tests = [request(name, steps=[pull | {"set_up": set_up}]) for name, set_up in requested]
    answer = planned(lab(tests=tests))
    assert answer["changes"] == 1
    assert answer["ends"] == f"{DAY}T10:15:00Z"
    tests[0]["due"] = f"{DAY}T08:45:00Z"
    first = planned(lab(tests=tests))
    assert first["steps"][0]["test"] == "a"
    assert (first["lateness"], first["changes"]) == (0, 2)


def melts(*heats: int) -> list[dict[str, Any]]:
    step = {"id": "run", "station": "frame", "hands_on_minutes": 30}
    return [
        request(str(heat), steps=[step | {"set_up": f"{heat} °C", "heat_c": heat}])
        for heat in heats
    ]


def test_a_barrel_goes_from_low_heat_to_high_but_not_past_a_due_date() -> None:
    tests = melts(230, 190, 275, 210)
    answer = planned(lab(tests=tests))
    assert [row["test"] for row in answer["steps"]] == ["190", "210", "230", "275"]
    tests[2]["due"] = f"{DAY}T09:00:00Z"
    answer = planned(lab(tests=tests))
    assert [row["test"] for row in answer["steps"]] == ["275", "190", "210", "230"]
    assert (answer["lateness"], answer["changes"]) == (0, 4)


def test_a_heat_that_stands_already_spares_a_change_before_it_spares_cooling() -> None:
    station = {"name": "frame 1", "kind": "frame", "set_up_minutes": 15, "set_up": "230 °C"}
    answer = planned(lab(tests=melts(190, 230, 210), stations=[station]))
    assert [row["test"] for row in answer["steps"]] == ["230", "190", "210"]
    assert answer["changes"] == 2


def test_priority_decides_who_is_late() -> None:
    tests = [request("low", due=f"{DAY}T08:45:00Z"), request("high", due=f"{DAY}T08:45:00Z")]
    tests[1]["priority"] = 3
    answer = planned(lab(tests=tests))
    (late,) = answer["late"]
    assert (late["test"], late["minutes"], answer["lateness"]) == ("low", 45, 45)
    assert late["why"] == "pull: frame 1 is taken by high until 08:45"
    assert answer["lateness_bound"] == 45


def test_what_is_due_already_is_late_even_alone() -> None:
    answer = planned(lab(tests=[request(due="2026-03-01T08:00:00Z")]))
    assert answer["late"][0]["minutes"] == 1440 + 45
    assert answer["late"][0]["why"].startswith("even with nothing else to do it ends at 08:45")


def test_a_due_date_between_two_minutes_is_counted_to_the_second() -> None:
    answer = planned(lab(tests=[request(due=f"{DAY}T08:30:15Z")]))
    assert (answer["late"][0]["minutes"], answer["lateness"]) == (14.75, 14.75)


def test_a_pin_stays_and_the_others_go_round_it() -> None:
    pin = {"test": "two", "step": "pull", "start": f"{DAY}T08:30:30Z", "person": "A"}
    answer = planned(lab(tests=[request("one"), request("two")], pinned=[pin]))
    (one, two) = sorted(answer["steps"], key=lambda row: str(row["test"]))
    assert two["start"] == f"{DAY}T08:30:30Z"
    assert one["start"] == f"{DAY}T09:15:30Z"
    assert why(answer, "two") == "the step is pinned to 08:30"


def test_tests_pinned_whole_stand_with_the_set_ups_that_they_had() -> None:
    pull = {"id": "pull", "station": "frame", "set_up": "jaws 60", "hands_on_minutes": 30}
    tests = [request("later", steps=[pull]), request("sooner", steps=[pull])]
    pinned = [
        {"test": "later", "step": "pull", "start": f"{DAY}T10:00:00Z", "station": "frame 1"},
        {"test": "sooner", "step": "pull", "start": f"{DAY}T08:15:00Z", "station": "frame 1"},
    ]
    board = first_plan(problem_of(read_plan(lab(tests=tests, pinned=pinned))), [0, 1])
    assert [placed.changed for placed in sorted(board.steps.values())] == [True, False]
    pinned[1]["start"] = f"{DAY}T09:45:00Z"
    board = first_plan(problem_of(read_plan(lab(tests=tests, pinned=pinned))), [0, 1])
    assert [placed.test for placed in board.steps.values()] == [1]


def test_what_a_plan_before_holds_is_late_for_that_and_for_nothing_of_its_own() -> None:
    pin = {"test": "one", "step": "pull", "start": f"{DAY}T10:00:00Z", "held": True}
    late = request("one", due=f"{DAY}T09:00:00Z")
    answer = planned(lab(tests=[late], pinned=[pin]))
    assert answer["late"][0]["why"] == "pull: it stood there in the plan before"
    assert answer["steps"][0]["why"]["rule"] == "kept"
    answer = planned(lab(tests=[late], pinned=[pin | {"held": False}]))
    assert answer["late"][0]["why"].startswith("even with nothing else to do it ends at 10:45")


def test_a_pin_that_names_a_station_is_run_there() -> None:
    frames = [{"name": name, "kind": "frame"} for name in ("frame 1", "frame 2")]
    pin = {"test": "one", "step": "pull", "start": f"{DAY}T09:00:00Z", "station": "frame 2"}
    answer = planned(lab(tests=[request("one")], stations=frames, pinned=[pin]))
    assert answer["steps"][0]["station"] == "frame 2"


def test_a_pin_behind_us_leaves_its_test_out_with_the_reason() -> None:
    pin = {"test": "two", "step": "pull", "start": f"{DAY}T07:00:00Z"}
    answer = planned(lab(tests=[request("one"), request("two")], pinned=[pin]))
    (left,) = answer["unplanned"]
    wording = "pull: the step is pinned to 07:00, outside 08:00 to Thu 05 Mar, 08:00"
    assert left == {"test": "two", "why": wording}


def test_what_lasts_nothing_takes_no_place() -> None:
    look = {"id": "look", "enclosure": "textile room", "places": 15}
    answer = planned(lab(tests=[placed("one"), request("two", steps=[look])]))
    assert answer["unplanned"] == []
    assert [row["start"] for row in answer["steps"]][:2] == [f"{DAY}T08:00:00Z"] * 2


def test_nobody_works_across_two_stretches_even_where_they_touch() -> None:
    touching = [
        [f"{DAY}T08:00:00Z", f"{DAY}T08:30:00Z"],
        [f"{DAY}T08:30:00Z", f"{DAY}T09:20:00Z"],
    ]
    answer = planned(lab(people=[{"name": "A", "hours": touching}], tests=[request()]))
    assert answer["steps"][0]["start"] == f"{DAY}T08:30:00Z"
    assert why(answer, "one") == "A is in from 08:30; only A may do it"


def test_an_enclosure_that_is_full_is_waited_for() -> None:
    answer = planned(lab(tests=[placed("one"), placed("two")]))
    starts = sorted(row["start"] for row in answer["steps"] if row["step"] == "hang")
    assert starts == [f"{DAY}T08:00:00Z", "2026-03-03T08:10:00Z"]
    later = next(row for row in answer["steps"] if row["start"] == starts[1])
    assert later["why"]["words"].startswith(("textile room has 12 places free", "A is free"))


def test_a_station_that_is_away_is_waited_for() -> None:
    away = [[f"{DAY}T07:00:00Z", f"{DAY}T11:00:00Z"]]
    frame = {"name": "frame 1", "kind": "frame", "away": away}
    answer = planned(lab(stations=[frame], tests=[request()]))
    assert why(answer, "one") == "frame 1 is away until 11:00"


def test_a_step_is_held_back_by_the_greatest_wait_of_the_next() -> None:
    steps = [
        {"id": "soak", "hands_on_minutes": 5, "unattended_minutes": 30},
        {"id": "strike", "station": "frame", "hands_on_minutes": 20, "most_minutes": 10},
    ]
    frame = {"name": "frame 1", "kind": "frame", "away": [[f"{DAY}T08:00:00Z", f"{DAY}T12:00:00Z"]]}
    answer = planned(lab(stations=[frame], tests=[request(steps=steps)]))
    wording = "strike has to begin within 10 min of it, and begins at 12:00"
    assert why(answer, "one", "soak") == wording


NEVER = {
    "pull: no one is authorised for flow": request(method="flow"),
    "hang: textile room has 20 places, 30 are needed": request(
        steps=[{"id": "hang", "enclosure": "textile room", "places": 30}]
    ),
    "pull: there is no station of the kind pendulum": request(
        steps=[{"id": "pull", "station": "pendulum", "hands_on_minutes": 5}]
    ),
    "pull: the step must start within 10 min of the step before, but no earlier than 30 min "
    "after it": request(
        steps=[{"id": "cut"}, {"id": "pull", "least_minutes": 30, "most_minutes": 10}]
    ),
    "pull: the step takes 10 h of one person, but no authorised person is present for more than "
    "8 h 30 at a time": request(steps=[{"id": "pull", "hands_on_minutes": 600}]),
    "the steps do not fit between 08:00 and Thu 05 Mar, 08:00, even without other tests": request(
        steps=[{"id": "rest", "unattended_minutes": 5000}]
    ),
}


@pytest.mark.parametrize("wording", NEVER)
def test_what_cannot_be_planned_is_said_and_the_rest_is_planned(wording: str) -> None:
    people = [{"name": "A", "hours": hours(2, 3, 4), "may": ["tear"]}]
    answer = planned(lab(people=people, tests=[NEVER[wording] | {"id": "odd"}, request("good")]))
    assert answer["unplanned"] == [{"test": "odd", "why": wording}]
    assert [row["test"] for row in answer["steps"]] == ["good"]


def test_a_month_without_anyone_plans_what_needs_nobody() -> None:
    alone = request("alone", steps=[{"id": "rest", "unattended_minutes": 60}])
    answer = planned(lab(people=[{"name": "A", "hours": []}], tests=[alone, request("pulled")]))
    assert [row["test"] for row in answer["steps"]] == ["alone"]
    (left,) = answer["unplanned"]
    assert left["why"] == "pull: no authorised person is present before Thu 05 Mar, 08:00"


def test_the_most_tests_are_planned_and_each_other_has_its_reason() -> None:
    short = [[f"{DAY}T08:00:00Z", f"{DAY}T09:30:00Z"]]
    long = request("long", due=f"{DAY}T08:50:00Z", priority=9)
    long["steps"] = [{"id": "pull", "station": "frame", "hands_on_minutes": 85}]
    answer = planned(
        lab(people=[{"name": "A", "hours": short}], tests=[long, request("b"), request("c")])
    )
    assert sorted({row["test"] for row in answer["steps"]}) == ["b", "c"]
    (left,) = answer["unplanned"]
    wording = "the other tests leave no room for it before Thu 05 Mar, 08:00"
    assert left == {"test": "long", "why": wording}


def test_a_simulated_week_goes_better_by_plan_than_as_tests_come() -> None:
    planned_week, as_they_came = (
        simulated_week(5, way, tests=80) for way in (planned_order, first_come)
    )
    assert planned_week == simulated_week(5, planned_order, tests=80)
    assert planned_week.lateness_min < as_they_came.lateness_min
    assert planned_week.done >= as_they_came.done
    assert 0 < planned_week.idle_percent < 100


BAD: dict[str, tuple[dict[str, Any], str, str]] = {
    "backwards": ({"until": f"{DAY}T07:00:00Z"}, "until", "planning.until-before-now"),
    "no offset": ({"now": "2026-03-02T08:00:00"}, "now", "conditioning.not-a-time"),
    "twice": ({"tests": [request(), request()]}, "tests", "planning.name-twice"),
    "half minutes": (
        {"tests": [request(steps=[{"id": "a", "hands_on_minutes": 2.5}])]},
        "hands_on_minutes",
        "field.whole-number-expected",
    ),
    "less than none": (
        {"tests": [request(steps=[{"id": "a", "most_minutes": -1}])]},
        "most_minutes",
        "field.below-min",
    ),
    "a room that is none": (
        {"tests": [request(steps=[{"id": "a", "enclosure": "cellar"}])]},
        "enclosure",
        "planning.enclosure-unknown",
    ),
    "a set-up by nobody": (
        {"tests": [request(steps=[{"id": "a", "station": "frame", "set_up": "x"}])]},
        "hands_on_minutes",
        "planning.set-up-without-hands",
    ),
    "a heat without a set-up": (
        {"tests": [request(steps=[{"id": "a", "station": "frame", "heat_c": 190}])]},
        "heat_c",
        "planning.heat-without-set-up",
    ),
    "a pin to nothing": (
        {"pinned": [{"test": "x", "step": "y", "start": f"{DAY}T08:00:00Z"}]},
        "pinned",
        "planning.pin-unknown-step",
    ),
    "a pin to a station of another kind": (
        {
            "tests": [request()],
            "stations": [{"name": "rig", "kind": "rig"}],
            "pinned": [
                {"test": "one", "step": "pull", "start": f"{DAY}T08:00:00Z", "station": "rig"}
            ],
        },
        "pinned",
        "planning.pin-unknown-station",
    ),
    "a stretch that ends first": (
        {"people": [{"name": "A", "hours": [[f"{DAY}T09:00:00Z", f"{DAY}T08:00:00Z"]]}]},
        "hours",
        "planning.interval-backwards",
    ),
    "an unknown field": ({"machines": []}, "machines", "field.unknown"),
}


@pytest.mark.parametrize("kind", BAD)
def test_a_document_that_makes_no_sense_is_refused_by_its_field(kind: str) -> None:
    changes, field, wording = BAD[kind]
    with pytest.raises(Invalid) as refused:
        plan_document(lab(**changes))
    assert refused.value.code == wording
    assert field in f"{refused.value.field} {refused.value.sentence}"


@pytest.mark.parametrize("name", ["ten-tests", "forty-tests-tight"])
def test_the_given_laboratories_are_planned(name: str) -> None:
    path = Path(__file__).parents[1] / "plans" / f"{name}.json"
    document = json.loads(path.read_text()) | {"time_limit_s": 3}
    answer = planned(document)
    assert answer["unplanned"] == []
    assert answer["lateness"] == (0 if name == "ten-tests" else 738)
