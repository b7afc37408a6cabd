"""A plan that leaves standing what it may: most of what was planned before stays where it was."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime

from endurant.core.planning.codec import moment_of
from endurant.core.planning.compare import Before, compare
from endurant.core.planning.plan import plan_document
from endurant.core.planning.rows import (
    LateTest,
    PinRow,
    PlanAnswer,
    PlanDocument,
    PlannedStep,
    WantedTest,
    begins_at,
)

MIN_STAYED = 0.8
MAX_TRIES = 10


def plan_beside(document: PlanDocument, before: Before | None) -> PlanAnswer:
    """The plan of a document, keeping to the plan before where that leaves nothing without a place.

    At least four fifths of the steps of tests that nothing happened to stay where they were, unless
    that leaves a test without a place or makes it later. Raises Invalid.
    """
    fresh = plan_document(document)
    if before is None or compare(before, document, fresh).stayed >= MIN_STAYED:
        return fresh
    stood = before.answer["steps"]
    at_station = {(row["test"], row["step"]) for row in stood if row["station"]}
    holding = _Holding(document, before, fresh, at_station)
    held = holding.placed(_pins(document, before, fresh))
    if held is None:
        return fresh
    kept, pins = _sooner(holding, *held)
    if holding.stayed(kept) <= holding.stayed(fresh):
        return fresh
    return _as_before(kept, fresh, before, pins)


@dataclass(frozen=True)
class _Holding:
    """What plans that keep to the one before are made of."""

    document: PlanDocument
    before: Before
    fresh: PlanAnswer
    at_station: set[tuple[str, str]]

    def placed(self, pins: list[PinRow]) -> tuple[PlanAnswer, list[PinRow]] | None:
        """Return the plan with as many of these pins as leave nothing without a place."""
        for _ in range(MAX_TRIES):
            kept = plan_document(_pinned(self.document, pins))
            loose = _without_place(kept) - _without_place(self.fresh)
            if not loose:
                return kept, pins
            pins = _without(pins, loose, self.at_station)
        return None

    def stayed(self, plan: PlanAnswer) -> float:
        """Return how much of what nothing happened to stands where it stood."""
        return compare(self.before, self.document, plan).stayed


def _without(pins: list[PinRow], tests: set[str], at_station: set[tuple[str, str]]) -> list[PinRow]:
    """The pins without those of tests that found no place: of their stations first, then all."""
    held = {pin["test"] for pin in pins if (pin["test"], pin["step"]) in at_station}
    return [
        pin
        for pin in pins
        if pin["test"] not in tests
        or (pin["test"] in held and (pin["test"], pin["step"]) not in at_station)
    ]


def _sooner(
    holding: _Holding, kept: PlanAnswer, pins: list[PinRow]
) -> tuple[PlanAnswer, list[PinRow]]:
    """The same, with tests let go that are late only because they or others are held.

    A due date goes before a place: what is late only because it is held itself is let go in any
    case, what stands in its way as long as four fifths stay.
    """
    fresh = holding.fresh
    worse = _later(fresh, kept)
    if not worse:
        return kept, pins
    for freed in (worse, worse | _in_the_way(holding.document, fresh, kept, worse)):
        fewer = [pin for pin in pins if pin["test"] not in freed]
        held = holding.placed(fewer) if fewer != pins else None
        if held is None or held[0]["lateness"] >= kept["lateness"]:
            continue
        if freed == worse or holding.stayed(held[0]) >= MIN_STAYED:
            kept, pins = held
    return kept, pins


def _in_the_way(
    document: PlanDocument, fresh: PlanAnswer, kept: PlanAnswer, worse: set[str]
) -> set[str]:
    """Tests that hold what the late ones would need, what is due last first: a fifth at most."""
    requested = [row for row in fresh["steps"] if row["test"] in worse]
    holding = {
        row["test"]
        for row in kept["steps"]
        if row["test"] not in worse and any(_collide(row, other) for other in requested)
    }
    holding |= {_next_there(kept, row) for row in requested} - worse
    return _within_a_fifth(document, kept, holding, worse)


def _within_a_fifth(
    document: PlanDocument, kept: PlanAnswer, first: set[str], but: set[str]
) -> set[str]:
    """So many tests as have a fifth of the steps: these first, then those that are due last."""
    tests = [test for test in document["tests"] if test["id"] not in but]
    tests.sort(key=lambda test: (test["id"] in first, _due(test)), reverse=True)
    budget = (1 - MIN_STAYED) * len(kept["steps"])
    chosen: set[str] = set()
    for test in tests:
        budget -= len(test["steps"])
        if budget < 0:
            break
        chosen.add(test["id"])
    return chosen


def _due(test: WantedTest) -> datetime:
    due = test.get("due")
    return datetime.max.replace(tzinfo=UTC) if due is None else moment_of(due)


def _next_there(plan: PlanAnswer, row: PlannedStep) -> str:
    """What comes next at the station of a step, if anything: it would find another set-up."""
    later = [
        other
        for other in plan["steps"]
        if other["station"] and other["station"] == row["station"] and other["start"] >= row["end"]
    ]
    return str(min(later, key=lambda other: str(other["start"]))["test"]) if later else ""


def _collide(row: PlannedStep, other: PlannedStep) -> bool:
    """Two steps that want the same station or person at the same time."""
    begins, begins_other = (begins_at(each) for each in (row, other))
    return any(
        mine is not None
        and mine == theirs
        and begins < moment_of(end_other)
        and begins_other < moment_of(end)
        for mine, theirs, end, end_other in (
            (row["station"], other["station"], row["end"], other["end"]),
            (row["person"], other["person"], row["hands_on_end"], other["hands_on_end"]),
        )
    )


def _as_before(
    plan: PlanAnswer, fresh: PlanAnswer, before: Before, pins: list[PinRow]
) -> PlanAnswer:
    """What was held where it stood stands there for the reason that it had before.

    The bound is that of the plan which holds nothing.
    """
    held = {(pin["test"], pin["step"]) for pin in pins}
    why = {
        (row["test"], row["step"]): row["why"]
        for row in before.answer["steps"]
        if row["why"]["rule"] != "pinned"
    }
    steps: list[PlannedStep] = []
    for row in plan["steps"]:
        key = (row["test"], row["step"])
        steps.append({**row, "why": why[key]} if key in held and key in why else row)
    tests = {pin["test"] for pin in pins}
    was_late = {row["test"]: row["why"] for row in before.answer["late"] if row["test"] in tests}
    late: list[LateTest] = [
        {**row, "why": was_late.get(row["test"], row["why"])} for row in plan["late"]
    ]
    return {**plan, "steps": steps, "late": late, "lateness_bound": fresh["lateness_bound"]}


def _pins(document: PlanDocument, before: Before, fresh: PlanAnswer) -> list[PinRow]:
    """Where the steps stood that are still to be done, of tests that are there and not pinned."""
    now = moment_of(document["now"])
    own = {(pin["test"], pin["step"]) for pin in document.get("pinned", [])}
    there = {(row["test"], row["step"]) for row in fresh["steps"]}
    people = {person["name"] for person in document["people"]}
    kinds = {station["name"]: station["kind"] for station in document.get("stations", [])}
    requested = {
        (test["id"], step["id"]): step.get("station")
        for test in document["tests"]
        for step in test["steps"]
    }
    pins = []
    for row in before.answer["steps"]:
        key = (row["test"], row["step"])
        person = row["person"] if row["person"] in people else None
        station = row["station"]
        if station is not None and kinds.get(station) != requested.get(key):
            continue  # it is run elsewhere now
        if key in there and key not in own and begins_at(row) >= now:
            pins.append(
                PinRow(
                    test=row["test"],
                    step=row["step"],
                    start=row["start"],
                    person=person,
                    station=station,
                    held=True,
                )
            )
    return pins


def _pinned(document: PlanDocument, pins: list[PinRow]) -> PlanDocument:
    return {**document, "pinned": [*document.get("pinned", []), *pins]}


def _without_place(plan: PlanAnswer) -> set[str]:
    return {row["test"] for row in plan["unplanned"]}


def _later(fresh: PlanAnswer, kept: PlanAnswer) -> set[str]:
    """Tests that are later than they would have to be."""
    minutes = {row["test"]: row["minutes"] for row in fresh["late"]}
    return {row["test"] for row in kept["late"] if row["minutes"] > minutes.get(row["test"], 0)}
