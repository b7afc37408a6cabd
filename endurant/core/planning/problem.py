"""The day as numbers: time as whole units from now on, people and stations by their place.

A unit is a minute; where a pin stands between two minutes it is so many seconds that the pin
falls on one. Hours are narrowed to whole units, so that what is planned lies within them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from math import ceil, floor, gcd

from endurant.core.planning.document import PersonRequest, PlanRequest, StepRequest, TestRequest

Span = tuple[int, int]


@dataclass(frozen=True)
class Person:
    """Who, and when they are in: stretches that do not overlap, in units."""

    name: str
    hours: tuple[Span, ...]


@dataclass(frozen=True)
class Station:
    """A station: what it is set up for, what a change takes, when it is away."""

    name: str
    kind: str
    set_up: str | None
    change: int
    away: tuple[Span, ...]


@dataclass(frozen=True)
class Enclosure:
    """An enclosure and its places."""

    name: str
    places: int


@dataclass(frozen=True)
class Step:
    """One step: who may do it where (places in the lists of the problem), and how long it takes.

    `min_wait` and `max_wait` lie between it and the step before; `pin` is its start where that is
    fixed; it is `held` where only a plan before fixes it.
    """

    test: int
    place: int
    id: str
    kind: str | None
    stations: tuple[int, ...]
    set_up: str | None
    heat_c: float | None
    enclosure: int | None
    places: int
    hands: int
    alone: int
    min_wait: int
    max_wait: int | None
    people: tuple[int, ...]
    pin: int | None
    pinned_person: int | None
    held: bool = False

    @property
    def lasts(self) -> int:
        """From its start to its end."""
        return self.hands + self.alone

    @property
    def key(self) -> tuple[int, int]:
        """Which step of which test."""
        return self.test, self.place


@dataclass(frozen=True)
class Test:
    """One test: due in units from now (it may lie before), none where nobody waits for it.

    `due_s` is the same in seconds, for a due date between two units.
    """

    __test__ = False

    id: str
    title: str
    method: str
    due: int | None
    due_s: float | None
    priority: int
    not_before: int
    steps: tuple[Step, ...]


@dataclass(frozen=True)
class Problem:
    """Everything that is planned; `until` is the last unit at which something may end."""

    now: datetime
    unit_s: int
    until: int
    people: tuple[Person, ...]
    stations: tuple[Station, ...]
    enclosures: tuple[Enclosure, ...]
    tests: tuple[Test, ...]

    def moment(self, at: int) -> datetime:
        """Return a unit as a time."""
        return self.now + timedelta(seconds=at * self.unit_s)

    def minutes_late(self, test: Test, end: int) -> float:
        """How long after its due date a test ends, in minutes; whole ones as whole numbers."""
        if test.due_s is None:
            return 0
        minutes = max(end * self.unit_s - test.due_s, 0.0) / 60
        return int(minutes) if minutes.is_integer() else round(minutes, 4)

    def minutes(self, units: int) -> int:
        """Return so many units in whole minutes, rounded up."""
        return ceil(units * self.unit_s / 60)


def problem_of(request: PlanRequest) -> Problem:
    """Return the document as whole numbers: times in units since `now`, people by place."""
    now = request.now if not request.now.microsecond else _next_second(request.now)
    pins = {(pin.test, pin.step): pin for pin in request.pinned}
    unit_s = 60
    for pin in request.pinned:
        unit_s = gcd(unit_s, round((pin.start - now).total_seconds()))
    scale = _Scale(now, unit_s, 60 // unit_s)
    names = [person.name for person in request.people]
    people = tuple(
        Person(
            person.name,
            _apart([(scale.up(start), scale.down(end)) for start, end in person.hours]),
        )
        for person in request.people
    )
    stations = tuple(
        Station(
            station.name,
            station.kind,
            station.set_up,
            scale.units(station.set_up_minutes),
            _together([(scale.down(start), scale.up(end)) for start, end in station.away]),
        )
        for station in request.stations
    )
    rooms = [room.name for room in request.enclosures]

    def step_of(test: TestRequest, place: int, number: int, step: StepRequest) -> Step:
        pin = pins.get((test.id, step.id))
        pinned = None if pin is None or pin.person is None else names.index(pin.person)
        able = _able(request.people, test.method) if step.hands_on_minutes else ()
        return Step(
            test=place,
            place=number,
            id=step.id,
            kind=step.station,
            stations=tuple(
                index
                for index, each in enumerate(request.stations)
                if each.kind == step.station and (pin is None or pin.station in (None, each.name))
            ),
            set_up=step.set_up,
            heat_c=step.heat_c,
            enclosure=None if step.enclosure is None else rooms.index(step.enclosure),
            places=step.places,
            hands=scale.units(step.hands_on_minutes),
            alone=scale.units(step.unattended_minutes),
            min_wait=scale.units(step.least_minutes) if number else 0,
            max_wait=None
            if step.most_minutes is None or not number
            else scale.units(step.most_minutes),
            people=able if pinned is None else tuple(person for person in able if person == pinned),
            pin=None if pin is None else scale.down(pin.start),
            pinned_person=pinned,
            held=pin is not None and pin.held,
        )

    return Problem(
        now=now,
        unit_s=unit_s,
        until=scale.down(request.until),
        people=people,
        stations=stations,
        enclosures=tuple(Enclosure(room.name, room.places) for room in request.enclosures),
        tests=tuple(
            Test(
                id=test.id,
                title=test.title or test.id,
                method=test.method,
                due=None if test.due is None else scale.down(test.due),
                due_s=None if test.due is None else (test.due - now).total_seconds(),
                priority=test.priority,
                not_before=0 if test.not_before is None else max(scale.up(test.not_before), 0),
                steps=tuple(
                    step_of(test, place, number, step) for number, step in enumerate(test.steps)
                ),
            )
            for place, test in enumerate(request.tests)
        ),
    )


@dataclass(frozen=True)
class _Scale:
    now: datetime
    unit_s: int
    in_a_minute: int

    def up(self, at: datetime) -> int:
        return ceil((at - self.now).total_seconds() / self.unit_s)

    def down(self, at: datetime) -> int:
        return floor((at - self.now).total_seconds() / self.unit_s)

    def units(self, minutes: int) -> int:
        return minutes * self.in_a_minute


def _next_second(at: datetime) -> datetime:
    return at.replace(microsecond=0) + timedelta(seconds=1)


def _able(people: Sequence[PersonRequest], method: str) -> tuple[int, ...]:
    return tuple(
        place for place, person in enumerate(people) if person.may is None or method in person.may
    )


def _apart(stretches: list[Span]) -> tuple[Span, ...]:
    """Stretches after now that do not overlap, each within one that was given."""
    apart: list[Span] = []
    for start, end in sorted((max(start, 0), end) for start, end in stretches):
        if end <= start or (apart and end <= apart[-1][1]):
            continue
        if apart and start < apart[-1][1]:
            apart[-1] = (apart[-1][0], start)
            if apart[-1][0] == start:
                apart.pop()
        apart.append((start, end))
    return tuple(apart)


def _together(stretches: list[Span]) -> tuple[Span, ...]:
    """Stretches joined where they touch or overlap."""
    joined: list[Span] = []
    for start, end in sorted(stretches):
        if joined and start <= joined[-1][1]:
            joined[-1] = (joined[-1][0], max(joined[-1][1], end))
        else:
            joined.append((start, end))
    return tuple(joined)
