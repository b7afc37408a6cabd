"""Why a step stands where it does, why a test is late, and why one cannot be planned: in words."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import UTC
from typing import Literal

from endurant.core.planning.board import Board, Placed
from endurant.core.planning.first import place_test
from endurant.core.planning.problem import Problem, Span, Step, Test
from endurant.core.planning.score import end_of

Rule = Literal[
    "now",
    "not-before",
    "pinned",
    "kept",
    "previous",
    "person",
    "hours",
    "station",
    "away",
    "enclosure",
    "next",
    "plan",
]


@dataclass(frozen=True)
class Why:
    """What holds a step where it is."""

    rule: Rule
    words: str


def why_there(board: Board, placed: Placed) -> Why:
    """What stands directly before a step, so that it could not begin a unit earlier."""
    problem = board.problem
    test = problem.tests[placed.test]
    step = test.steps[placed.place]
    if step.held:
        return Why("kept", "it stood there in the plan before")
    if step.pin is not None:
        return Why("pinned", f"the step is pinned to {_at(problem, placed.start)}")
    if placed.place:
        before = board.steps[placed.test, placed.place - 1]
        if before.end + step.least == placed.start:
            least = f", and {_minutes(problem, step.least)} more" if step.least else ""
            name = test.steps[placed.place - 1].id
            return Why("previous", f"waits for {name} until {_at(problem, before.end)}{least}")
    if placed.begins == test.not_before:
        if test.not_before == 0:
            return Why("now", "it begins at once")
        return Why("not-before", f"it may not begin before {_at(problem, test.not_before)}")
    return (
        _of_station(board, placed)
        or _of_person(board, placed)
        or _of_enclosure(board, placed, step)
        or _of_next(board, placed)
        or Why("plan", "it could begin earlier; here the whole plan has less lateness or set-up")
    )


def _of_station(board: Board, placed: Placed) -> Why | None:
    if placed.station is None:
        return None
    problem, station = board.problem, board.problem.stations[placed.station]
    for other in board.of_station[placed.station]:
        if other.end == placed.begins and other.key != placed.key:
            name = problem.tests[other.test].title
            words = f"{station.name} is taken by {name} until {_at(problem, other.end)}"
            return Why("station", words)
    for _, end in station.away:
        if end == placed.begins:
            return Why("away", f"{station.name} is away until {_at(problem, end)}")
    return None


def _of_person(board: Board, placed: Placed) -> Why | None:
    """Nobody who may do it is in and free a unit earlier."""
    problem = board.problem
    step = problem.tests[placed.test].steps[placed.place]
    if placed.person is None:
        return None
    name = problem.people[placed.person].name
    busy = any(
        other.hands_end == placed.begins and other.key != placed.key
        for other in board.of_person[placed.person]
    )
    if busy:
        return Why("person", f"{name} is free from {_at(problem, placed.begins)}")
    if any(start == placed.begins for start, _ in problem.people[placed.person].hours):
        alone = "" if len(step.people) > 1 else f"; only {name} may do it"
        return Why("hours", f"{name} is in from {_at(problem, placed.begins)}{alone}")
    return None


def _of_enclosure(board: Board, placed: Placed, step: Step) -> Why | None:
    if step.enclosure is None:
        return None
    others = board.in_enclosure[step.enclosure]
    room = board.problem.enclosures[step.enclosure]
    if any(other.end == placed.start and other.key != placed.key for other in others):
        at = _at(board.problem, placed.start)
        return Why("enclosure", f"{room.name} has {step.places} places free from {at}")
    return None


def _of_next(board: Board, placed: Placed) -> Why | None:
    """It is as late as the greatest wait of the next step needs it."""
    following = board.steps.get((placed.test, placed.place + 1))
    if following is None:
        return None
    step = board.problem.tests[placed.test].steps[placed.place + 1]
    if step.most is None or following.start - placed.end < step.most:
        return None
    wait = _minutes(board.problem, step.most)
    words = f"{step.id} has to begin within {wait} of it, and begins at "
    return Why("next", f"{words}{_at(board.problem, following.start)}")


def why_late(board: Board, test: Test) -> str:
    """Why a test ends after its due date."""
    problem = board.problem
    alone = Board(problem)
    free = tuple(replace(step, pin=None) if step.held else step for step in test.steps)
    if (
        place_test(alone, replace(test, steps=free))
        and test.due is not None
        and end_of(alone, test) > test.due
    ):
        return (
            f"even with nothing else to do it ends at {_at(problem, end_of(alone, test))}: its "
            "steps take that long from when it may begin"
        )
    for step in reversed(test.steps):
        why = why_there(board, board.steps[step.key])
        if why.rule not in ("previous", "now", "not-before"):
            return f"{step.id}: {why.words}"
    return "its steps follow each other without a gap"


def why_not(problem: Problem, test: Test) -> str:
    """Why a test has no place in the plan."""
    for step in test.steps:
        words = _why_never(problem, test, step)
        if words is not None:
            return words
    if not place_test(Board(problem), test):
        return (
            f"the steps do not fit between {_at(problem, test.not_before)} and "
            f"{_at(problem, problem.until)}, even without other tests"
        )
    return f"the other tests leave no room for it before {_at(problem, problem.until)}"


def _why_never(problem: Problem, test: Test, step: Step) -> str | None:
    if step.pin is not None and not test.not_before <= step.pin <= problem.until - step.lasts:
        first, last = _at(problem, test.not_before), _at(problem, problem.until)
        return (
            f"{step.id}: the step is pinned to {_at(problem, step.pin)}, outside {first} to {last}"
        )
    if step.kind is not None and not step.stations:
        return f"{step.id}: there is no station of the kind {step.kind}"
    if step.hands and not step.people:
        return _nobody(problem, test, step)
    if step.enclosure is not None and problem.enclosures[step.enclosure].places < step.places:
        room = problem.enclosures[step.enclosure]
        return f"{step.id}: {room.name} has {room.places} places, {step.places} are needed"
    if step.most is not None and step.most < step.least:
        most, least = _minutes(problem, step.most), _minutes(problem, step.least)
        return (
            f"{step.id}: the step must start within {most} of the step before, but no earlier "
            f"than {least} after it"
        )
    if step.hands:
        return _never_long_enough(problem, step)
    return None


def _nobody(problem: Problem, test: Test, step: Step) -> str:
    if step.pinned_person is not None:
        name = problem.people[step.pinned_person].name
        return f"{step.id}: the pinned person, {name}, is not authorised for {test.method}"
    return f"no one is authorised for {test.method}"


def _never_long_enough(problem: Problem, step: Step) -> str | None:
    hours: list[Span] = [
        (start, min(end, problem.until))
        for person in step.people
        for start, end in problem.people[person].hours
        if start < problem.until
    ]
    if not hours:
        return f"{step.id}: no authorised person is present before {_at(problem, problem.until)}"
    longest = max(end - start for start, end in hours)
    if longest < step.hands:
        return (
            f"{step.id}: the step takes {_minutes(problem, step.hands)} of one person, but no "
            f"authorised person is present for more than {_minutes(problem, longest)} at a time"
        )
    return None


def _at(problem: Problem, unit: int) -> str:
    moment = problem.moment(unit).astimezone(UTC)
    same_day = moment.date() == problem.now.astimezone(UTC).date()
    return f"{moment:%H:%M}" if same_day else f"{moment:%a %d %b, %H:%M}"


def _minutes(problem: Problem, units: int) -> str:
    minutes = problem.minutes(units)
    if minutes < 120:
        return f"{minutes} min"
    return f"{minutes // 60} h" + (f" {minutes % 60:02d}" if minutes % 60 else "")
