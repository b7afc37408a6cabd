"""A plan beside the one before: what was not touched stays, what must move moves."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from endurant.core.planning.compare import Before, affected, compare
from endurant.core.planning.kept import MIN_STAYED, plan_beside
from endurant.core.planning.plan import plan_document
from tests.core.made_up_labs import made_up_lab
from tests.core.plan_checker import faults

PLANS = Path(__file__).parents[1] / "plans"


def given() -> Any:
    data = json.loads((PLANS / "ten-tests.json").read_text())
    return data | {"time_limit_s": 1}


def test_without_a_plan_before_it_is_the_plan() -> None:
    assert plan_beside(given(), None)["unplanned"] == []


def test_one_more_urgent_test_moves_a_fifth_at_most() -> None:
    data = given()
    before = plan_document(data)
    more = data["tests"][0] | {"id": "one more", "due": data["now"], "priority": 9}
    busier = data | {"tests": [more, *data["tests"]]}
    after = plan_beside(busier, Before(data, before))
    assert after["unplanned"] == []
    assert compare(Before(data, before), busier, after).stayed >= MIN_STAYED
    assert faults(busier, after) == []


def test_what_is_urgent_goes_first_and_four_fifths_stay() -> None:
    pull = {"id": "pull", "station": "frame", "hands_on_minutes": 30}
    tests = [{"id": f"T{number}", "method": "tear", "steps": [pull]} for number in range(10)]
    data: Any = {
        "now": "2026-03-02T08:00:00Z",
        "until": "2026-03-03T08:00:00Z",
        "time_limit_s": 1,
        "people": [{"name": "A", "hours": [["2026-03-02T08:00:00Z", "2026-03-02T16:30:00Z"]]}],
        "stations": [{"name": "frame 1", "kind": "frame"}],
        "tests": tests,
    }
    before = Before(data, plan_document(data))
    urgent = {"id": "one more", "method": "tear", "due": data["now"], "steps": [pull]}
    busier = data | {"tests": [*tests, urgent]}
    after = plan_beside(busier, before)
    assert faults(busier, after) == []
    assert after["steps"][0]["test"] == "one more"
    assert compare(before, busier, after).stayed >= MIN_STAYED


def test_what_cannot_stay_goes() -> None:
    data = given()
    before = plan_document(data)
    gone = next(row["station"] for row in before["steps"] if row["station"])
    away = [
        row | {"away": [[data["now"], data["until"]]]} if row["name"] == gone else row
        for row in data["stations"]
    ]
    after = plan_beside(data | {"stations": away}, Before(data, before))
    assert all(row["station"] != gone for row in after["steps"])
    assert faults(data | {"stations": away}, after) == []


def test_a_step_that_is_run_at_another_kind_now_and_a_person_who_left_hold_nothing() -> None:
    data = given()
    before = Before(data, plan_document(data))
    steps: Any = before.answer["steps"]
    at = next(row for row in steps if row["station"])
    kind = next(row["kind"] for row in data["stations"] if row["name"] == at["station"])
    stations = [{"name": "another", "kind": "another kind", "set_up_minutes": 10}]
    tests = [
        test
        | {
            "steps": [
                step | {"station": "another kind"} if step.get("station") == kind else step
                for step in test["steps"]
            ]
        }
        for test in data["tests"]
    ]
    left = next(row["person"] for row in steps if row["person"])
    people = [
        row | {"name": "somebody new"} if row["name"] == left else row for row in data["people"]
    ]
    changed = data | {"stations": [*data["stations"], *stations], "tests": tests, "people": people}
    after = plan_beside(changed, before)
    assert faults(changed, after) == []
    assert any(row["station"] == "another" for row in after["steps"])
    assert all(row["person"] != left for row in after["steps"])


def test_something_happened_to_a_test_that_changed_and_to_what_stood_where_nobody_is() -> None:
    data = given()
    before = Before(data, plan_document(data))
    assert affected(before, data) == set()
    first = data["tests"][0]
    waited = [step | {"unattended_minutes": 1} for step in first["steps"]]
    assert affected(before, data | {"tests": [first | {"steps": waited}]}) == set()
    done = first | {"steps": first["steps"][1:]}
    assert affected(before, data | {"tests": [done]}) == {first["id"]}
    hurried = first | {"priority": first.get("priority", 1) + 1}
    assert affected(before, data | {"tests": [hurried]}) == {first["id"]}
    steps: Any = before.answer["steps"]
    for name, kind, gone in (("station", "stations", "away"), ("person", "people", "hours")):
        who = next(row[name] for row in steps if row[name])
        stretch = [[data["now"], data["until"]]] if gone == "away" else []
        rows = [row | {gone: stretch} if row["name"] == who else row for row in data[kind]]
        theirs = {row["test"] for row in steps if row[name] == who}
        assert affected(before, data | {kind: rows}) == theirs


def test_what_had_to_move_is_not_counted_among_what_stayed() -> None:
    data = given()
    before = plan_document(data)
    gone = next(row["station"] for row in before["steps"] if row["station"])
    rows = [
        row | {"away": [[data["now"], data["until"]]]} if row["name"] == gone else row
        for row in data["stations"]
    ]
    hit = {row["test"] for row in before["steps"] if row["station"] == gone}
    steps = [
        row | {"start": data["until"]} if row["test"] in hit else row for row in before["steps"]
    ]
    compared = compare(Before(data, before), data | {"stations": rows}, before | {"steps": steps})
    assert {moved.test for moved in compared.moved} == hit
    assert compared.stayed == 1


@pytest.mark.parametrize("seed", range(6))
def test_no_rule_is_broken_by_keeping(seed: int) -> None:
    data: Any = made_up_lab(seed) | {"time_limit_s": 1}
    before = plan_document(data)
    fewer = data | {"tests": data["tests"][1:]}
    after = plan_beside(fewer, Before(data, before))
    assert faults(fewer, after) == []
    planned = {row["test"] for row in plan_document(fewer)["unplanned"]}
    assert {row["test"] for row in after["unplanned"]} == planned
