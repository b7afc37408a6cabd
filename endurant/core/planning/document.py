"""The planning document: tests with their steps, people, stations and enclosures; and its answer.

Times are ISO with an offset and come out in UTC; durations are whole minutes.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime
from typing import Annotated, Any, Self

from pydantic import Field, model_validator

from endurant.core.complaints import complaint
from endurant.core.conditioning.document import Moment
from endurant.core.fields import Strict
from endurant.core.planning.codec import text_of
from endurant.core.reading import read_model
from endurant.core.refusals import Invalid

LONGEST_MINUTES = 527_040
"""No step and no wait is longer than a year."""
MAX_TESTS, MAX_STEPS, MAX_PEOPLE, MAX_STATIONS = 1000, 40, 200, 300

Minutes = Annotated[int, Field(strict=True, ge=0, le=LONGEST_MINUTES)]
Label = Annotated[str, Field(strict=True, min_length=1, max_length=120)]
Stretch = tuple[Moment, Moment]


def _refuse_backwards(stretches: Sequence[tuple[datetime, datetime]], name: str) -> None:
    for start, end in stretches:
        if end <= start:
            raise complaint("planning.interval-backwards", name=name, end=text_of(end))


class PersonRequest(Strict):
    """Who is in when, and which methods they may run; all where `may` is left out."""

    name: Label
    hours: Annotated[list[Stretch], Field(max_length=2000)]
    may: list[Label] | None = None

    @model_validator(mode="after")
    def _forwards(self) -> Self:
        _refuse_backwards(self.hours, f"hours of {self.name}")
        return self


class StationRequest(Strict):
    """A station of a kind: what it is set up for now, what a change costs, when it is away."""

    name: Label
    kind: Label
    set_up_minutes: Minutes = 0
    set_up: Label | None = None
    away: Annotated[list[Stretch], Field(max_length=2000)] = []

    @model_validator(mode="after")
    def _forwards(self) -> Self:
        _refuse_backwards(self.away, f"away of {self.name}")
        return self


class EnclosureRequest(Strict):
    """An enclosure and how many places it has."""

    name: Label
    places: Annotated[int, Field(strict=True, ge=0, le=1_000_000)]


class StepRequest(Strict):
    """One step of a test: hands on first, then by itself.

    `heat_c` is the heat that its station is brought to; a station is rather warmed than cooled.
    """

    id: Label
    station: Label | None = None
    set_up: Label | None = None
    heat_c: Annotated[float, Field(ge=-273.15, le=2000, allow_inf_nan=False)] | None = None
    enclosure: Label | None = None
    places: Annotated[int, Field(strict=True, ge=1, le=1_000_000)] = 1
    hands_on_minutes: Minutes = 0
    unattended_minutes: Minutes = 0
    least_minutes: Minutes = 0
    most_minutes: Minutes | None = None

    @model_validator(mode="after")
    def _set_up_by_hand(self) -> Self:
        if self.set_up is not None and self.station is None:
            raise complaint("planning.set-up-without-station", field="set_up")
        if self.heat_c is not None and self.set_up is None:
            raise complaint("planning.heat-without-set-up", field="heat_c")
        if self.set_up is not None and self.hands_on_minutes == 0:
            raise complaint("planning.set-up-without-hands", field="hands_on_minutes")
        return self


class TestRequest(Strict):
    """One test: its method, when it is due, and its steps in their order.

    `title` is what sentences call it, where that is not its id.
    """

    __test__ = False

    id: Label
    title: Annotated[str, Field(min_length=1, max_length=200)] | None = None
    method: Label
    due: Moment | None = None
    priority: Annotated[int, Field(strict=True, ge=1, le=1000)] = 1
    not_before: Moment | None = None
    steps: Annotated[list[StepRequest], Field(min_length=1, max_length=MAX_STEPS)]


class PinRequest(Strict):
    """A step that starts then, whatever else; by that person and there, where they are named.

    One that is `held` stood there in a plan before, and nobody asked for it.
    """

    test: Label
    step: Label
    start: Moment
    person: Label | None = None
    station: Label | None = None
    held: bool = False


class PlanRequest(Strict):
    """Everything that a plan is made of."""

    now: Moment
    until: Moment
    time_limit_s: Annotated[float, Field(gt=0, le=600, allow_inf_nan=False)] = 10
    people: Annotated[list[PersonRequest], Field(max_length=MAX_PEOPLE)]
    stations: Annotated[list[StationRequest], Field(max_length=MAX_STATIONS)] = []
    enclosures: Annotated[list[EnclosureRequest], Field(max_length=MAX_STATIONS)] = []
    tests: Annotated[list[TestRequest], Field(max_length=MAX_TESTS)]
    pinned: Annotated[list[PinRequest], Field(max_length=MAX_TESTS * MAX_STEPS)] = []


def read_plan(data: Any) -> PlanRequest:
    """Return the planning document as a model; raises Invalid that names the field."""
    if not isinstance(data, dict):
        raise Invalid("planning.document-shape")
    request: PlanRequest = read_model(PlanRequest, data, "plan")
    if request.until <= request.now:
        raise Invalid("planning.until-before-now", field="until")
    _once((person.name for person in request.people), "people")
    _once((station.name for station in request.stations), "stations")
    _once((enclosure.name for enclosure in request.enclosures), "enclosures")
    _once((test.id for test in request.tests), "tests")
    rooms = {enclosure.name for enclosure in request.enclosures}
    for test in request.tests:
        _once((step.id for step in test.steps), f"tests, {test.id}: steps")
        for step in test.steps:
            if step.enclosure is not None and step.enclosure not in rooms:
                raise Invalid(
                    "planning.enclosure-unknown",
                    test=test.id,
                    step=step.id,
                    enclosure=step.enclosure,
                    field="enclosure",
                )
    _refuse_unknown_pins(request)
    return request


def _once(names: Iterable[str], field: str) -> None:
    seen: set[str] = set()
    for name in names:
        if name in seen:
            raise Invalid(
                "planning.name-twice", list=field, name=name, field=field.split(",", maxsplit=1)[0]
            )
        seen.add(name)


def _refuse_unknown_pins(request: PlanRequest) -> None:
    steps = {(test.id, step.id): step.station for test in request.tests for step in test.steps}
    kinds = {station.name: station.kind for station in request.stations}
    people = {person.name for person in request.people}
    seen: set[tuple[str, str]] = set()
    for pin in request.pinned:
        key = (pin.test, pin.step)
        where = f"pinned: {pin.test}, {pin.step}"
        if key not in steps:
            raise Invalid("planning.pin-unknown-step", where=where, field="pinned")
        if key in seen:
            raise Invalid("planning.pin-twice", where=where, field="pinned")
        if pin.person is not None and pin.person not in people:
            raise Invalid(
                "planning.pin-unknown-person", where=where, person=pin.person, field="pinned"
            )
        if pin.station is not None and kinds.get(pin.station, "") != steps[key]:
            raise Invalid(
                "planning.pin-unknown-station", where=where, station=pin.station, field="pinned"
            )
        if pin.start.microsecond:
            raise Invalid("planning.pin-not-whole-seconds", where=where, field="pinned")
        seen.add(key)
