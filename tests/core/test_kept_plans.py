"""A plan beside the one before: what was not touched stays, what must move moves."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from endurant.core.planning.compare import compare
from endurant.core.planning.kept import LEAST_STAYED, plan_beside
from endurant.core.planning.plan import plan_document
from tests.core.made_up_labs import made_up_lab
from tests.core.plan_checker import faults

PLANS = Path(__file__).parents[1] / "plans"


def given() -> dict[str, Any]:
    data: dict[str, Any] = json.loads((PLANS / "ten-tests.json").read_text())
    return data | {"time_limit_s": 1}


def test_without_a_plan_before_it_is_the_plan() -> None:
    assert plan_beside(given(), None)["unplanned"] == []


def test_one_more_urgent_test_moves_a_fifth_at_most() -> None:
    data = given()
    before = plan_document(data)
    more = data["tests"][0] | {"id": "one more", "due": data["now"], "priority": 9}
    after = plan_beside(data | {"tests": [more, *data["tests"]]}, before)
    assert after["unplanned"] == []
    assert compare(before, after).stayed >= LEAST_STAYED
    assert faults(data | {"tests": [more, *data["tests"]]}, after) == []


def test_what_cannot_stay_goes() -> None:
    data = given()
    before = plan_document(data)
    gone = next(row["station"] for row in before["steps"] if row["station"])
    away = [
        row | {"away": [[data["now"], data["until"]]]} if row["name"] == gone else row
        for row in data["stations"]
    ]
    after = plan_beside(data | {"stations": away}, before)
    assert all(row["station"] != gone for row in after["steps"])
    assert faults(data | {"stations": away}, after) == []


@pytest.mark.parametrize("seed", range(6))
def test_no_rule_is_broken_by_keeping(seed: int) -> None:
    data = made_up_lab(seed) | {"time_limit_s": 1}
    before = plan_document(data)
    fewer = data | {"tests": data["tests"][1:]}
    after = plan_beside(fewer, before)
    assert faults(fewer, after) == []
    planned = {row["test"] for row in plan_document(fewer)["unplanned"]}
    assert {row["test"] for row in after["unplanned"]} == planned
