"""A plan as it grows: what each person, station and enclosure does when, and where there is room.

Whatever is put on the board holds every rule; so every plan that is read off it does.
"""

from __future__ import annotations

from bisect import bisect_left, insort
from collections.abc import Iterator
from dataclasses import dataclass, field

from endurant.core.planning.problem import Problem, Step

Key = tuple[int, int]


@dataclass(frozen=True, order=True)
class Placed:
    """A step that has its time: from `begins` (its set-up, where there is one) to its end."""

    begins: int
    start: int
    end: int
    hands_end: int
    test: int
    place: int
    person: int | None = field(compare=False)
    station: int | None = field(compare=False)
    set_up: str | None = field(compare=False)
    changed: bool = field(compare=False)

    @property
    def key(self) -> Key:
        """Which step of which test."""
        return self.test, self.place


@dataclass(frozen=True)
class Change:
    """Whether a station is set up anew before a step, and how long that takes."""

    is_one: bool
    lasts: int


class Board:
    """The plan so far."""

    def __init__(self, problem: Problem) -> None:
        self.problem = problem
        self.steps: dict[Key, Placed] = {}
        self.of_person: list[list[Placed]] = [[] for _ in problem.people]
        self.of_station: list[list[Placed]] = [[] for _ in problem.stations]
        self.in_enclosure: list[list[Placed]] = [[] for _ in problem.enclosures]

    def put(self, placed: Placed) -> None:
        """Put a step where `earliest` or `fitting` found room for it."""
        self.steps[placed.key] = placed
        for timeline in self._timelines(placed):
            insort(timeline, placed)

    def take(self, key: Key) -> Placed:
        """Take a step off again."""
        placed = self.steps.pop(key)
        for timeline in self._timelines(placed):
            timeline.remove(placed)
        return placed

    def _timelines(self, placed: Placed) -> Iterator[list[Placed]]:
        step = self.problem.tests[placed.test].steps[placed.place]
        if placed.person is not None:
            yield self.of_person[placed.person]
        if placed.station is not None:
            yield self.of_station[placed.station]
        if step.enclosure is not None:
            yield self.in_enclosure[step.enclosure]

    def earliest(
        self, step: Step, low: int, high: int, *, keeps_order: bool = False
    ) -> Placed | None:
        """Return the earliest place from `low` on that starts by `high`; None where there is none.

        With `keeps_order` it is moved between the same neighbours on its station as it had.
        """
        high = min(high, self.problem.until - step.lasts)
        if step.pin is not None:
            if not low <= step.pin <= high:
                return None
            low = high = step.pin
        if low > high:
            return None
        for at in self._moments(step, low, high):
            placed = self.fitting(step, at, keeps_order=keeps_order)
            if placed is not None:
                return placed
        return None

    def _moments(self, step: Step, low: int, high: int) -> list[int]:
        """Where a step could start: only what ends before it can hold an earlier start up."""
        ends = {low}
        for person in step.people:
            ends.update(start for start, _ in self.problem.people[person].hours)
            ends.update(placed.hands_end for placed in self.of_person[person])
        changes = {0}
        for station in step.stations:
            ends.update(placed.end for placed in self.of_station[station])
            ends.update(end for _, end in self.problem.stations[station].away)
            if step.set_up is not None:
                changes.add(self.problem.stations[station].change)
        if step.enclosure is not None:
            ends.update(placed.end for placed in self.in_enclosure[step.enclosure])
        not_before = self.problem.tests[step.test].not_before
        ends.add(not_before)
        return sorted(
            {end + lasts for end in ends for lasts in changes if low <= end + lasts <= high}
        )

    def fitting(self, step: Step, at: int, *, keeps_order: bool = False) -> Placed | None:
        """The step started at this unit, by whom and where it fits; None where it does not."""
        if not self._has_room(step, at):
            return None
        for station in step.stations or (None,):
            if step.kind is not None and station is None:
                return None
            change = self._change(step, at, station, keeps_order)
            if change is None:
                continue
            begins = at - change.lasts
            if begins < self.problem.tests[step.test].not_before:
                continue
            person = self._free_person(step, begins, at)
            if person is None and step.hands:
                continue
            return Placed(
                begins=begins,
                start=at,
                end=at + step.lasts,
                hands_end=at + step.hands,
                test=step.test,
                place=step.place,
                person=person,
                station=station,
                set_up=step.set_up,
                changed=change.is_one,
            )
        return None

    def _has_room(self, step: Step, at: int) -> bool:
        if step.enclosure is None:
            return True
        room = self.problem.enclosures[step.enclosure].places - step.places
        if room < 0 or step.lasts == 0:
            return room >= 0  # what lasts nothing takes no place
        end = at + step.lasts
        turns: list[tuple[int, int]] = []
        for placed in self.in_enclosure[step.enclosure]:
            if placed.start < end and placed.end > at:
                places = self._places(placed)
                turns += [(max(placed.start, at), places), (placed.end, -places)]
        held = 0
        for _, places in sorted(turns):
            held += places
            if held > room:
                return False
        return True

    def _places(self, placed: Placed) -> int:
        return self.problem.tests[placed.test].steps[placed.place].places

    def state_before(self, station: int, at: int, but: Key | None = None) -> str | None:
        """Return what a station is set up for when something begins at this unit."""
        state = self.problem.stations[station].set_up
        for placed in self.of_station[station]:
            if placed.start >= at:
                break
            if placed.set_up is not None and placed.key != but:
                state = placed.set_up
        return state

    def _change(self, step: Step, at: int, station: int | None, keeps_order: bool) -> Change | None:
        """The set-up before a step here; None where the station is not free for it all."""
        if station is None:
            return Change(False, 0)
        own = self.problem.stations[station]
        timeline = self.of_station[station]
        state = self.state_before(station, at)
        is_one = step.set_up is not None and step.set_up != state
        lasts = own.change if is_one else 0
        begins, end = at - lasts, at + step.lasts
        if any(start < end and begins < stop for start, stop in own.away):
            return None
        for placed in timeline:
            if placed.begins < end and begins < placed.end:
                return None
        if step.set_up is None or keeps_order:
            return Change(is_one, lasts)
        if not self._leaves_the_next_as_it_is(timeline, at, state, step.set_up):
            return None
        return Change(is_one, lasts)

    @staticmethod
    def _leaves_the_next_as_it_is(
        timeline: list[Placed], at: int, before: str | None, after: str
    ) -> bool:
        """The set-up of what comes next must be needed, or not, as it was planned."""
        following = next(
            (placed for placed in timeline if placed.start >= at and placed.set_up is not None),
            None,
        )
        if following is None:
            return True
        return (following.set_up != before) == (following.set_up != after)

    def _free_person(self, step: Step, begins: int, at: int) -> int | None:
        if not step.hands:
            return None
        end = at + step.hands
        for person in step.people:
            if self._is_in(person, begins, end) and self._is_free(person, begins, end):
                return person
        return None

    def _is_in(self, person: int, begins: int, end: int) -> bool:
        hours = self.problem.people[person].hours
        place = bisect_left(hours, (begins + 1,)) - 1
        return place >= 0 and hours[place][0] <= begins and end <= hours[place][1]

    def _is_free(self, person: int, begins: int, end: int) -> bool:
        return all(
            placed.hands_end <= begins or end <= placed.begins for placed in self.of_person[person]
        )
