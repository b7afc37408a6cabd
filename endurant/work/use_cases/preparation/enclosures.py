"""Enclosures themselves: their set points, their logs from files and loggers, and the curve."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta, timezone
from typing import Annotated

from pydantic import Field
from sqlalchemy import func, select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from endurant.core.conditioning.atmospheres import find_atmosphere
from endurant.core.conditioning.excursions import Excursion, excursions
from endurant.core.conditioning.log_csv import read_log_csv
from endurant.core.conditioning.periods import LogRules, Reading, stretches_of
from endurant.core.csv_dialect import csv_text
from endurant.core.messages import Message
from endurant.core.refusals import Conflict, Forbidden, Invalid, Unavailable
from endurant.devices.driver import LoggerDriver
from endurant.devices.logger.driver import TcpLogger
from endurant.store import clock
from endurant.store.seals import touch_hours
from endurant.store.tables import ConditioningPeriod, Enclosure, EnclosureReading
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.conditioning_models import ConditioningView
from endurant.work.facts.conditioning_tallies import advance_tallies, log_between
from endurant.work.facts.set_points import atmosphere_in
from endurant.work.read_models.job_cards import refresh_placed
from endurant.work.use_cases.preparation.placement import enclosure_or_refuse
from endurant.work.use_cases.preparation.set_points import (
    SetPointRequest,
    ask_for_set_point,
    confirm_set_point,
    keep_earlier,
    note_enclosure,
)
from endurant.work.views.conditioning import conditioning, revision_of

READ_EVERY_S = 20.0
REACHES_BACK = timedelta(days=14)
MAX_POINTS = 900
MAX_HOURS = 31 * 24
MAX_ROWS_AT_ONCE = 2000

Celsius = Annotated[float, Field(ge=-120, le=400, allow_inf_nan=False)]
Tolerance = Annotated[float, Field(gt=0, le=50, allow_inf_nan=False)]
Percent = Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)]


class EnclosureRequest(RequestBody):
    """A new enclosure; its logger may answer at an address."""

    name: str = Field(min_length=1, max_length=60)
    atmosphere: str
    host: str | None = Field(None, max_length=120)
    port: int | None = Field(None, ge=1, le=65_535)
    device: str | None = Field(None, max_length=40)
    capacity: int | None = Field(
        None, ge=1, le=100_000, description="Specimens that it has room for; none: unknown."
    )


class LogStretchView(View):
    """A stretch of the log: an excursion that still runs has no end."""

    start: datetime
    end: datetime | None
    minutes: float
    text: str


class LogView(View):
    """The log of an enclosure as a curve: readings thinned, with excursions and gaps whole.

    Each point is the moment, °C and %RH.
    """

    enclosure_id: int
    start: datetime
    end: datetime
    points: list[tuple[datetime, float, float | None]]
    excursions: list[LogStretchView]
    gaps: list[LogStretchView]
    in_tolerance_percent: float | None


class TakenLogView(View):
    """What came of bringing a log in."""

    said: list[str]
    added: int
    known: int


def add_enclosure(actor: Actor, request: EnclosureRequest) -> ConditioningView:
    """A new enclosure; raises Conflict when the name is taken."""
    actor.must("set-limits")
    with transaction() as session:
        if session.scalar(select(Enclosure).where(Enclosure.name == request.name)) is not None:
            raise Conflict("enclosure.name-taken", name=request.name)
        if (request.host is None) != (request.port is None):
            raise Invalid("enclosure.logger-incomplete", field="port")
        enclosure = Enclosure(
            name=request.name,
            atmosphere=find_atmosphere(request.atmosphere).id,
            host=request.host,
            port=request.port,
            device=request.device,
            capacity=request.capacity,
        )
        session.add(enclosure)
        session.flush()
        note_enclosure(
            session,
            actor,
            enclosure,
            "add-enclosure",
            Message("audit.add-enclosure", {"actor": actor.name, "enclosure": request.name}),
            after=request.model_dump(),
        )
    return conditioning()


class EnclosureMended(EnclosureRequest):
    """An enclosure as it shall be from now on, and the revision that was looked at."""

    revision: str | None = Field(None, max_length=16)


def mend_enclosure(actor: Actor, enclosure_id: int, request: EnclosureMended) -> ConditioningView:
    """Another name, or another address of its logger.

    Its atmosphere changes only while it is empty, and its own set point ends then.
    Raises Conflict, also when another person has edited it meanwhile.
    """
    actor.must("set-limits")
    if (request.host is None) != (request.port is None):
        raise Invalid("enclosure.logger-incomplete", field="port")
    with transaction() as session:
        enclosure = enclosure_or_refuse(session, enclosure_id)
        if request.revision not in (None, revision_of(enclosure)):
            raise Conflict("enclosure.stale", enclosure=enclosure.name)
        twin = session.scalar(
            select(Enclosure).where(Enclosure.name == request.name, Enclosure.id != enclosure.id)
        )
        if twin is not None:
            raise Conflict("enclosure.name-taken", name=request.name)
        atmosphere = find_atmosphere(request.atmosphere).id
        if atmosphere != enclosure.atmosphere and _placed(session, enclosure):
            raise Conflict("enclosure.not-empty", enclosure=enclosure.name)
        if atmosphere != enclosure.atmosphere:
            keep_earlier(enclosure)
            enclosure.set_point = enclosure.requested_setting = None
        enclosure.name, enclosure.atmosphere = request.name, atmosphere
        enclosure.host, enclosure.port, enclosure.device = (
            request.host,
            request.port,
            request.device,
        )
        enclosure.line_message, enclosure.capacity = "", request.capacity
        session.flush()
        note_enclosure(
            session,
            actor,
            enclosure,
            "mend-enclosure",
            Message("audit.mend-enclosure", {"actor": actor.name, "enclosure": request.name}),
            after=request.model_dump(),
        )
    return conditioning()


def close_enclosure(actor: Actor, enclosure_id: int) -> ConditioningView:
    """Close an enclosure; its log and periods remain. Raises Conflict while it is in use."""
    actor.must("set-limits")
    with transaction() as session:
        enclosure = enclosure_or_refuse(session, enclosure_id)
        if _placed(session, enclosure):
            raise Conflict("enclosure.close-not-empty", enclosure=enclosure.name)
        enclosure.closed_at = clock.now()
        message = Message(
            "audit.close-enclosure", {"actor": actor.name, "enclosure": enclosure.name}
        )
        note_enclosure(session, actor, enclosure, "close-enclosure", message)
    return conditioning()


def _placed(session: Session, enclosure: Enclosure) -> bool:
    where = select(ConditioningPeriod.id).where(
        ConditioningPeriod.enclosure_id == enclosure.id, ConditioningPeriod.open_for.is_not(None)
    )
    return session.scalar(where.limit(1)) is not None


def set_point(actor: Actor, enclosure_id: int, request: SetPointRequest) -> ConditioningView:
    """Request another set point, with a reason; it holds once another person has confirmed it."""
    actor.must("condition")
    with transaction() as session:
        ask_for_set_point(session, actor, enclosure_or_refuse(session, enclosure_id), request)
    return conditioning()


def confirm_requested(actor: Actor, enclosure_id: int) -> ConditioningView:
    """Confirm the set point that another person requested: it holds from now on.

    Raises Conflict if none is requested, Forbidden for the person who requested it.
    """
    actor.must("equip")
    with transaction() as session:
        enclosure = enclosure_or_refuse(session, enclosure_id)
        session.refresh(enclosure, with_for_update=True)
        confirm_set_point(session, actor, enclosure)
    return conditioning()


def bring_in_log(
    actor: Actor, enclosure_id: int, name: str, data: bytes, offset_minutes: int | None
) -> TakenLogView:
    """Take the log of an enclosure from a CSV file: all of it or, when a row is odd, nothing.

    `offset_minutes` is that of times without an offset. Readings that are there already are
    left; raises Conflict for one that says something else.
    """
    actor.must("condition")
    zone = None if offset_minutes is None else timezone(timedelta(minutes=offset_minutes))
    taken = read_log_csv(data, zone)
    now = clock.now()
    if taken.rows[-1][0] > now + timedelta(minutes=5):
        raise Invalid("log-file.ends-in-future", end=taken.rows[-1][0], field="file")
    with transaction() as session:
        enclosure = enclosure_or_refuse(session, enclosure_id)
        wants_humidity = atmosphere_in(enclosure).humidity_percent is not None
        if wants_humidity and any(row[2] is None for row in taken.rows):
            raise Invalid("log-file.humidity-missing", enclosure=enclosure.name, field="file")
        fresh = _fresh(session, enclosure, taken.rows)
        store_readings(session, enclosure.id, fresh)
        about = {"actor": actor.name, "enclosure": enclosure.name, "file": name[:80]}
        message = Message("audit.bring-in-log", {**about, "count": len(fresh)})
        note_enclosure(
            session, actor, enclosure, "bring-in-log", message, after={"said": taken.said}
        )
    return TakenLogView(said=taken.said, added=len(fresh), known=len(taken.rows) - len(fresh))


def _fresh(session: Session, enclosure: Enclosure, rows: Sequence[Reading]) -> list[Reading]:
    """Those that are not stored yet; raises Conflict for one that is stored otherwise."""
    stored = {
        enclosure_reading.at: (enclosure_reading.temperature_c, enclosure_reading.humidity_percent)
        for enclosure_reading in session.scalars(
            select(EnclosureReading).where(
                EnclosureReading.enclosure_id == enclosure.id,
                EnclosureReading.at >= rows[0][0],
                EnclosureReading.at <= rows[-1][0],
            )
        )
    }
    for at, temperature, humidity in rows:
        if at in stored and stored[at] != (temperature, humidity):
            raise Conflict(
                "log-file.contradicts",
                at=at,
                temperature=temperature,
                stored=stored[at][0],
                enclosure=enclosure.name,
            )
    return [row for row in rows if row[0] not in stored]


def store_readings(session: Session, enclosure_id: int, rows: Sequence[Reading]) -> None:
    """Add readings, and count them; one that another process has just added is left."""
    for start in range(0, len(rows), MAX_ROWS_AT_ONCE):
        values = [
            {
                "enclosure_id": enclosure_id,
                "at": at,
                "temperature_c": temperature,
                "humidity_percent": humidity,
            }
            for at, temperature, humidity in rows[start : start + MAX_ROWS_AT_ONCE]
        ]
        session.execute(insert(EnclosureReading).prefix_with("IGNORE").values(values))
    touch_hours(session, enclosure_id, [row[0] for row in rows])
    refresh_placed(session, enclosure_id, advance_tallies(session, enclosure_id, rows))


def refuse_odd_hours(hours: float) -> None:
    """Raises Invalid for a stretch of time that no log has."""
    if not 0 < hours <= MAX_HOURS:
        raise Invalid("enclosure.hours", hours=hours, max=MAX_HOURS, field="hours")


def enclosure_log(enclosure_id: int, hours: float = 48) -> LogView:
    """The log of the last hours, with what was out of tolerance and what is not known."""
    refuse_odd_hours(hours)
    now = clock.now()
    start = now - timedelta(hours=hours)
    with transaction() as session:
        enclosure = enclosure_or_refuse(session, enclosure_id)
        atmosphere = atmosphere_in(enclosure)
        rows = log_between(session, enclosure.id, start, now)
    stretches = stretches_of(rows, (start, now), LogRules(atmosphere))
    inside, outside = (
        sum(stretch.minutes for stretch in stretches if stretch.state == state)
        for state in ("inside", "outside")
    )
    return LogView(
        enclosure_id=enclosure_id,
        start=start,
        end=now,
        points=thinned(rows, MAX_POINTS),
        excursions=[_excursion(excursion) for excursion in excursions(stretches, atmosphere)],
        gaps=[
            LogStretchView(
                start=stretch.start, end=stretch.end, minutes=stretch.minutes, text="no reading"
            )
            for stretch in stretches
            if stretch.gap
        ],
        in_tolerance_percent=100 * inside / (inside + outside) if inside + outside else None,
    )


def thinned(rows: Sequence[Reading], upper: int) -> list[Reading]:
    """Fewer readings for the eye: of each stretch the coldest and the warmest stay."""
    if len(rows) <= upper:
        return list(rows)
    size = -(-2 * len(rows) // upper)
    kept: list[Reading] = []
    for start in range(0, len(rows), size):
        part = rows[start : start + size]
        ends = {
            min(part, key=lambda specimen: specimen[1]),
            max(part, key=lambda specimen: specimen[1]),
        }
        kept += sorted(ends, key=lambda end: end[0])
    return kept


def _excursion(excursion: Excursion) -> LogStretchView:
    celsius, percent = excursion.worst_temperature_c, excursion.worst_humidity_percent
    worst = [
        "" if celsius is None else f"{celsius:.1f} °C",
        "" if percent is None else f"{percent:.1f} %RH",
    ]
    return LogStretchView(
        start=excursion.start,
        end=excursion.end,
        minutes=excursion.minutes,
        text=f"out of tolerance, worst {', '.join(text for text in worst if text)}",
    )


def log_csv(enclosure_id: int, hours: float) -> tuple[str, str]:
    """A file name, and the log of the last hours as CSV that can be imported again."""
    refuse_odd_hours(hours)
    now = clock.now()
    with transaction() as session:
        enclosure = enclosure_or_refuse(session, enclosure_id)
        rows = log_between(session, enclosure.id, now - timedelta(hours=hours), now)
        name = enclosure.name.lower().replace(" ", "-")
    table = ([at.astimezone(UTC).isoformat(), celsius, percent] for at, celsius, percent in rows)
    return f"{name}-log.csv", csv_text(["time", "temperature_c", "humidity_percent"], table)


def simulate_room(actor: Actor, enclosure_id: int, fault: str) -> None:
    """Tell a simulated enclosure how to behave; raises Forbidden for a real one."""
    actor.must("test")
    with transaction() as session:
        enclosure = enclosure_or_refuse(session, enclosure_id)
    driver = logger_of(enclosure)
    if not enclosure.simulated or driver is None:
        raise Forbidden("enclosure.real", enclosure=enclosure.name)
    driver.simulate(fault)


def logger_of(enclosure: Enclosure) -> LoggerDriver | None:
    """The driver of an enclosure's logger; None where none answers."""
    if enclosure.host is None or enclosure.port is None:
        return None
    address = (enclosure.host, enclosure.port)
    return TcpLogger(f"the logger of {enclosure.name}", address, enclosure.device or "")


