"""Reasons of a plan, by their codes: why a step stands where it does, is late, or has no place."""

from __future__ import annotations

from typing import Any

import pytest

from endurant.core.planning.board import Board
from endurant.core.planning.document import read_plan
from endurant.core.planning.first import first_plan
from endurant.core.planning.problem import Problem, problem_of
from endurant.core.planning.reasons import why_late, why_not, why_there
from endurant.core.planning.score import end_of, is_whole, lateness_of, min_lateness, score
from tests.core.test_planning import DAY, hours, lab, placed, request


def planned_first(*tests: dict[str, Any], **changes: Any) -> tuple[Problem, Board]:
    """The tests, each as early as it fits, in the order they are given."""
    problem = problem_of(read_plan(lab(tests=list(tests), **changes)))
    return problem, first_plan(problem, range(len(tests)))


def reason(board: Board, test: int, step: int = 0) -> tuple[str, str, dict[str, Any]]:
    why = why_there(board, board.steps[test, step])
    return why.rule, why.message.code, dict(why.message.params)


def test_a_step_that_could_not_be_earlier_begins_at_once() -> None:
    _, board = planned_first(request())
    assert reason(board, 0)[:2] == ("now", "plan.now")


def test_a_step_waits_for_its_day() -> None:
    _, board = planned_first(request(not_before=f"{DAY}T10:00:00Z"))
    rule, code, params = reason(board, 0)
    assert (rule, code, params) == ("not-before", "plan.not-before", {"at": "10:00"})


def test_a_station_is_taken_by_the_test_before() -> None:
    _, board = planned_first(request("one"), request("two"))
    assert reason(board, 1) == (
        "station",
        "plan.station",
        {"station": "frame 1", "test": "one", "until": "08:45"},
    )


def test_a_person_who_is_the_only_one_is_named_so() -> None:
    people = [{"name": "A", "hours": hours(3)}]
    _, board = planned_first(request(), people=people)
    rule, code, params = reason(board, 0)
    assert (rule, code) == ("hours", "plan.hours-only")
    assert params["person"] == "A"
    both = [{"name": name, "hours": hours(3)} for name in ("A", "B")]
    _, board = planned_first(request(), people=both)
    assert reason(board, 0)[1] == "plan.hours"


def test_a_step_follows_the_one_before_it_and_its_rest() -> None:
    steps = [
        {"id": "cut", "hands_on_minutes": 30},
        {"id": "rest", "hands_on_minutes": 5, "least_minutes": 60},
        {"id": "look", "hands_on_minutes": 5},
    ]
    _, board = planned_first(request(steps=steps))
    assert reason(board, 0, 1) == (
        "previous",
        "plan.previous-and-rest",
        {"step": "cut", "until": "08:30", "min_wait": "60 min"},
    )
    assert reason(board, 0, 2)[1:] == ("plan.previous", {"step": "rest", "until": "09:35"})


def test_a_room_has_its_places_free_only_later() -> None:
    rooms = [{"name": "textile room", "places": 12}]
    people = [{"name": name, "hours": hours(2, 3, 4)} for name in ("A", "B")]
    _, board = planned_first(placed("one"), placed("two"), enclosures=rooms, people=people)
    rule, code, params = reason(board, 1)
    assert (rule, code) == ("enclosure", "plan.enclosure")
    assert (params["enclosure"], params["places"]) == ("textile room", 12)


def test_a_pinned_step_stands_where_it_was_pinned() -> None:
    pin = [{"test": "one", "step": "pull", "start": f"{DAY}T09:00:00Z"}]
    _, board = planned_first(request(), pinned=pin)
    assert reason(board, 0) == ("pinned", "plan.pinned", {"at": "09:00"})


def test_what_is_late_even_alone_says_so() -> None:
    problem, board = planned_first(request(due=f"{DAY}T08:15:00Z"))
    (test,) = problem.tests
    assert why_late(board, test).code == "plan.late-alone"
    assert lateness_of(board, test) == end_of(board, test) - (test.due or 0)
    assert min_lateness(problem, [test]) == score(board).lateness


