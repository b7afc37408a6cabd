"""A plan that leaves standing what it may: most of what was planned before stays where it was."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from endurant.core.planning.compare import Before, compare
from endurant.core.planning.plan import plan_document

LEAST_STAYED = 0.8
MOST_TRIES = 10
SHARE_OF_TIME = 0.25
"""Of the time of the document for each plan that keeps to the one before."""

STANDS = {"rule": "kept", "words": "it stood there in the plan before"}

Plan = dict[str, Any]
Pin = dict[str, Any]


def plan_beside(data: Any, before: Before | None) -> Plan:
    """The plan of a document, keeping to the plan before where that leaves nothing without a place.

    At least four fifths of the steps of tests that nothing happened to stay where they were, unless
    that leaves a test without a place or makes it later. Raises Invalid.
    """
    fresh = plan_document(data)
    if before is None or compare(before, data, fresh).stayed >= LEAST_STAYED:
        return fresh
    stood = before.answer["steps"]
    pins = _pins(data, before, fresh)
    at_station = {(row["test"], row["step"]) for row in stood if row["station"]}
    for _ in range(MOST_TRIES):
        kept = plan_document(_pinned(data, pins))
        loose = _without_place(kept) - _without_place(fresh)
        if not loose:
            kept, pins = _sooner(data, fresh, kept, pins)
            if compare(before, data, kept).stayed <= compare(before, data, fresh).stayed:
                return fresh
            return _as_before(kept, fresh, before, pins)
        pins = _without(pins, loose, at_station)
    return fresh


def _without(pins: list[Pin], tests: set[str], at_station: set[tuple[str, str]]) -> list[Pin]:
    """The pins without those of tests that found no place: of their stations first, then all."""
    held = {pin["test"] for pin in pins if (pin["test"], pin["step"]) in at_station}
    return [
        pin
        for pin in pins
        if pin["test"] not in tests
        or (pin["test"] in held and (pin["test"], pin["step"]) not in at_station)
    ]


def _sooner(data: Plan, fresh: Plan, kept: Plan, pins: list[Pin]) -> tuple[Plan, list[Pin]]:
    """The same, with tests let go that are late only because they are held.

    A due date goes before a place: what is let go need not leave four fifths standing.
    """
    worse = _later(fresh, kept)
    if not worse:
        return kept, pins
    fewer = [pin for pin in pins if pin["test"] not in worse]
    freed = plan_document(_pinned(data, fewer))
    is_whole = not _without_place(freed) - _without_place(fresh)
    return (freed, fewer) if is_whole and freed["lateness"] < kept["lateness"] else (kept, pins)


def _as_before(plan: Plan, fresh: Plan, before: Before, pins: list[Pin]) -> Plan:
    """What was held where it stood stands there for the reason that it had before.

    The bound is that of the plan which holds nothing.
    """
    held = {(pin["test"], pin["step"]) for pin in pins}
    why = {
        (row["test"], row["step"]): STANDS if row["why"]["rule"] == "pinned" else row["why"]
        for row in before.answer["steps"]
    }
    steps = []
    for row in plan["steps"]:
        key = (row["test"], row["step"])
        steps.append(row | {"why": why[key]} if key in held and key in why else row)
    return plan | {"steps": steps, "lateness_bound": fresh["lateness_bound"]}


def _pins(data: Plan, before: Before, fresh: Plan) -> list[Pin]:
    """Where the steps stood that are still to be done, of tests that are there and not pinned."""
    now = _at(data["now"])
    own = {(pin["test"], pin["step"]) for pin in data.get("pinned", [])}
    there = {(row["test"], row["step"]) for row in fresh["steps"]}
    pins = []
    for row in before.answer["steps"]:
        key = (row["test"], row["step"])
        if key in there and key not in own and _at(row["set_up_start"] or row["start"]) >= now:
            pin = {"test": row["test"], "step": row["step"], "start": row["start"]}
            pins.append(pin | ({"person": row["person"]} if row["person"] else {}))
    return pins


def _pinned(data: Plan, pins: list[Pin]) -> Plan:
    time_s = max(SHARE_OF_TIME * float(data.get("time_limit_s", 10)), 0.5)
    return data | {"pinned": [*data.get("pinned", []), *pins], "time_limit_s": time_s}


def _without_place(plan: Plan) -> set[str]:
    return {row["test"] for row in plan["unplanned"]}


def _later(fresh: Plan, kept: Plan) -> set[str]:
    """Tests that are later than they would have to be."""
    minutes = {row["test"]: row["minutes"] for row in fresh["late"]}
    return {row["test"] for row in kept["late"] if row["minutes"] > minutes.get(row["test"], 0)}


def _at(text: str) -> datetime:
    return datetime.fromisoformat(text)
