"""A first plan, at once: test after test, each as early as it fits; steps are moved up later."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np

from endurant.core.planning.board import Board, Placed
from endurant.core.planning.problem import Problem, Step, Test

MAX_TRIES = 2000
"""So often a test is pushed on until its waits hold."""
FAR = 1 << 60


def first_plan(problem: Problem, order: Sequence[int]) -> Board:
    """Return the tests placed in this order, each as early as it fits; others are left out.

    Tests of which every step is pinned are placed first.
    """
    board, placed = _pinned_board(problem)
    for test in order:
        if test not in placed:
            place_test(board, problem.tests[test])
    return board


def _pinned_board(problem: Problem) -> tuple[Board, set[int]]:
    """Tests that are pinned in every step, step by step in the order of time.

    So each set-up stands where it was when the steps were pinned; a test that does not fit between
    the others is placed like any other.
    """
    placed = {
        place
        for place, test in enumerate(problem.tests)
        if all(step.pin is not None for step in test.steps)
    }
    while True:
        board = Board(problem)
        steps = [step for place in placed for step in problem.tests[place].steps]
        misfit = None
        for step in sorted(steps, key=lambda each: (each.pin or 0, each.key)):
            block = _at_its_pin(board, step)
            if block is None:
                misfit = step.test
                break
            board.put(block)
        if misfit is None:
            return board, placed
        placed.remove(misfit)


def _at_its_pin(board: Board, step: Step) -> Placed | None:
    """A pinned step where it belongs; None where something is in its way."""
    test = board.problem.tests[step.test]
    low, high = test.not_before, board.problem.until
    if step.place:
        before = board.steps[step.test, step.place - 1]
        low = max(low, before.end + step.min_wait)
        if step.max_wait is not None:
            high = before.end + step.max_wait
    return board.earliest(step, low, high)


def usual_order(problem: Problem) -> list[int]:
    """Return the order that is tried first: pinned tests, then by due date, priority and length."""

    def rank(place: int) -> tuple[bool, int, int, int]:
        test = problem.tests[place]
        lasts = sum(step.lasts + step.min_wait for step in test.steps)
        due = FAR if test.due is None else test.due
        return not _is_pinned(test), due - lasts, -test.priority, -lasts

    return sorted(range(len(problem.tests)), key=rank)


def _is_pinned(test: Test) -> bool:
    return any(step.pin is not None for step in test.steps)


def orders(problem: Problem) -> Iterator[list[int]]:
    """Other orders to try: tests due about the same time, those of one set-up side by side.

    First by due date alone, and with priority before it; then in wider and wider stretches of
    time; then the usual order a little stirred, for ever.
    """
    usual = usual_order(problem)
    due = {place: FAR if test.due is None else test.due for place, test in enumerate(problem.tests)}
    pinned = {
        place for place in usual if any(s.pin is not None for s in problem.tests[place].steps)
    }
    yield sorted(usual, key=lambda test: (test not in pinned, due[test]))
    yield sorted(
        usual, key=lambda test: (test not in pinned, -problem.tests[test].priority, due[test])
    )
    rank = {test: place for place, test in enumerate(usual)}

    def set_ups(place: int) -> list[str]:
        return [step.set_up or "" for step in problem.tests[place].steps]

    for together in (4, 8, 16, 32, 64):
        yield sorted(usual, key=lambda test: (rank[test] // together, set_ups(test), rank[test]))
    chance = np.random.default_rng(len(usual))
    while True:
        reach = float(chance.choice((2, 5, 12)))
        stirred = {test: rank[test] + chance.uniform(0, reach) for test in usual}
        yield sorted(usual, key=stirred.__getitem__)


def place_test(board: Board, test: Test) -> bool:
    """Place all steps of a test, or none; a step is pushed on until the next one can follow.

    A greatest wait that the next step cannot keep pushes the step before it, and so on back.
    """
    low = [test.not_before for _ in test.steps]
    place, placed = 0, list[Placed]()
    for _ in range(MAX_TRIES):
        step = test.steps[place]
        high = board.problem.until
        if place:
            before = placed[-1]
            low[place] = max(low[place], before.end + step.min_wait)
            if step.max_wait is not None:
                high = before.end + step.max_wait
        fitted = board.earliest(step, low[place], board.problem.until)
        if fitted is None:
            break
        if fitted.start <= high:
            board.put(fitted)
            placed.append(fitted)
            place += 1
            if place == len(test.steps):
                return True
            low[place] = test.not_before
            continue
        # Too late after the step before: that one is taken back, and tried again so much later.
        before = placed.pop()
        board.take(before.key)
        place -= 1
        latest_start = fitted.start - (step.max_wait or 0) - test.steps[place].lasts
        low[place] = max(before.start + 1, latest_start)
    for each in placed:
        board.take(each.key)
    return False


def moved_up(board: Board) -> None:
    """Move every step to the earliest unit at which it can stand, without making anything worse.

    Neither who does it nor where, nor the order on its station, changes; what is pinned stays.
    """
    for key in [placed.key for placed in sorted(board.steps.values())]:
        test = board.problem.tests[key[0]]
        step = test.steps[key[1]]
        if step.pin is not None:
            continue
        old = board.take(key)
        low = max(test.not_before, _after_the_one_before(board, test, key[1]))
        following = board.steps.get((key[0], key[1] + 1))
        if following is not None:
            max_wait = test.steps[key[1] + 1].max_wait
            if max_wait is not None:
                low = max(low, following.start - max_wait - step.lasts)
        if old.station is not None:
            step = replace(step, stations=(old.station,))
            low = max(low, _after_on_station(board, old.station, old.start))
        earlier = (
            board.earliest(step, low, old.start - 1, keeps_order=True) if low < old.start else None
        )
        board.put(old if earlier is None else earlier)


def _after_the_one_before(board: Board, test: Test, place: int) -> int:
    if place == 0:
        return 0
    return board.steps[test.steps[0].test, place - 1].end + test.steps[place].min_wait


def _after_on_station(board: Board, station: int, start: int) -> int:
    ends = (other.end for other in board.of_station[station] if other.start < start)
    return max(ends, default=0)