def test_what_another_test_makes_late_names_it_with_the_step() -> None:
    problem, board = planned_first(request("one"), request("two", due=f"{DAY}T09:00:00Z"))
    late = why_late(board, problem.tests[1])
    assert late.code == "plan.station"
    assert [around.code for around in late.around] == ["plan.of-step"]
    assert late.text == "pull: frame 1 is taken by one until 08:45"


STEP = {"id": "pull", "hands_on_minutes": 45}


@pytest.mark.parametrize(
    ("changes", "code"),
    [
        ({"steps": [STEP | {"station": "burst-rig"}]}, "plan.no-station"),
        ({"method": "flow"}, "plan.nobody-authorised"),
        (
            {"steps": [STEP | {"enclosure": "textile room", "places": 99}]},
            "plan.too-few-places",
        ),
        (
            {"steps": [STEP, STEP | {"id": "next", "least_minutes": 60, "most_minutes": 30}]},
            "plan.waits-contradict",
        ),
        ({"steps": [STEP | {"hands_on_minutes": 600}]}, "plan.nobody-long-enough"),
        ({"not_before": "2026-03-05T07:59:00Z"}, "plan.steps-do-not-fit"),
    ],
)
def test_what_can_never_be_planned_says_why(changes: dict[str, Any], code: str) -> None:
    people = [{"name": "A", "hours": hours(2, 3, 4), "may": ["tear"]}]
    problem, board = planned_first(request(**changes), people=people)
    (test,) = problem.tests
    assert not is_whole(board, test)
    assert why_not(problem, test).code == code
    assert score(board).left_out == 1


@pytest.mark.parametrize(
    ("away", "code"),
    [
        ([["2026-03-02T08:00:00Z", "2026-03-05T08:00:00Z"]], "plan.stations-away"),
        (
            [
                ["2026-03-04T08:00:00Z", "2026-03-05T08:00:00Z"],
                ["2026-03-02T08:00:00Z", "2026-03-04T08:00:00Z"],
            ],
            "plan.stations-away",
        ),
        ([["2026-03-02T08:00:00Z", "2026-03-05T07:40:00Z"]], "plan.steps-do-not-fit"),
    ],
)
def test_a_station_that_is_out_of_service_throughout_is_the_reason(
    away: list[list[str]], code: str
) -> None:
    people = [{"name": "A", "hours": hours(2, 3, 4), "may": ["tear"]}]
    stations = [{"name": "R-1", "kind": "burst-rig", "away": away}]
    steps = [STEP | {"station": "burst-rig"}]
    problem, _ = planned_first(request(steps=steps), people=people, stations=stations)
    reason = why_not(problem, problem.tests[0])
    assert reason.code == code
    assert ("R-1" in reason.text) is (code == "plan.stations-away")


def test_a_pin_outside_the_plan_is_the_reason() -> None:
    pin = [{"test": "one", "step": "pull", "start": "2026-03-01T09:00:00Z"}]
    problem, _ = planned_first(request(), pinned=pin)
    assert why_not(problem, problem.tests[0]).code == "plan.pin-outside"


def test_a_plan_with_fewer_changes_is_better_than_one_that_ends_sooner() -> None:
    _, apart = planned_first(placed("one", "jaws 50"), placed("two", "jaws 50"))
    _, changed = planned_first(placed("one", "jaws 50"), placed("two", "jaws 200"))
    assert (score(apart).changes, score(changed).changes) == (0, 1)
    assert score(apart) < score(changed)


def test_a_station_that_cools_down_less_is_better() -> None:
    def heat(name: str, celsius: float) -> dict[str, Any]:
        flow = {"id": "pull", "station": "frame", "hands_on_minutes": 45}
        flow |= {"set_up": f"{celsius:g} °C", "heat_c": celsius}
        return request(name, steps=[flow])

    _, rising = planned_first(heat("a", 190), heat("b", 230))
    _, falling = planned_first(heat("a", 230), heat("b", 190))
    assert (score(rising).cooled, score(falling).cooled) == (0, 1)


def test_lateness_counts_by_priority() -> None:
    late = {"due": f"{DAY}T08:15:00Z"}
    _, once = planned_first(request(**late))
    _, thrice = planned_first(request(priority=3, **late))
    assert score(thrice).lateness == 3 * score(once).lateness
