"""The answer to a planning document: who does what when, why, what is late, what has no place."""

from __future__ import annotations

import os
from collections.abc import Sequence
from time import monotonic
from typing import Any

from endurant.core.planning.board import Board, Placed
from endurant.core.planning.codec import text_of
from endurant.core.planning.document import read_plan
from endurant.core.planning.first import first_plan, moved_up, orders, usual_order
from endurant.core.planning.improve import holds, improved, size_of
from endurant.core.planning.problem import Problem, Test, problem_of
from endurant.core.planning.reasons import why_late, why_not, why_there
from endurant.core.planning.rows import PlanAnswer, PlannedStep
from endurant.core.planning.score import end_of, is_whole, min_lateness, score
from endurant.core.reading import parse_json
from endurant.core.refusals import Invalid

MAX_WORKERS = 8
FOR_REASONS_S = 0.3
"""Kept of the time for saying why."""
FEW_ORDERS = 10
MAX_STEPS = 5_000
LARGEST = 45_000
"""A problem with more ways from one step to another on a station is too large for the solver."""


def plan_json(data: bytes) -> PlanAnswer:
    """Return the plan of a document as it was sent; raises Invalid."""
    return plan_document(parse_json(data))


def plan_document(data: Any) -> PlanAnswer:
    """Return the plan of a document as plain data; raises Invalid that names the field."""
    began = monotonic()
    request = read_plan(data)
    problem = problem_of(request)
    steps = sum(len(test.steps) for test in problem.tests)
    if steps > MAX_STEPS:
        raise Invalid("planning.too-many-steps", steps=steps, max=MAX_STEPS, field="tests")

    def left_s() -> float:
        return request.time_limit_s - FOR_REASONS_S - (monotonic() - began)

    best = planned_in(problem, usual_order(problem))
    is_large = size_of(problem) > LARGEST
    for tries, order in enumerate(orders(problem)):
        if left_s() < 0 or (not is_large and tries >= FEW_ORDERS):
            break
        best = min(best, planned_in(problem, order), key=score)
    if is_large or left_s() < 0:
        return answer(best, None)
    workers = min(os.cpu_count() or 1, MAX_WORKERS)
    better = improved(problem, best, left_s, workers)
    return answer(better.board, better.lateness_bound)


def planned_in(problem: Problem, order: Sequence[int]) -> Board:
    """Return the plan that one order gives; empty if it breaks a rule, which is a defect."""
    board = first_plan(problem, order)
    moved_up(board)
    return board if holds(board) else Board(problem)


def answer(board: Board, lateness_bound: int | None) -> PlanAnswer:
    """Return a plan in the terms of the planning document: ISO 8601 and minutes."""
    problem = board.problem
    whole = [test for test in problem.tests if is_whole(board, test)]
    worth = score(board)
    late = {
        test.id: minutes
        for test in whole
        if (minutes := problem.minutes_late(test, end_of(board, test))) > 0
    }
    lateness = sum(test.priority * late.get(test.id, 0) for test in whole)
    bound = lateness_bound or 0
    if len(whole) == len(problem.tests):
        bound = max(bound, min_lateness(problem, whole))
    return {
        "lateness": lateness,
        "lateness_bound": min(bound * problem.unit_s // 60, lateness),
        "changes": worth.changes,
        "ends": text_of(problem.moment(worth.end)) if whole else None,
        "steps": [
            _step(board, placed)
            for placed in sorted(board.steps.values(), key=lambda each: (each.start, each.key))
        ],
        "unplanned": [
            {"test": test.id, "why": why_not(problem, test).text}
            for test in problem.tests
            if not is_whole(board, test)
        ],
        "late": [
            {"test": test.id, "minutes": late[test.id], "why": why_late(board, test).text}
            for test in whole
            if test.id in late
        ],
    }


def _step(board: Board, placed: Placed) -> PlannedStep:
    problem = board.problem
    test: Test = problem.tests[placed.test]
    step = test.steps[placed.place]
    why = why_there(board, placed)
    return {
        "test": test.id,
        "step": step.id,
        "start": _moment(problem, placed.start),
        "hands_on_end": _moment(problem, placed.hands_end),
        "end": _moment(problem, placed.end),
        "person": None if placed.person is None else problem.people[placed.person].name,
        "station": None if placed.station is None else problem.stations[placed.station].name,
        "enclosure": None if step.enclosure is None else problem.enclosures[step.enclosure].name,
        "set_up_start": _moment(problem, placed.begins) if placed.changed else None,
        "why": {"rule": why.rule, "words": why.in_words},
    }


def _moment(problem: Problem, at: int) -> str:
    return text_of(problem.moment(at))
