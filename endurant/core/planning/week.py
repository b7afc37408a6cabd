"""A simulated week: plans meet late starts, voids and a broken frame, and are made again.

Every two hours what is left is planned anew, with what is known then; what the plan begins in
those two hours is done, later and longer than planned. First come first served is done likewise.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from endurant.core.planning.board import Board, Placed
from endurant.core.planning.codec import moment_of
from endurant.core.planning.document import read_plan
from endurant.core.planning.first import first_plan, moved_up, orders, usual_order
from endurant.core.planning.problem import Problem, problem_of
from endurant.core.planning.score import score
from endurant.core.simulate.laboratory import DAY_MIN, MONDAY, busy_week, iso

AGAIN_EVERY_MIN = 120
ORDERS_TRIED = 6
LATE_SHARE, LATEST_MIN = 0.3, 12
LONGER_SHARE = 0.12
VOID_SHARE, VOID_LONGER = 0.06, 1.35
BROKEN_MIN = 1440
SINCE, HELD = "since the step before", "held"
TESTS, ARRIVE_WITHIN_MIN = 130, 3 * DAY_MIN

Planner = Callable[[Problem], Board]


@dataclass(frozen=True)
class Week:
    """How a week went: tests done and late, lateness by priority in minutes, idle hands."""

    done: int
    late: int
    lateness_min: int
    changes: int
    missed_windows: int
    idle_percent: float


@dataclass
class _State:
    """What has happened so far, in minutes from Monday morning."""

    step_of: dict[str, int] = field(default_factory=dict)
    ready_at: dict[str, int] = field(default_factory=dict)
    latest_at: dict[str, int] = field(default_factory=dict)
    last_end: dict[str, int] = field(default_factory=dict)
    ended_at: dict[str, int] = field(default_factory=dict)
    person_free: dict[str, int] = field(default_factory=dict)
    station_free: dict[str, int] = field(default_factory=dict)
    set_up: dict[str, str] = field(default_factory=dict)
    rooms: list[tuple[str, int, int]] = field(default_factory=list)
    worked_min: int = 0
    changes: int = 0
    missed: int = 0


def planned_order(problem: Problem) -> Board:
    """Return the best of a few orders, as the planner begins."""
    boards = []
    tries = [usual_order(problem), *_some(orders(problem), ORDERS_TRIED)]
    for order in tries:
        board = first_plan(problem, order)
        moved_up(board)
        boards.append(board)
    return min(boards, key=score)


def _some(each: Iterable[list[int]], count: int) -> list[list[int]]:
    return [order for order, _ in zip(each, range(count), strict=False)]


def first_come(problem: Problem) -> Board:
    """Return the tests placed as they arrived, once running tests have their place."""
    places = range(len(problem.tests))
    runs = [place for place in places if problem.tests[place].steps[0].pin is not None]
    return first_plan(problem, [*runs, *(place for place in places if place not in runs)])


def simulated_week(seed: int, planner: Planner, tests: int = TESTS) -> Week:
    """Return the week of one laboratory; the same seed brings the same tests and mishaps."""
    document = busy_week(tests, seed, arrive_within_min=ARRIVE_WITHIN_MIN)
    document["tests"].sort(key=lambda test: test["not_before"])
    chance = np.random.default_rng([seed, 7])
    broken_from = int(chance.integers(DAY_MIN, 3 * DAY_MIN))
    mishaps = {
        test["id"]: np.random.default_rng([seed, n]) for n, test in enumerate(document["tests"])
    }
    state = _State()
    for now in range(0, 7 * DAY_MIN, AGAIN_EVERY_MIN):
        left = _left(document, state, now, broken_from)
        if left is None:
            continue
        problem = problem_of(read_plan(left))
        board = planner(problem)
        begun = [
            placed
            for placed in sorted(board.steps.values())
            if placed.begins < AGAIN_EVERY_MIN and _is_done_by_somebody(problem, placed)
        ]
        for placed in begun:
            _do(document, state, problem, placed, now, mishaps)
    return _sent(document, state)


def _is_done_by_somebody(problem: Problem, placed: Placed) -> bool:
    """False for what only stands for something that runs."""
    test = problem.tests[placed.test]
    return test.method != HELD and test.steps[placed.place].id != SINCE


def _left(
    document: dict[str, Any], state: _State, now: int, broken_from: int
) -> dict[str, Any] | None:
    """What is known and left at this moment; None where nothing is."""
    tests, pinned = [], []
    for test in document["tests"]:
        begun = state.step_of.get(test["id"], 0)
        if _minute(test["not_before"]) > now or begun >= len(test["steps"]):
            continue
        steps = test["steps"][begun:]
        if begun:
            steps = _since(state.last_end[test["id"]], now, steps)
            pinned.append({"test": test["id"], "step": steps[0]["id"], "start": iso(now)})
        tests.append(test | {"steps": steps, "not_before": iso(now)})
    if not tests:
        return None
    is_broken = broken_from <= now < broken_from + BROKEN_MIN
    stations = []
    for place, station in enumerate(document["stations"]):
        free = max(state.station_free.get(station["name"], 0), now)
        if is_broken and place == 0:
            free = max(free, broken_from + BROKEN_MIN)
        row = dict(station)
        if station["name"] in state.set_up:
            row["set_up"] = state.set_up[station["name"]]
        if free > now:
            row["away"] = [[iso(now), iso(free)]]
        stations.append(row)
    inside = [(room, places, end) for room, places, end in state.rooms if end > now]
    held = [
        {
            "id": f"* {number}",
            "method": HELD,
            "steps": [
                {"id": "in", "enclosure": room, "places": places, "unattended_minutes": end - now}
            ],
        }
        for number, (room, places, end) in enumerate(inside)
    ]
    return document | {
        "now": iso(now),
        "until": iso(14 * DAY_MIN),
        "people": [
            _from(person, max(state.person_free.get(person["name"], 0), now))
            for person in document["people"]
        ],
        "stations": stations,
        "tests": [*tests, *held],
        "pinned": [
            *pinned,
            *({"test": row["id"], "step": "in", "start": iso(now)} for row in held),
        ],
    }


def _since(last_end: int, now: int, steps: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """What is left of a test that was begun, after what is left of the step before.

    A window that has closed already does not count any more: it is missed.
    """
    following, *others = steps
    gone = max(now - last_end, 0)
    upper, lower = following.get("most_minutes"), following.get("least_minutes", 0)
    following = following | {"least_minutes": max(lower - gone, 0)}
    if upper is not None:
        following["most_minutes"] = upper - gone if upper > gone else None
    since = {"id": SINCE, "unattended_minutes": max(last_end - now, 0)}
    return [since, following, *others]


def _from(person: dict[str, Any], free: int) -> dict[str, Any]:
    """Their hours once they are free again."""
    hours = [
        [iso(max(_minute(start), free)), end]
        for start, end in person["hours"]
        if _minute(end) > free
    ]
    return person | {"hours": hours}


def _do(
    document: dict[str, Any],
    state: _State,
    problem: Problem,
    placed: Placed,
    now: int,
    mishaps: dict[str, np.random.Generator],
) -> None:
    """A step as it really goes: begun late, longer than planned, sometimes with voids."""
    test = problem.tests[placed.test]
    step = test.steps[placed.place]
    chance = mishaps[test.id]
    ready = state.ready_at.get(test.id, 0) - (placed.start - placed.begins)
    begins = max(now + placed.begins, ready)
    if placed.person is not None:
        begins = max(begins, state.person_free.get(problem.people[placed.person].name, 0))
    if placed.station is not None:
        begins = max(begins, state.station_free.get(problem.stations[placed.station].name, 0))
    if chance.random() < LATE_SHARE:
        begins += int(chance.integers(LATEST_MIN + 1))
    longer = 1 + abs(chance.normal(0, LONGER_SHARE))
    if step.kind is not None and chance.random() < VOID_SHARE:
        longer *= VOID_LONGER
    start = begins + placed.start - placed.begins
    hands_end = start + round(step.hands * longer)
    end = hands_end + step.alone
    if start > state.latest_at.get(test.id, start):
        state.missed += 1
    if placed.person is not None:
        state.person_free[problem.people[placed.person].name] = hands_end
        state.worked_min += hands_end - begins
    if placed.station is not None:
        name = problem.stations[placed.station].name
        state.station_free[name] = end
        if placed.set_up is not None:
            state.changes += placed.set_up != state.set_up.get(name)
            state.set_up[name] = placed.set_up
    if step.enclosure is not None:
        state.rooms.append((problem.enclosures[step.enclosure].name, step.places, end))
    _step_done(document, state, test.id, end)


def _step_done(document: dict[str, Any], state: _State, name: str, end: int) -> None:
    steps = next(test["steps"] for test in document["tests"] if test["id"] == name)
    done = state.step_of.get(name, 0) + 1
    state.step_of[name] = done
    state.last_end[name] = end
    state.latest_at.pop(name, None)
    if done == len(steps):
        state.ended_at[name] = end
        return
    following = steps[done]
    state.ready_at[name] = end + following.get("least_minutes", 0)
    if following.get("most_minutes") is not None:
        state.latest_at[name] = end + following["most_minutes"]


def _sent(document: dict[str, Any], state: _State) -> Week:
    late = lateness = 0
    for test in document["tests"]:
        end = state.ended_at.get(test["id"], 7 * DAY_MIN)
        minutes = max(end - _minute(test["due"]), 0)
        late += minutes > 0
        lateness += test["priority"] * minutes
    last = max(state.ended_at.values(), default=0)
    hours = sum(
        max(min(_minute(end), last) - _minute(start), 0)
        for person in document["people"]
        for start, end in person["hours"]
    )
    return Week(
        done=len(state.ended_at),
        late=late,
        lateness_min=lateness,
        changes=state.changes,
        missed_windows=state.missed,
        idle_percent=round(100 * (1 - min(state.worked_min / hours, 1.0)), 1) if hours else 0.0,
    )


def _minute(text: str) -> int:
    return round((moment_of(text) - MONDAY).total_seconds() / 60)


def table(seed: int) -> str:
    """Return both ways through the same week, as lines to be printed."""
    rows = {
        "planned": simulated_week(seed, planned_order),
        "first come": simulated_week(seed, first_come),
    }
    lines = [
        "| week | done | late | minutes late by priority | set-ups | windows missed | idle hands |",
        "| --- | --- | --- | --- | --- | --- | --- |",
    ]
    for name, week in rows.items():
        lines.append(
            f"| {seed}, {name} | {week.done} | {week.late} | {week.lateness_min} | {week.changes} "
            f"| {week.missed_windows} | {week.idle_percent} % |"
        )
    return "\n".join(lines)
