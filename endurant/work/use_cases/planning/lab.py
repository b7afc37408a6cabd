"""The open tests of the laboratory as a planning document: what is left of each, and for whom.

The reviews of tested jobs stand beside them.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from math import ceil
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.bench.procedures import station_kind_of
from endurant.core.conditioning.atmospheres import serves_for
from endurant.core.conditioning.chains import Stage, stages_of
from endurant.core.methods import find_method
from endurant.core.methods.guide import FrameGuide
from endurant.core.methods.method import Method
from endurant.core.planning.codec import text_of
from endurant.core.planning.rows import (
    PersonRow,
    PinRow,
    PlanDocument,
    StationRow,
    WantedStep,
    WantedTest,
)
from endurant.core.working_hours import Stretch, stretches
from endurant.store import clock
from endurant.store.authorisations import Authorisation
from endurant.store.plans import PlanPin
from endurant.store.tables import Enclosure, Job, JobCard, Person, Specimen, Station, Test
from endurant.work.facts.called_specimens import called_specimens
from endurant.work.facts.conditioning_progress import chain_state, stages_for
from endurant.work.facts.instrument_status import current_checks, instrument_status
from endurant.work.facts.laboratory import laboratory, tables_of
from endurant.work.facts.status import open_period, state_of
from endurant.work.facts.test_settings import title_of
from endurant.work.use_cases.people.staff import own_absences, own_hours
from endurant.work.use_cases.planning.minutes import (
    CUT_MIN,
    PLACING_MIN,
    MinutesView,
    minutes_of,
)
from endurant.work.use_cases.planning.reviews import Reviews, releasing_people, waiting_reviews

DAYS = 7
PLACES = 400
"""Room of an enclosure of which nobody said how much it has."""
SET_UP_MIN = 10
CHANGED_BY_HAND = (
    ("grips", "", ""),
    ("load_cell_n", "_n", " N"),
    ("temperature_c", "_c", " °C"),
    ("load_kg", "_kg", " kg"),
    ("pendulum_j", "_j", " J"),
    ("dart", "", ""),
    ("test_area_cm2", "_cm2", " cm²"),
)
"""Parameters whose change costs minutes at a station, with their unit and how it is said."""
MAX_TESTS = 300
SECONDS = 2.0
DONE = ("tested", "void")
FRAME = "frame"
TESTING_ROLES = ("technician", "manager", "trainee")


@dataclass
class Lab:
    """The document, and what the ids of its tests and the names of its people stand for."""

    document: PlanDocument
    job_of: dict[str, int] = field(default_factory=dict)
    number_of: dict[str, str] = field(default_factory=dict)
    test_of: dict[str, int] = field(default_factory=dict)
    person_of: dict[str, int] = field(default_factory=dict)
    minutes: dict[str, MinutesView] = field(default_factory=dict)
    left_out: int = 0


def lab_now(session: Session, now: datetime) -> Lab:
    """The laboratory as it stands: every open test that is not held, the most urgent first."""
    at = now.replace(second=0, microsecond=0)
    tests, left_out = open_tests(session)
    methods = {test.method: find_method(test.method) for test in tests}
    until = text_of(at + timedelta(days=DAYS))
    lab = Lab({"now": text_of(at), "until": until, "people": [], "tests": []}, left_out=left_out)
    lab.minutes = minutes_of(
        session, [(methods[test.method], test.parameters) for test in _one_each(tests)]
    )
    rooms = list(session.scalars(select(Enclosure).where(Enclosure.closed_at.is_(None))))
    planned, running = list[WantedTest](), list[PinRow]()
    frames = frames_of(session, now)
    for test in tests:
        own = str(test.id)
        place = Place(rooms, frames)
        steps, pins = _steps(test, methods[test.method], lab.minutes[test.method], place, now)
        if not steps:
            continue
        lab.job_of[own], lab.test_of[own] = test.job_id, test.id
        lab.number_of[own] = test.job.number
        planned.append(
            {
                "id": own,
                "title": f"{test.job.number} {title_of(test)}",
                "method": test.method,
                "due": text_of(test.job.due_at.replace(second=0, microsecond=0)),
                "priority": 1 + max(test.job.priority or 0, 0),
                "steps": steps,
            }
        )
        running += [PinRow(test=own, step=step, start=text_of(at)) for step in pins]
    reviews = waiting_reviews(session)
    lab.job_of |= reviews.job_of
    lab.number_of |= reviews.number_of
    lab.document = {
        **lab.document,
        "time_limit_s": SECONDS,
        "people": _people(session, lab, sorted(methods), reviews, at),
        "stations": _stations(session, now, at),
        "enclosures": [{"name": room.name, "places": room.capacity or PLACES} for room in rooms],
        "tests": [*planned, *reviews.rows],
        "pinned": [*running, *_pins(session, lab, planned, at)],
    }
    return lab


def _pins(session: Session, lab: Lab, planned: Sequence[WantedTest], at: datetime) -> list[PinRow]:
    """What somebody pinned, of steps that are still to be done and not behind us."""
    people = {person_id: name for name, person_id in lab.person_of.items()}
    steps = {(row["id"], step["id"]) for row in planned for step in row["steps"]}
    pins = []
    for row in session.scalars(select(PlanPin).where(PlanPin.test_id.in_(lab.test_of.values()))):
        if (str(row.test_id), row.step) not in steps or row.start < at:
            continue
        pin = PinRow(test=str(row.test_id), step=row.step, start=text_of(row.start))
        if row.person_id in people:
            pin["person"] = people[row.person_id]
        pins.append(pin)
    return pins


def _one_each(tests: Iterable[Test]) -> list[Test]:
    return list({test.method: test for test in tests}.values())


def open_tests(session: Session) -> tuple[list[Test], int]:
    """The open tests that are not held, the most urgent first, and how many more there are."""
    jobs = session.scalars(
        select(Job)
        .join(JobCard, JobCard.job_id == Job.id)
        .where(JobCard.released.is_(False))
        .order_by(JobCard.due_at, Job.id)
        .limit(MAX_TESTS)
    )
    tests = [test for job in jobs for test in job.tests if test.held_at is None]
    return tests[:MAX_TESTS], max(len(tests) - MAX_TESTS, 0)


def with_new(
    session: Session,
    lab: Lab,
    requested: Sequence[tuple[Method, Mapping[str, Any]]],
    is_sheet: bool,
) -> list[str]:
    """Tests that nobody received yet, beside the others; their ids in the document."""
    rooms = list(session.scalars(select(Enclosure).where(Enclosure.closed_at.is_(None))))
    minutes = minutes_of(session, requested)
    frames = frames_of(session, clock.now())
    names = []
    for number, (method, parameters) in enumerate(requested, start=1):
        directions = len(method.directions) or 1
        count = directions * method.planned_for(parameters)
        steps: list[WantedStep] = []
        if is_sheet and method.blank_for(parameters) is not None:
            steps.append({"id": "cut", "hands_on_minutes": CUT_MIN})
        stages = stages_of(method.guide, {**method.defaults, **parameters}, "original")
        steps += [
            _conditioning_step(rooms, stage, place, len(stages), count)
            for place, stage in enumerate(stages, start=1)
        ]
        name = f"new {number}"
        lab.document["tests"].append(
            {
                "id": name,
                "title": f"{name}: {method.title}",
                "method": method.id,
                "steps": [
                    *steps,
                    _run(method, parameters, minutes[method.id], count, steps, stages, frames),
                ],
            }
        )
        names.append(name)
    for person in lab.document["people"]:
        person["may"] = [*person.get("may", []), *(method.id for method, _ in requested)]
    return names


def _conditioning_step(
    rooms: list[Enclosure], stage: Stage, number: int, of: int, places: int
) -> WantedStep:
    """Hang specimens for one stage of their chain."""
    step: WantedStep = {
        "id": "hang" if of == 1 else f"hang {number}",
        "hands_on_minutes": PLACING_MIN,
        "unattended_minutes": ceil(stage.least_minutes),
        "places": places,
    }
    room = _room_for(rooms, stage.atmosphere)
    if room is not None:
        step["enclosure"] = room.name
    return step


@dataclass(frozen=True)
class Frame:
    """A frame as the plan knows it: what its cell takes, and whether it is out of service."""

    capacity_n: float
    is_out: bool


@dataclass(frozen=True)
class Place:
    """Where there is to work: enclosures and frames."""

    rooms: list[Enclosure]
    frames: list[Frame]


def frames_of(session: Session, now: datetime) -> list[Frame]:
    """The frames of the laboratory."""
    checks = current_checks(session)
    frames = []
    for station in session.scalars(select(Station).where(Station.kind == FRAME)):
        own = checks.get(station.instrument.serial, [])
        status, _ = instrument_status(station.instrument, own, now)
        frames.append(Frame(station.instrument.capacity_n or 0, status in ("out", "retired")))
    return frames


def kind_of(station: Station) -> str:
    """A frame is of a kind by what its load cell takes: a small cell pulls no metal."""
    capacity_n = station.instrument.capacity_n
    return f"{FRAME} of {capacity_n:g} N" if station.kind == FRAME and capacity_n else station.kind


def kind_for(method: Method, kind: str, frames: Sequence[Frame]) -> str:
    """The kind of station that a method is run at: of frames the smallest that takes its force.

    One that is in service goes before one that is out, as at the bench.
    """
    live = method.guide.live
    if kind != FRAME or not isinstance(live, FrameGuide) or not frames:
        return kind
    max_n = live.usual_max_n

    def fits(frame: Frame) -> tuple[bool, bool, float]:
        is_small = frame.capacity_n < max_n
        return frame.is_out, is_small, -frame.capacity_n if is_small else frame.capacity_n

    capacity_n = min(frames, key=fits).capacity_n
    return f"{FRAME} of {capacity_n:g} N" if capacity_n else FRAME


def set_up_of(method: Method, parameters: Mapping[str, Any]) -> str:
    """What a station is set up for: what is changed by hand on it, else the method itself."""
    changed = [
        f"{name.removesuffix(unit).replace('_', ' ')} {parameters[name]}{message}"
        for name, unit, message in CHANGED_BY_HAND
        if parameters.get(name) is not None
    ]
    return ", ".join(changed) or method.id


def _run(
    method: Method,
    parameters: Mapping[str, Any],
    minutes: MinutesView,
    count: int,
    before: list[WantedStep],
    stages: Sequence[Stage],
    frames: Sequence[Frame],
) -> WantedStep:
    """Test so many specimens at their station."""
    run: WantedStep = {
        "id": "test",
        "hands_on_minutes": max(ceil(minutes.used * count), 1),
    }
    kind = station_kind_of(method)
    if kind is not None:
        station = kind_for(method, kind, frames)
        run["station"], run["set_up"] = station, set_up_of(method, parameters)
        if method.guide.bench == "cuts" and parameters.get("temperature_c") is not None:
            run["heat_c"] = parameters["temperature_c"]
    if before and stages and stages[-1].most_wait_minutes is not None:
        run["most_minutes"] = max(int(stages[-1].most_wait_minutes), 1)
    return run


def _steps(
    test: Test, method: Method, minutes: MinutesView, place: Place, now: datetime
) -> tuple[list[WantedStep], list[str]]:
    """What is left of a test, and which of it runs already."""
    left = [each for each in called_specimens(test) if state_of(each, now) not in DONE]
    if not left:
        return [], []
    states = {state_of(specimen, now) for specimen in left}
    steps: list[WantedStep] = []
    pins: list[str] = []
    if "to-cut" in states:
        steps.append({"id": "cut", "hands_on_minutes": CUT_MIN})
    stages = stages_for(test)
    if states & {"to-cut", "cut"} and stages:
        steps += [
            _conditioning_step(place.rooms, stage, number, len(stages), len(left))
            for number, stage in enumerate(stages, start=1)
        ]
    elif "conditioning" in states:
        waits: WantedStep = {
            "id": "condition",
            "unattended_minutes": _still_min(left, now),
            "places": len(left),
        }
        period = next((period for each in left if (period := open_period(each)) is not None), None)
        if period is not None and period.enclosure.closed_at is None:
            waits["enclosure"] = period.enclosure.name
        steps.append(waits)
        pins.append("condition")
    run = _run(method, test.parameters, minutes, len(left), steps, stages, place.frames)
    return [*steps, run], pins


def _room_for(rooms: list[Enclosure], atmosphere: str) -> Enclosure | None:
    return next((room for room in rooms if serves_for(room.atmosphere, atmosphere)), None)


def _still_min(left: list[Specimen], now: datetime) -> int:
    """Remaining conditioning time of the last of them."""
    missing = [1.0]
    for specimen in left:
        chain = chain_state(specimen, now)
        if chain.stage is not None and chain.elapsed is not None:
            missing.append(chain.stage.least_minutes - chain.elapsed.minutes)
    return ceil(max(missing))


def _people(
    session: Session, lab: Lab, methods: list[str], reviews: Reviews, at: datetime
) -> list[PersonRow]:
    """Who tests and who reviews; who does nothing but review stands first, and is asked first."""
    testers = testing_people(session)
    testing = {person.id for person in testers}
    releasing = releasing_people(session) if reviews.rows else []
    people = [*(person for person in releasing if person.id not in testing), *testers]
    allowed = _allowed(session, methods, at)
    names = plan_names(people)
    lab.person_of = {name: person_id for person_id, name in names.items()}
    rows = []
    for person in people:
        may = [
            method
            for method in methods
            if person.id in testing
            and (
                not allowed[method]
                or person.id in allowed[method]
                or person.supervisor_id in allowed[method]
            )
        ]
        may += reviews.may.get(person.id, ())
        hours = _hours_of(session, person, at)
        rows.append(PersonRow(name=names[person.id], hours=hours, may=may))
    return rows


def plan_names(people: Iterable[Person]) -> dict[int, str]:
    """What a plan calls each person, by id: two of one name by the names they sign in with."""
    several = list(people)
    count = Counter(person.name for person in several)
    return {
        person.id: person.name if count[person.name] == 1 else f"{person.name} ({person.login})"
        for person in several
    }


def testing_people(session: Session) -> list[Person]:
    """Everybody whom a plan gives work to."""
    requested = select(Person).where(Person.active.is_(True), Person.role.in_(TESTING_ROLES))
    return list(session.scalars(requested.order_by(Person.id)))


def authorised_for(session: Session, method: str, at: datetime) -> set[int]:
    """Ids of the people who are authorised for a method; none where it is open to all."""
    return _allowed(session, [method], at)[method]


def _allowed(session: Session, methods: list[str], at: datetime) -> Mapping[str, set[int]]:
    """Who is authorised for each method; nobody where it is open to all."""
    allowed: dict[str, set[int]] = {method: set() for method in methods}
    rows = session.scalars(select(Authorisation).where(Authorisation.withdrawn_at.is_(None)))
    for row in rows:
        if row.method in allowed and (row.until is None or row.until > at):
            allowed[row.method].add(row.person_id)
    return allowed


def _hours_of(session: Session, person: Person, at: datetime) -> list[list[str]]:
    return [[text_of(start), text_of(end)] for start, end in in_from(session, person, at)]


def in_from(session: Session, person: Person | None, at: datetime) -> list[Stretch]:
    """When somebody, or the lab, is in over the next days, by the clock of this lab."""
    tables = tables_of(laboratory(session))
    hours, away = tables.hours, list(tables.shut)
    if person is not None:
        hours, away = own_hours(person) or hours, away + own_absences(person)
    return stretches(hours, away, at.astimezone().date(), DAYS + 1)


def _stations(session: Session, now: datetime, at: datetime) -> list[StationRow]:
    rows = []
    checks = current_checks(session)
    for station in session.scalars(select(Station).order_by(Station.name)):
        row: StationRow = {
            "name": station.name,
            "kind": kind_of(station),
            "set_up_minutes": SET_UP_MIN,
        }
        own = checks.get(station.instrument.serial, [])
        status, _ = instrument_status(station.instrument, own, now)
        if status in ("out", "retired"):
            row["away"] = [[text_of(at), text_of(at + timedelta(days=DAYS))]]
        rows.append(row)
    return rows
