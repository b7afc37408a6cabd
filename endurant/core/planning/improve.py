"""A better plan, by a constraint solver: aim by aim, in the order in which plans are judged.

Each aim is sought in its turn, with those before it held at what was reached. The solver begins
with the first plan, and whatever it finds is put on a board, which checks every rule again.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from math import ceil

from ortools.sat.python import cp_model

from endurant.core.planning.board import Board, Key, Placed
from endurant.core.planning.first import moved_up
from endurant.core.planning.problem import Problem, Span, Step, Test
from endurant.core.planning.score import is_whole, score

SHARES = (0.2, 0.6, 0.6, 0.5, 1.0)
"""How much of the time that is left each aim may take, in their order."""
MIN_S = 0.05
Literal = cp_model.IntVar


@dataclass(frozen=True)
class Improved:
    """The best plan, and a bound: no plan of as many tests is less late (None where unknown)."""

    board: Board
    lateness_bound: int | None


@dataclass
class _StepVars:
    start: cp_model.IntVar
    begins: cp_model.IntVar
    changes: dict[int, Literal] = field(default_factory=dict)
    stations: dict[int, Literal] = field(default_factory=dict)
    people: dict[int, Literal] = field(default_factory=dict)


class _Model:
    """The plan as variables; tests that cannot be placed at all are left out of it."""

    def __init__(self, problem: Problem, tests: list[Test]) -> None:
        self.problem = problem
        self.tests = tests
        self.model = cp_model.CpModel()
        self.present = {test.steps[0].test: self.model.new_bool_var("") for test in tests}
        self.steps: dict[Key, _StepVars] = {}
        self.of_person: dict[int, list[cp_model.IntervalVar]] = defaultdict(list)
        self.of_station: dict[int, list[cp_model.IntervalVar]] = defaultdict(list)
        self.in_enclosure: dict[int, list[tuple[cp_model.IntervalVar, int]]] = defaultdict(list)
        self.cooled: list[Literal] = []
        for test in tests:
            for step in test.steps:
                self._add_step(test, step)
            self._add_waits(test)
        self._add_capacities()
        self._add_set_ups()
        self.late = {test.steps[0].test: self._late(test) for test in tests}

    def _add_step(self, test: Test, step: Step) -> None:
        model, until = self.model, self.problem.until
        present = self.present[step.test]
        low, high = test.not_before, until - step.lasts
        if step.pin is not None:
            low = high = step.pin
        start = model.new_int_var(low, max(high, low), "")
        begins = model.new_int_var(test.not_before, max(high, low), "")
        own = _StepVars(start, begins)
        self.steps[step.key] = own
        for station in step.stations:
            own.stations[station] = model.new_bool_var("")
            change = model.new_bool_var("")
            model.add_implication(change, own.stations[station])
            if step.set_up is None:
                model.add(change == 0)
            own.changes[station] = change
        lasts = sum(
            self.problem.stations[station].change * change
            for station, change in own.changes.items()
        )
        model.add(begins == start - lasts)
        if step.kind is not None:
            model.add(sum(own.stations.values()) == present)
        for station, chosen in own.stations.items():
            size = step.lasts + self.problem.stations[station].change * own.changes[station]
            interval = model.new_optional_interval_var(begins, size, start + step.lasts, chosen, "")
            self.of_station[station].append(interval)
        if step.hands:
            self._add_people(step, own)
        if step.enclosure is not None:
            inside = model.new_optional_interval_var(
                start, step.lasts, start + step.lasts, present, ""
            )
            self.in_enclosure[step.enclosure].append((inside, step.places))

    def _add_people(self, step: Step, own: _StepVars) -> None:
        model = self.model
        longest = max((self.problem.stations[place].change for place in step.stations), default=0)
        size = model.new_int_var(step.hands, step.hands + longest, "")
        model.add(size == own.start + step.hands - own.begins)
        for person in step.people:
            chosen = model.new_bool_var("")
            own.people[person] = chosen
            interval = model.new_optional_interval_var(
                own.begins, size, own.start + step.hands, chosen, ""
            )
            self.of_person[person].append(interval)
        model.add(sum(own.people.values()) == self.present[step.test])

    def _add_waits(self, test: Test) -> None:
        for before, step in zip(test.steps, test.steps[1:], strict=False):
            present = self.present[step.test]
            wait = self.steps[step.key].start - self.steps[before.key].start - before.lasts
            self.model.add(wait >= step.min_wait).only_enforce_if(present)
            if step.max_wait is not None:
                self.model.add(wait <= step.max_wait).only_enforce_if(present)

    def _add_capacities(self) -> None:
        model, until = self.model, self.problem.until
        for place, person in enumerate(self.problem.people):
            if self.of_person[place]:
                off = [_fixed(model, span) for span in _outside(person.hours, until)]
                model.add_no_overlap([*self.of_person[place], *off])
        for place, station in enumerate(self.problem.stations):
            if self.of_station[place]:
                away = [
                    _fixed(model, (max(start, 0), min(end, until)))
                    for start, end in station.away
                    if start < until and end > 0
                ]
                model.add_no_overlap([*self.of_station[place], *away])
        for place, room in enumerate(self.problem.enclosures):
            if self.in_enclosure[place]:
                intervals, places = zip(*self.in_enclosure[place], strict=True)
                model.add_cumulative(intervals, places, room.places)

    def _add_set_ups(self) -> None:
        """On each station the steps with a set-up follow each other in a circuit."""
        by_station: dict[int, list[Step]] = defaultdict(list)
        for test in self.tests:
            for step in test.steps:
                if step.set_up is not None:
                    for station in step.stations:
                        by_station[station].append(step)
        for station, steps in by_station.items():
            self._add_circuit(station, steps)

    def _add_circuit(self, station: int, steps: list[Step]) -> None:
        model = self.model
        initial = self.problem.stations[station].set_up
        arcs: list[tuple[int, int, cp_model.LiteralT]] = [(0, 0, model.new_bool_var(""))]
        for node, step in enumerate(steps, start=1):
            own = self.steps[step.key]
            change, chosen = own.changes[station], own.stations[station]
            arcs.append((node, node, chosen.negated()))
            first, last = model.new_bool_var(""), model.new_bool_var("")
            arcs += [(0, node, first), (node, 0, last)]
            model.add(change == int(step.set_up != initial)).only_enforce_if(first)
            for other_node, other in enumerate(steps, start=1):
                if other is step or (other.test == step.test and other.place > step.place):
                    continue
                follows = model.new_bool_var("")
                arcs.append((other_node, node, follows))
                if _is_cooler(step, other):
                    self.cooled.append(follows)
                before = self.steps[other.key]
                model.add(own.begins >= before.start + other.lasts).only_enforce_if(follows)
                model.add(change == int(step.set_up != other.set_up)).only_enforce_if(follows)
        model.add_circuit(arcs)

    def _late(self, test: Test) -> cp_model.IntVar | None:
        """How late it is; a test that is left out is not late."""
        if test.due is None:
            return None
        last = test.steps[-1]
        late = self.model.new_int_var(0, max(self.problem.until - test.due, 0), "")
        end = self.steps[last.key].start + last.lasts
        self.model.add(late >= end - test.due).only_enforce_if(self.present[last.test])
        return late

    def hint(self, board: Board) -> None:
        """Begin the search with the plan on this board."""
        self.model.clear_hints()  # type: ignore[no-untyped-call]
        for test in self.tests:
            whole = is_whole(board, test)
            self.model.add_hint(self.present[test.steps[0].test], whole)
            for step in test.steps if whole else ():
                placed, own = board.steps[step.key], self.steps[step.key]
                self.model.add_hint(own.start, placed.start)
                self.model.add_hint(own.begins, placed.begins)
                for station, chosen in own.stations.items():
                    self.model.add_hint(chosen, station == placed.station)
                    self.model.add_hint(
                        own.changes[station], placed.changed and station == placed.station
                    )
                for person, chosen in own.people.items():
                    self.model.add_hint(chosen, person == placed.person)

    def board_of(self, solver: cp_model.CpSolver) -> Board:
        """Return what the solver found, placed in the order of time."""
        board = Board(self.problem)
        placed_steps = []
        for test in self.tests:
            if not solver.value(self.present[test.steps[0].test]):
                continue
            for step in test.steps:
                own = self.steps[step.key]
                start = solver.value(own.start)
                changed = any(solver.value(change) for change in own.changes.values())
                placed = Placed(
                    begins=solver.value(own.begins),
                    start=start,
                    end=start + step.lasts,
                    hands_end=start + step.hands,
                    test=step.test,
                    place=step.place,
                    person=_chosen(solver, own.people),
                    station=_chosen(solver, own.stations),
                    set_up=step.set_up,
                    changed=changed,
                )
                placed_steps.append(placed)
        for placed in sorted(placed_steps):
            board.put(placed)
        return board


def _is_cooler(step: Step, other: Step) -> bool:
    return step.heat_c is not None and other.heat_c is not None and step.heat_c < other.heat_c


def _chosen(solver: cp_model.CpSolver, literals: dict[int, Literal]) -> int | None:
    return next((one for one, literal in literals.items() if solver.value(literal)), None)


def _fixed(model: cp_model.CpModel, span: Span) -> cp_model.IntervalVar:
    return model.new_fixed_size_interval_var(span[0], span[1] - span[0], "")


def _outside(hours: tuple[Span, ...], until: int) -> list[Span]:
    """When somebody is not in; stretches that touch have a moment of nothing between them."""
    outside, last = [], 0
    for start, end in hours:
        if start >= until:
            break
        outside.append((last, start))
        last = min(end, until)
    return [*outside, (last, until)] if last < until else outside


def improved(problem: Problem, first: Board, left_s: Callable[[], float], workers: int) -> Improved:
    """Return the best plan that is found in `left_s()` seconds, never worse than the first one."""
    tests = [test for test in problem.tests if _could_be_placed(problem, test)]
    if not tests:
        return Improved(first, 0)
    best, bound = first, None
    search = _Model(problem, tests)
    count = sum(search.present.values())
    lateness = sum(
        problem.tests[place].priority * late
        for place, late in search.late.items()
        if late is not None
    )
    changes = sum(change for own in search.steps.values() for change in own.changes.values())
    cooled = sum(search.cooled)
    end = search.model.new_int_var(0, problem.until, "")
    for key, own in search.steps.items():
        step = problem.tests[key[0]].steps[key[1]]
        search.model.add(end >= own.start + step.lasts).only_enforce_if(search.present[key[0]])
    for place, (aim, share) in enumerate(
        zip((-count, lateness, changes, cooled, end), SHARES, strict=True)
    ):
        reached = _reached(best, len(tests), place)
        if isinstance(aim, int) or reached == _min(place, len(tests)):
            bound = 0 if place == 1 else bound
            _hold(search.model, aim, reached)
            continue
        if left_s() < MIN_S:
            break
        search.hint(best)
        search.model.minimize(aim)
        solver = cp_model.CpSolver()
        solver.parameters.max_time_in_seconds = max(left_s() * share, MIN_S)
        solver.parameters.num_workers = workers
        status = solver.solve(search.model)
        if status in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            sought = search.board_of(solver)
            moved_up(sought)
            if holds(sought) and score(sought) < score(best):
                best = sought
        if place == 1:
            bound = max(ceil(solver.best_objective_bound - 1e-6), 0)
        _hold(search.model, aim, _reached(best, len(tests), place))
    return Improved(best, bound)


def size_of(problem: Problem) -> int:
    """Return how many ways there are from one step to the next on all stations."""
    steps = Counter(
        station
        for test in problem.tests
        for step in test.steps
        if step.set_up is not None
        for station in step.stations
    )
    return sum(count * count for count in steps.values())


def _reached(board: Board, tests: int, place: int) -> int:
    left_out, *rest = score(board)
    placed = len(board.problem.tests) - left_out
    return (-placed, *rest)[place]


def _min(place: int, tests: int) -> int:
    return -tests if place == 0 else 0


def _hold(model: cp_model.CpModel, aim: cp_model.LinearExprT, reached: int) -> None:
    if not isinstance(aim, int):
        model.add(aim <= reached)


def _could_be_placed(problem: Problem, test: Test) -> bool:
    return all(
        (step.kind is None or step.stations)
        and (not step.hands or step.people)
        and (step.enclosure is None or problem.enclosures[step.enclosure].places >= step.places)
        and (step.max_wait is None or step.min_wait <= step.max_wait)
        and (step.pin is None or test.not_before <= step.pin <= problem.until - step.lasts)
        for step in test.steps
    )


def holds(board: Board) -> bool:
    """Return True when every step can be put on an empty board again, in the order of time."""
    problem, again = board.problem, Board(board.problem)
    for placed in sorted(board.steps.values()):
        step = problem.tests[placed.test].steps[placed.place]
        own = replace(step, stations=_one(placed.station), people=_one(placed.person))
        fitted = again.fitting(own, placed.start)
        if fitted is None or (fitted.begins, fitted.changed) != (placed.begins, placed.changed):
            return False
        if not _keeps_its_times(board, step, placed):
            return False
        again.put(fitted)
    return True


def _keeps_its_times(board: Board, step: Step, placed: Placed) -> bool:
    if placed.end > board.problem.until or (step.pin is not None and placed.start != step.pin):
        return False
    if step.place == 0:
        return True
    before = board.steps.get((step.test, step.place - 1))
    if before is None or placed.start < before.end + step.min_wait:
        return False
    return step.max_wait is None or placed.start <= before.end + step.max_wait


def _one(place: int | None) -> tuple[int, ...]:
    return () if place is None else (place,)
