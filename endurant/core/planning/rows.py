"""The planning document and its answer as JSON holds them: what each row is made of.

Moments are ISO texts with an offset, in UTC in an answer; durations are whole minutes. What a
document means is said by the models of `document.py`, which read it.
"""

from __future__ import annotations

from datetime import datetime
from typing import NotRequired

from typing_extensions import TypedDict

from endurant.core.planning.codec import moment_of

Stretch = list[str]
"""From when until when."""


class PersonRow(TypedDict):
    """Who is in when, and which methods they may run."""

    name: str
    hours: list[Stretch]
    may: NotRequired[list[str]]


class StationRow(TypedDict):
    """A station of a kind."""

    name: str
    kind: str
    set_up_minutes: NotRequired[int]
    set_up: NotRequired[str | None]
    away: NotRequired[list[Stretch]]


class EnclosureRow(TypedDict):
    """An enclosure and its room."""

    name: str
    places: int


class WantedStep(TypedDict):
    """One step of a test that is still to be done."""

    id: str
    station: NotRequired[str | None]
    set_up: NotRequired[str | None]
    heat_c: NotRequired[float | None]
    enclosure: NotRequired[str | None]
    places: NotRequired[int]
    hands_on_minutes: NotRequired[int]
    unattended_minutes: NotRequired[int]
    least_minutes: NotRequired[int]
    most_minutes: NotRequired[int | None]


class WantedTest(TypedDict):
    """A test with the steps that are left of it; `title` is what people call it."""

    id: str
    title: NotRequired[str | None]
    method: str
    due: NotRequired[str | None]
    priority: NotRequired[int]
    not_before: NotRequired[str | None]
    steps: list[WantedStep]


class PinRow(TypedDict):
    """A step that starts then."""

    test: str
    step: str
    start: str
    person: NotRequired[str | None]
    station: NotRequired[str | None]
    held: NotRequired[bool]


class PlanDocument(TypedDict):
    """Everything that a plan is made of."""

    now: str
    until: str
    time_limit_s: NotRequired[float]
    people: list[PersonRow]
    stations: NotRequired[list[StationRow]]
    enclosures: NotRequired[list[EnclosureRow]]
    tests: list[WantedTest]
    pinned: NotRequired[list[PinRow]]


class Reason(TypedDict):
    """Why a step stands where it does: the rule that holds it, and in words."""

    rule: str
    words: str


class PlannedStep(TypedDict):
    """A step in its place."""

    test: str
    step: str
    start: str
    hands_on_end: str
    end: str
    person: str | None
    station: str | None
    enclosure: str | None
    set_up_start: str | None
    why: Reason


class UnplannedTest(TypedDict):
    """A test without a place, and why."""

    test: str
    why: str


class LateTest(TypedDict):
    """A test that ends after it is due, by how much and why."""

    test: str
    minutes: float
    why: str


class PlanAnswer(TypedDict):
    """A plan: its worth, its steps in the order of time, and what it could not do."""

    lateness: float
    lateness_bound: float
    changes: int
    ends: str | None
    steps: list[PlannedStep]
    unplanned: list[UnplannedTest]
    late: list[LateTest]


def titles_of(*documents: PlanDocument) -> dict[str, str]:
    """Return what people call each test of some documents, by its id."""
    tests = (test for document in documents for test in document["tests"])
    return {test["id"]: test.get("title") or test["id"] for test in tests}


def begins_at(row: PlannedStep) -> datetime:
    """Return the moment from which a step holds its station, its set-up included."""
    return moment_of(row["set_up_start"] or row["start"])