def read_loggers() -> int:
    """Ask every logger for what it read since its last stored reading; how many were new.

    A logger that does not answer is noted with its enclosure, and asked again next time. Any
    number of processes may do this at once.
    """
    with transaction() as session:
        with_logger = select(Enclosure).where(
            Enclosure.host.is_not(None), Enclosure.closed_at.is_(None)
        )
        enclosures = list(session.scalars(with_logger))
        last = select(EnclosureReading.enclosure_id, func.max(EnclosureReading.at))
        rows = session.execute(last.group_by(EnclosureReading.enclosure_id)).all()
        newest = {row[0]: row[1] for row in rows}
    return sum(_read_logger(enclosure, newest.get(enclosure.id)) for enclosure in enclosures)


def _read_logger(enclosure: Enclosure, newest: datetime | None) -> int:
    driver = logger_of(enclosure)
    after = newest or clock.now() - REACHES_BACK
    message, rows = "", list[Reading]()
    try:
        readings = driver.readings_after(after) if driver else []
        rows = [
            (reading.at, reading.temperature_c, reading.humidity_percent) for reading in readings
        ]
        rows = sorted({row[0]: row for row in rows if row[0] > after}.values())
    except Unavailable as lost:
        message = lost.sentence[:300]
    with transaction() as session:
        store_readings(session, enclosure.id, rows)
        if message != enclosure.line_message:
            session.get_one(Enclosure, enclosure.id).line_message = message
    return len(rows)
