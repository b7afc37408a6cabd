"""Why a step stands where it does, why a test is late, and why one cannot be planned."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from endurant.core.messages import Message
from endurant.core.planning.board import Board, Placed
from endurant.core.planning.first import place_test
from endurant.core.planning.problem import Problem, Span, Station, Step, Test
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
    """What holds a step where it is: the rule, and the values of its sentence."""

    rule: Rule
    message: Message

    @classmethod
    def by(cls, rule: Rule, /, *, code: str = "", **params: object) -> Why:
        """Return the reason of this rule; its sentence is `plan.<rule>` or that of `code`."""
        return cls(rule, Message(code or f"plan.{rule}", params))

    @property
    def in_words(self) -> str:
        """The sentence in English."""
        return self.message.text


def why_there(board: Board, placed: Placed) -> Why:
    """Return what stands directly before a step, so that it could not begin a unit earlier."""
    problem = board.problem
    test = problem.tests[placed.test]
    step = test.steps[placed.place]
    if step.held:
        return Why.by("kept")
    if step.pin is not None:
        return Why.by("pinned", at=_at(problem, placed.start))
    if placed.place:
        before = board.steps[placed.test, placed.place - 1]
        if before.end + step.min_wait == placed.start:
            waits = {"step": test.steps[placed.place - 1].id, "until": _at(problem, before.end)}
            if not step.min_wait:
                return Why.by("previous", **waits)
            min_wait = _minutes(problem, step.min_wait)
            return Why.by("previous", code="plan.previous-and-rest", **waits, min_wait=min_wait)
    if placed.begins == test.not_before:
        if test.not_before == 0:
            return Why.by("now")
        return Why.by("not-before", at=_at(problem, test.not_before))
    return (
        _of_station(board, placed)
        or _of_person(board, placed)
        or _of_enclosure(board, placed, step)
        or _of_next(board, placed)
        or Why.by("plan")
    )


def _of_station(board: Board, placed: Placed) -> Why | None:
    if placed.station is None:
        return None
    problem, station = board.problem, board.problem.stations[placed.station]
    for other in board.of_station[placed.station]:
        if other.end == placed.begins and other.key != placed.key:
            name = problem.tests[other.test].title
            until = _at(problem, other.end)
            return Why.by("station", station=station.name, test=name, until=until)
    for _, end in station.away:
        if end == placed.begins:
            return Why.by("away", station=station.name, until=_at(problem, end))
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
        return Why.by("person", person=name, at=_at(problem, placed.begins))
    if any(start == placed.begins for start, _ in problem.people[placed.person].hours):
        code = "plan.hours" if len(step.people) > 1 else "plan.hours-only"
        return Why.by("hours", code=code, person=name, at=_at(problem, placed.begins))
    return None


def _of_enclosure(board: Board, placed: Placed, step: Step) -> Why | None:
    if step.enclosure is None:
        return None
    others = board.in_enclosure[step.enclosure]
    room = board.problem.enclosures[step.enclosure]
    if any(other.end == placed.start and other.key != placed.key for other in others):
        at = _at(board.problem, placed.start)
        return Why.by("enclosure", enclosure=room.name, places=step.places, at=at)
    return None


def _of_next(board: Board, placed: Placed) -> Why | None:
    """It is as late as the greatest wait of the next step needs it."""
    following = board.steps.get((placed.test, placed.place + 1))
    if following is None:
        return None
    step = board.problem.tests[placed.test].steps[placed.place + 1]
    if step.max_wait is None or following.start - placed.end < step.max_wait:
        return None
    wait = _minutes(board.problem, step.max_wait)
    at = _at(board.problem, following.start)
    return Why.by("next", step=step.id, wait=wait, at=at)


def why_late(board: Board, test: Test) -> Message:
    """Return why a test ends after its due date."""
    problem = board.problem
    alone = Board(problem)
    free = tuple(replace(step, pin=None) if step.held else step for step in test.steps)
    if (
        place_test(alone, replace(test, steps=free))
        and test.due is not None
        and end_of(alone, test) > test.due
    ):
        return Message("plan.late-alone", {"at": _at(problem, end_of(alone, test))})
    for step in reversed(test.steps):
        why = why_there(board, board.steps[step.key])
        if why.rule not in ("previous", "now", "not-before"):
            return why.message.within("plan.of-step", step=step.id)
    return Message("plan.late-no-gap")


def why_not(problem: Problem, test: Test) -> Message:
    """Return why a test has no place in the plan."""
    for step in test.steps:
        never = _why_never(problem, test, step)
        if never is not None:
            return never
    until = _at(problem, problem.until)
    if not place_test(Board(problem), test):
        start = _at(problem, test.not_before)
        return Message("plan.steps-do-not-fit", {"start": start, "until": until})
    return Message("plan.no-room", {"until": until})


def _why_never(problem: Problem, test: Test, step: Step) -> Message | None:
    never = _of_pin(problem, test, step) or _of_resources(problem, test, step)
    return None if never is None else never.within("plan.of-step", step=step.id)


def _of_pin(problem: Problem, test: Test, step: Step) -> Message | None:
    if step.pin is not None and not test.not_before <= step.pin <= problem.until - step.lasts:
        first, last = _at(problem, test.not_before), _at(problem, problem.until)
        about = {"pin": _at(problem, step.pin), "first": first, "last": last}
        return Message("plan.pin-outside", about)
    return None


def _of_resources(problem: Problem, test: Test, step: Step) -> Message | None:
    if step.kind is not None and not step.stations:
        return Message("plan.no-station", {"kind": step.kind})
    stations = [problem.stations[place] for place in step.stations]
    if stations and all(_is_away_throughout(problem, station) for station in stations):
        named = ", ".join(station.name for station in stations)
        until = _at(problem, problem.until)
        return Message("plan.stations-away", {"stations": named, "until": until})
    if step.hands and not step.people:
        return _nobody(problem, test, step)
    if step.enclosure is not None and problem.enclosures[step.enclosure].places < step.places:
        room = problem.enclosures[step.enclosure]
        about = {"enclosure": room.name, "places": room.places, "needed": step.places}
        return Message("plan.too-few-places", about)
    if step.max_wait is not None and step.max_wait < step.min_wait:
        max_wait, min_wait = _minutes(problem, step.max_wait), _minutes(problem, step.min_wait)
        return Message("plan.waits-contradict", {"max_wait": max_wait, "min_wait": min_wait})
    if step.hands:
        return _never_long_enough(problem, step)
    return None


def _is_away_throughout(problem: Problem, station: Station) -> bool:
    """Whether a station cannot be used at any time of the plan."""
    free = 0
    for start, end in sorted(station.away):
        if start > free:
            return False
        free = max(free, end)
    return free >= problem.until


def _nobody(problem: Problem, test: Test, step: Step) -> Message:
    if step.pinned_person is not None:
        name = problem.people[step.pinned_person].name
        about = {"person": name, "method": test.method}
        return Message("plan.pinned-person-unauthorised", about)
    return Message("plan.nobody-authorised", {"method": test.method})


def _never_long_enough(problem: Problem, step: Step) -> Message | None:
    hours: list[Span] = [
        (start, min(end, problem.until))
        for person in step.people
        for start, end in problem.people[person].hours
        if start < problem.until
    ]
    if not hours:
        return Message("plan.nobody-present", {"until": _at(problem, problem.until)})
    longest = max(end - start for start, end in hours)
    if longest < step.hands:
        hands, whole = _minutes(problem, step.hands), _minutes(problem, longest)
        return Message("plan.nobody-long-enough", {"hands": hands, "longest": whole})
    return None


def _at(problem: Problem, unit: int) -> str:
    """A moment in the local time of the laboratory, with its day where that is not today."""
    moment = problem.moment(unit).astimezone()
    same_day = moment.date() == problem.now.astimezone().date()
    return f"{moment:%H:%M}" if same_day else f"{moment:%a %d %b, %H:%M}"


def _minutes(problem: Problem, units: int) -> str:
    minutes = problem.minutes(units)
    if minutes < 120:
        return f"{minutes} min"
    return f"{minutes // 60} h" + (f" {minutes % 60:02d}" if minutes % 60 else "")
