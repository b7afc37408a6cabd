"""The board of a plan: where a step fits, who does it, when a station is set up, and a score."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from itertools import islice
from typing import Any

import pytest

from endurant.core.planning.board import Board, Placed
from endurant.core.planning.document import read_plan
from endurant.core.planning.first import first_plan, orders, place_test, usual_order
from endurant.core.planning.problem import Problem, problem_of
from endurant.core.planning.score import (
    end_of,
    is_whole,
    lateness_of,
    min_lateness,
    score,
)

NOW = datetime(2026, 3, 2, 8, tzinfo=UTC)
DAY = 8 * 60


def at(minutes: float) -> str:
    """A moment so many minutes after now."""
    return (NOW + timedelta(minutes=minutes)).isoformat().replace("+00:00", "Z")


def step(name: str = "test", **given: Any) -> dict[str, Any]:
    return {"id": name, "hands_on_minutes": 30} | given


def plan_test(name: str, *steps: dict[str, Any], **given: Any) -> dict[str, Any]:
    return {"id": name, "method": "iso-13937-2", "priority": 1, "steps": list(steps)} | given


def problem(*tests: dict[str, Any], **changes: Any) -> Problem:
    """One person from now for eight hours, a frame, and a room of four places."""
    document = {
        "now": at(0),
        "until": at(DAY),
        "people": [{"name": "Ines", "hours": [[at(0), at(DAY)]]}],
        "stations": [{"name": "Frame 1", "kind": "frame", "set_up_minutes": 15}],
        "enclosures": [{"name": "Room", "places": 4}],
        "tests": list(tests),
    } | changes
    return problem_of(read_plan(document))


def minutes(found: Problem, placed: Placed | None) -> tuple[int, int] | None:
    """Start and end of a placed step in minutes from now."""
    if placed is None:
        return None
    return found.minutes(placed.start), found.minutes(placed.end)


def placed_alone(*tests: dict[str, Any], **changes: Any) -> tuple[Problem, Board]:
    found = problem(*tests, **changes)
    return found, first_plan(found, range(len(found.tests)))


def test_a_step_begins_at_once_where_nothing_holds_it_up() -> None:
    found, board = placed_alone(plan_test("A", step()))
    (placed,) = board.steps.values()
    assert minutes(found, placed) == (0, 30)
    assert (placed.person, placed.station, placed.changed) == (0, None, False)


def test_what_goes_on_by_itself_leaves_the_person_free() -> None:
    long = step(hands_on_minutes=10, unattended_minutes=100)
    found, board = placed_alone(plan_test("A", long), plan_test("B", step()))
    assert minutes(found, board.steps[0, 0]) == (0, 110)
    assert minutes(found, board.steps[1, 0]) == (10, 40)


def test_a_person_does_one_thing_at_a_time() -> None:
    found, board = placed_alone(plan_test("A", step()), plan_test("B", step()))
    assert sorted(minutes(found, each) or () for each in board.steps.values()) == [
        (0, 30),
        (30, 60),
    ]


def test_two_people_work_side_by_side() -> None:
    people = [{"name": name, "hours": [[at(0), at(DAY)]]} for name in ("Ines", "Olga")]
    found, board = placed_alone(plan_test("A", step()), plan_test("B", step()), people=people)
    assert [minutes(found, each) for each in board.steps.values()] == [(0, 30), (0, 30)]
    assert {each.person for each in board.steps.values()} == {0, 1}


@pytest.mark.parametrize(("may", "person"), [(["iso-13937-2"], 1), ([], None), (None, 0)])
def test_only_who_may_run_the_method_does_it(may: list[str] | None, person: int | None) -> None:
    """The first of the two may run nothing, unless what they may run is not restricted."""
    hours = [[at(0), at(DAY)]]
    people = [
        {"name": "Ines", "hours": hours, "may": None if may is None else []},
        {"name": "Olga", "hours": hours, "may": may},
    ]
    _, board = placed_alone(plan_test("A", step()), people=people)
    assert [each.person for each in board.steps.values()] == ([] if person is None else [person])


def test_a_step_is_not_split_across_a_break() -> None:
    people = [{"name": "Ines", "hours": [[at(0), at(20)], [at(60), at(DAY)]]}]
    found, board = placed_alone(plan_test("A", step()), people=people)
    assert minutes(found, board.steps[0, 0]) == (60, 90)


def test_a_station_is_set_up_before_the_first_test_and_before_another_kind() -> None:
    jaws = step(station="frame", set_up="jaws")
    found, board = placed_alone(
        plan_test("A", jaws),
        plan_test("B", jaws),
        plan_test("C", step(station="frame", set_up="grips")),
    )
    found_at = [minutes(found, board.steps[test, 0]) for test in range(3)]
    assert found_at == [(15, 45), (45, 75), (90, 120)]
    assert [board.steps[test, 0].changed for test in range(3)] == [True, False, True]
    assert board.state_before(0, found.until) == "grips"
    assert score(board).changes == 2


def test_a_station_that_stands_ready_is_not_set_up() -> None:
    ready = [{"name": "Frame 1", "kind": "frame", "set_up": "jaws", "set_up_minutes": 15}]
    found, board = placed_alone(
        plan_test("A", step(station="frame", set_up="jaws")), stations=ready
    )
    assert minutes(found, board.steps[0, 0]) == (0, 30)
    assert not board.steps[0, 0].changed


def test_a_test_without_a_station_of_its_kind_is_left_out() -> None:
    _, board = placed_alone(plan_test("A", step(station="burst-rig")), plan_test("B", step()))
    assert [key[0] for key in board.steps] == [1]
    assert score(board).left_out == 1


def test_a_room_holds_no_more_than_its_places() -> None:
    conditioning = step(
        "place", enclosure="Room", places=3, hands_on_minutes=5, unattended_minutes=55
    )
    found, board = placed_alone(plan_test("A", conditioning), plan_test("B", conditioning))
    assert minutes(found, board.steps[0, 0]) == (0, 60)
    assert minutes(found, board.steps[1, 0]) == (60, 120)
    small = conditioning | {"places": 5}
    _, none = placed_alone(plan_test("A", small))
    assert none.steps == {}


def test_a_step_waits_for_the_one_before_and_its_rest() -> None:
    found, board = placed_alone(
        plan_test("A", step("cut"), step("test", least_minutes=60, hands_on_minutes=10))
    )
    assert minutes(found, board.steps[0, 0]) == (0, 30)
    assert minutes(found, board.steps[0, 1]) == (90, 100)


def test_a_step_is_pushed_on_until_the_next_can_follow_in_time() -> None:
    """The frame is away until 13:00, and the bar has to be struck within 10 min of its soak."""
    away = [{"name": "Frame 1", "kind": "frame", "away": [[at(0), at(300)]]}]
    found, board = placed_alone(
        plan_test(
            "A",
            step("soak", hands_on_minutes=5, unattended_minutes=55),
            step("strike", station="frame", most_minutes=10, hands_on_minutes=5),
        ),
        stations=away,
    )
    assert minutes(found, board.steps[0, 1]) == (300, 305)
    end = found.minutes(board.steps[0, 0].end)
    assert 290 <= end <= 300


def test_what_cannot_be_placed_whole_is_not_placed_in_part() -> None:
    found = problem(plan_test("A", step("cut"), step("test", hands_on_minutes=DAY)))
    board = Board(found)
    assert not place_test(board, found.tests[0])
    assert board.steps == {}
    assert board.of_person == [[]]


def test_a_step_that_is_taken_off_leaves_its_room() -> None:
    found = problem(plan_test("A", step(station="frame", set_up="jaws")))
    board = Board(found)
    assert place_test(board, found.tests[0])
    first = board.steps[0, 0]
    assert board.of_station == [[first]]
    assert board.take((0, 0)) == first
    assert (board.steps, board.of_station, board.of_person) == ({}, [[]], [[]])
    assert place_test(board, found.tests[0])
    assert board.steps[0, 0] == first


@pytest.mark.parametrize(
    ("pin", "start"), [({}, 120), ({"person": "Ines"}, 120), ({"person": "Nobody else"}, None)]
)
def test_a_pinned_step_stands_where_it_was_pinned(pin: dict[str, str], start: int | None) -> None:
    people = [
        {"name": "Ines", "hours": [[at(0), at(DAY)]]},
        {"name": "Nobody else", "hours": [[at(0), at(60)]]},
    ]
    pinned = [{"test": "A", "step": "test", "start": at(120)} | pin]
    found, board = placed_alone(plan_test("A", step()), people=people, pinned=pinned)
    placed = board.steps.get((0, 0))
    assert (None if placed is None else found.minutes(placed.start)) == start


def test_the_score_counts_by_priority_how_late_a_test_is() -> None:
    found, board = placed_alone(
        plan_test("A", step(), due=at(10), priority=3), plan_test("B", step(), due=at(100))
    )
    a, b = found.tests
    assert found.minutes(lateness_of(board, a)) == 20
    assert lateness_of(board, b) == 0
    assert found.minutes_late(a, end_of(board, a)) == 20
    scored = score(board)
    assert scored.left_out == 0
    assert scored.lateness == 3 * lateness_of(board, a)
    assert found.minutes(scored.end) == 60
    assert min_lateness(found, list(found.tests)) == 3 * lateness_of(board, a)
    assert is_whole(board, a)


def test_a_due_date_between_two_minutes_is_late_by_its_seconds() -> None:
    found, board = placed_alone(plan_test("A", step(), due=at(29.5)))
    (only,) = found.tests
    assert found.minutes_late(only, end_of(board, only)) == 0.5


def test_the_smaller_score_is_the_better_plan() -> None:
    found = problem(plan_test("A", step()), plan_test("B", step(hands_on_minutes=60)))
    both, one = first_plan(found, [0, 1]), first_plan(found, [0])
    assert score(both) < score(one)


def test_tests_go_first_by_the_latest_moment_they_can_begin() -> None:
    found = problem(
        plan_test("late", step(), due=at(400)),
        plan_test("soon", step(), due=at(60)),
        plan_test("long", step(hands_on_minutes=350), due=at(400)),
        plan_test("never", step()),
        plan_test("pinned", step()),
        pinned=[{"test": "pinned", "step": "test", "start": at(120)}],
    )
    assert [found.tests[place].id for place in usual_order(found)] == [
        "pinned",
        "soon",
        "long",
        "late",
        "never",
    ]


def test_every_order_that_is_tried_holds_each_test_once_and_is_the_same_again() -> None:
    found = problem(*(plan_test(f"T{n}", step(), due=at(40 * n)) for n in range(6)))
    tried = list(islice(orders(found), 20))
    assert all(sorted(order) == list(range(6)) for order in tried)
    assert tried == list(islice(orders(found), 20))
    assert len({tuple(order) for order in tried}) > 3
