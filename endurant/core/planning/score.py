"""What a plan is worth: most tests, least lateness, fewest changes of set-up, the earliest end.

Among plans with as many changes, one in which a station has to cool down less often is better.
"""

from __future__ import annotations

from itertools import pairwise
from typing import NamedTuple

from endurant.core.planning.board import Board, Placed
from endurant.core.planning.problem import Problem, Test


class Score(NamedTuple):
    """The smaller the better, the first that differs decides; lateness is in units by priority."""

    left_out: int
    lateness: int
    changes: int
    cooled: int
    end: int


def is_whole(board: Board, test: Test) -> bool:
    """Return True when every step of a test is placed."""
    return all(step.key in board.steps for step in test.steps)


def end_of(board: Board, test: Test) -> int:
    """Return the unit of time in which the last step of a placed test ends."""
    return board.steps[test.steps[-1].key].end


def lateness_of(board: Board, test: Test) -> int:
    """Return how late a placed test is, in units; 0 where it is in time."""
    return 0 if test.due is None else max(end_of(board, test) - test.due, 0)


def score(board: Board) -> Score:
    """Return what the plan on a board is worth; a smaller score is better."""
    problem = board.problem
    whole = [test for test in problem.tests if is_whole(board, test)]
    return Score(
        left_out=len(problem.tests) - len(whole),
        lateness=sum(test.priority * lateness_of(board, test) for test in whole),
        changes=sum(placed.changed for placed in board.steps.values()),
        cooled=sum(_cooled(problem, timeline) for timeline in board.of_station),
        end=max((placed.end for placed in board.steps.values()), default=0),
    )


def _cooled(problem: Problem, timeline: list[Placed]) -> int:
    """How often a station goes from a heat to a lower one."""
    steps = [problem.tests[placed.test].steps[placed.place] for placed in timeline]
    heats = [step.heat_c for step in steps if step.heat_c is not None]
    return sum(after < before for before, after in pairwise(heats))


def min_lateness(problem: Problem, placed: list[Test]) -> int:
    """Return a lower bound of the lateness in units: each test by itself, with everything free."""
    return sum(
        test.priority * max(_soonest(test) - test.due, 0) for test in placed if test.due is not None
    )


def _soonest(test: Test) -> int:
    return test.not_before + sum(step.lasts + step.min_wait for step in test.steps)
