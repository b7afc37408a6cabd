"""The instruments: what there is, in service or not, and everything that happened to them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from pydantic import Field
from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session

from endurant.core.bench.procedures import station_kind_of
from endurant.core.devices import DEVICE_KINDS, GaugeKind, StationKind
from endurant.core.messages import Message
from endurant.core.methods import all_methods
from endurant.core.refusals import Conflict, Invalid, NotFound
from endurant.store import clock
from endurant.store.audit import MAX_WORDS, record
from endurant.store.equipment import InstrumentEvent, ReferenceCheck, Supply
from endurant.store.tables import (
    BenchEvent,
    Enclosure,
    Gauge,
    Instrument,
    Run,
    Specimen,
    Station,
)
from endurant.work.base.actors import Actor
from endurant.work.base.requests import Moment, RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.instrument_status import (
    InstrumentStatus,
    current_checks,
    instrument_status,
)

GAUGE_KINDS = tuple(code for code, kind in DEVICE_KINDS.items() if kind.role == "gauge")
LOGGED = ("cleaned", "heater-changed", "tuned", "repaired", "note")
SHOWN_EVENTS = 60


class InstrumentView(View):
    """An instrument or a gauge: what it is, whether it may be used, and for what."""

    serial: str
    name: str
    kind: str
    station: str
    station_id: int | None
    simulated: bool
    has_line: bool
    range_min: float | None
    range_max: float | None
    unit: str | None
    certificate: str
    calibrated_at: datetime
    calibration_due_at: datetime
    overdue: bool
    status: InstrumentStatus
    text: str
    in_service: bool
    retired: bool
    room: str | None
    room_id: int | None
    serves: list[str]


class InstrumentEventView(View):
    """Something that happened to an instrument."""

    id: int
    kind: str
    at: datetime
    by: str
    text: str


class NewRequest(RequestBody):
    """A new instrument; one without an address is worked and read by a person."""

    name: str = Field(min_length=1, max_length=60)
    kind: StationKind | GaugeKind
    instrument: str = Field("", max_length=80)
    serial: str = Field(min_length=1, max_length=40, pattern=r"^[A-Za-z0-9][A-Za-z0-9./_-]*$")
    host: str = Field("", max_length=120)
    port: int = Field(0, ge=0, le=65535)
    range_min: float | None = Field(None, ge=0, le=1e9)
    range_max: float | None = Field(None, gt=0, le=1e9)
    unit: str = Field("", max_length=16)
    certificate: str = Field(min_length=1, max_length=60)
    calibrated_at: Moment
    calibration_due_at: Moment


class CalibrationRequest(RequestBody):
    """A calibration that was done."""

    certificate: str = Field(min_length=1, max_length=60)
    calibrated_at: Moment
    calibration_due_at: Moment


class WhyRequest(RequestBody):
    """Why something is done to an instrument."""

    reason: str = Field(min_length=1, max_length=300)


class LogRequest(RequestBody):
    """Something that was done to an instrument."""

    kind: Literal["cleaned", "heater-changed", "tuned", "repaired", "note"]
    text: str = Field(min_length=1, max_length=300)


class RoomRequest(RequestBody):
    """The enclosure whose logger stands nearest to a station; None where there is none."""

    enclosure_id: int | None


@dataclass(frozen=True)
class Owned:
    """An instrument with its station, or a gauge: `row` is the one that is written to."""

    row: Instrument | Gauge
    station: Station | None

    @property
    def kind(self) -> str:
        """What kind of device it is."""
        if self.station is not None:
            return self.station.kind
        return self.row.kind if isinstance(self.row, Gauge) else "instrument"


def instruments() -> list[InstrumentView]:
    """Every instrument and gauge; what is not in order first, then by name."""
    with transaction() as session:
        owned = _all(session)
        checks = current_checks(session)
        rooms = _rooms(session)
        views = [_view(each, checks.get(each.row.serial, []), rooms) for each in owned]
    order = {"out": 0, "overdue": 1, "watch": 2, "good": 3, "retired": 4}
    return sorted(views, key=lambda view: (order[view.status], view.name, view.serial))


def events_of_instrument(serial: str) -> list[InstrumentEventView]:
    """What happened to an instrument, the latest first. Raises NotFound."""
    with transaction() as session:
        owned_or_refuse(session, serial)
        rows = session.scalars(
            select(InstrumentEvent)
            .where(InstrumentEvent.serial == serial)
            .order_by(InstrumentEvent.id.desc())
            .limit(SHOWN_EVENTS)
        )
        return [
            InstrumentEventView(id=row.id, kind=row.kind, at=row.at, by=row.by.name, text=row.text)
            for row in rows
        ]


def add(actor: Actor, request: NewRequest) -> InstrumentView:
    """A new instrument. Raises Invalid for dates or a range that cannot be, Conflict for twins."""
    actor.must("equip")
    _refuse_dates(request.calibrated_at, request.calibration_due_at)
    if (
        request.range_min is not None
        and request.range_max is not None
        and request.range_min >= request.range_max
    ):
        raise Invalid("instrument.range", field="range_min")
    with transaction() as session:
        _refuse_known(session, request)
        kept: dict[str, Any] = {
            "serial": request.serial,
            "certificate": request.certificate,
            "calibrated_at": request.calibrated_at,
            "calibration_due_at": request.calibration_due_at,
            "range_min": request.range_min,
            "range_max": request.range_max,
            "unit": request.unit or None,
        }
        if request.kind in GAUGE_KINDS:
            line = {"host": request.host, "port": request.port, "simulated": False}
            gauge = Gauge(name=request.name, kind=request.kind, **kept, **line)
            session.add(gauge)
        else:
            force_n = request.range_max if request.unit == "N" and request.range_max else 0.0
            instrument = Instrument(
                name=request.instrument or request.name, capacity_n=force_n, **kept
            )
            session.add(instrument)
            session.flush()
            session.add(
                Station(
                    name=request.name,
                    kind=request.kind,
                    host=request.host,
                    port=request.port,
                    device=None,
                    simulated=False,
                    instrument_id=instrument.id,
                )
            )
        session.flush()
        note(session, actor, request.serial, "added", Message("log.added", {"name": request.name}))
        return view_of(session, request.serial)


def calibrate(actor: Actor, serial: str, request: CalibrationRequest) -> InstrumentView:
    """A calibration takes the place of the one before. Raises NotFound, Invalid."""
    actor.must("equip")
    _refuse_dates(request.calibrated_at, request.calibration_due_at)
    with transaction() as session:
        row = owned_or_refuse(session, serial, lock=True).row
        before = row.certificate
        row.certificate = request.certificate
        row.calibrated_at = request.calibrated_at
        row.calibration_due_at = request.calibration_due_at
        note(
            session,
            actor,
            serial,
            "calibrated",
            Message("log.calibrated", {"certificate": request.certificate, "before": before}),
            due=request.calibration_due_at.isoformat(),
        )
        return view_of(session, serial)


def take_out(actor: Actor, serial: str, request: WhyRequest) -> InstrumentView:
    """Out of service: nothing is tested with it until it is back. Raises Conflict, NotFound."""
    actor.must("test")
    with transaction() as session:
        row = owned_or_refuse(session, serial, lock=True).row
        if row.out_since is not None:
            raise Conflict("instrument.already-out", instrument=row.name, reason=row.out_reason)
        row.out_since, row.out_reason = clock.now(), request.reason
        note(session, actor, serial, "out", as_written(request.reason))
        return view_of(session, serial)


def bring_back(actor: Actor, serial: str, request: WhyRequest) -> InstrumentView:
    """In service again. Raises Conflict for one that is, NotFound."""
    actor.must("equip")
    with transaction() as session:
        row = owned_or_refuse(session, serial, lock=True).row
        if row.out_since is None:
            raise Conflict("instrument.in-service", instrument=row.name)
        row.out_since = row.out_reason = None
        note(session, actor, serial, "back", as_written(request.reason))
        return view_of(session, serial)


def retire(actor: Actor, serial: str, request: WhyRequest) -> InstrumentView:
    """Never used again; what it measured stays in the record. Raises Conflict while it is used."""
    actor.must("equip")
    with transaction() as session:
        owned = owned_or_refuse(session, serial, lock=True)
        _refuse_in_use(session, owned)
        owned.row.retired_at = clock.now()
        note(session, actor, serial, "retired", as_written(request.reason))
        return view_of(session, serial)


def delete_unused(actor: Actor, serial: str) -> None:
    """Take back one that was added by a slip. Raises Conflict for one that was ever used."""
    actor.must("equip")
    with transaction() as session:
        owned = owned_or_refuse(session, serial, lock=True)
        row, station = owned.row, owned.station
        if _was_used(session, owned):
            raise Conflict("instrument.used", instrument=row.name)
        note(session, actor, serial, "deleted", Message("log.deleted", {"name": row.name}))
        if station is not None:
            session.delete(station)
            session.flush()
        session.delete(row)


def write_log(actor: Actor, serial: str, request: LogRequest) -> list[InstrumentEventView]:
    """Write down what was done to an instrument. Raises NotFound."""
    actor.must("test")
    with transaction() as session:
        owned_or_refuse(session, serial)
        note(session, actor, serial, request.kind, as_written(request.text))
    return events_of_instrument(serial)


def set_room(actor: Actor, serial: str, request: RoomRequest) -> InstrumentView:
    """Which logger stands nearest to a station. Raises NotFound, Conflict for a gauge."""
    actor.must("equip")
    with transaction() as session:
        owned = owned_or_refuse(session, serial, lock=True)
        if owned.station is None:
            raise Conflict("instrument.portable", instrument=owned.row.name)
        room = None
        if request.enclosure_id is not None:
            room = session.get(Enclosure, request.enclosure_id)
            if room is None:
                raise NotFound("enclosure.unknown", enclosure_id=request.enclosure_id)
        owned.station.room_id = None if room is None else room.id
        about = {"station": owned.station.name}
        message = (
            Message("log.no-room", about)
            if room is None
            else Message("log.room", {**about, "room": room.name})
        )
        note(session, actor, serial, "room", message)
        return view_of(session, serial)


def owned_or_refuse(session: Session, serial: str, *, lock: bool = False) -> Owned:
    """The instrument or gauge with this serial number; raises NotFound."""
    instrument = session.scalar(select(Instrument).where(Instrument.serial == serial))
    if instrument is not None:
        if lock:
            session.refresh(instrument, with_for_update=True)
        station = session.scalar(select(Station).where(Station.instrument_id == instrument.id))
        return Owned(instrument, station)
    gauge = session.scalar(select(Gauge).where(Gauge.serial == serial))
    if gauge is not None:
        if lock:
            session.refresh(gauge, with_for_update=True)
        return Owned(gauge, None)
    raise NotFound("instrument.unknown", serial=serial)


def view_of(session: Session, serial: str) -> InstrumentView:
    """One instrument as it is shown; raises NotFound."""
    session.flush()
    owned = owned_or_refuse(session, serial)
    rooms = _rooms(session)
    return _view(owned, current_checks(session, serial).get(serial, []), rooms)


def as_written(text: str) -> Message:
    """What a person wrote, as the message of a log."""
    return Message("log.as-written", {"text": text})


def note(
    session: Session, actor: Actor, serial: str, kind: str, message: Message, **facts: object
) -> None:
    """Write down what happened to an instrument, in its log and in the record."""
    event = InstrumentEvent(
        serial=serial,
        kind=kind,
        at=clock.now(),
        by_id=actor.id,
        text=message.text[:MAX_WORDS],
        facts=dict(facts),
    )
    session.add(event)
    session.flush()
    record(
        session,
        person_id=actor.id,
        action=f"instrument-{kind}",
        entity="instrument_event",
        entity_id=event.id,
        message=message.within("audit.instrument", actor=actor.name, serial=serial),
        after=facts or None,
    )


def _rooms(session: Session) -> dict[int, str]:
    return {room.id: room.name for room in session.scalars(select(Enclosure))}


def _all(session: Session) -> list[Owned]:
    stations = session.scalars(select(Station).order_by(Station.id)).all()
    gauges = session.scalars(select(Gauge).order_by(Gauge.id)).all()
    return [
        *(Owned(station.instrument, station) for station in stations),
        *(Owned(gauge, None) for gauge in gauges),
    ]


def _view(
    owned: Owned, checks: Sequence[ReferenceCheck], rooms: Mapping[int, str]
) -> InstrumentView:
    row, station = owned.row, owned.station
    status, message = instrument_status(row, checks, clock.now())
    line = row if isinstance(row, Gauge) else station
    is_force = isinstance(row, Instrument) and row.capacity_n
    return InstrumentView(
        serial=row.serial,
        name=row.name,
        kind=owned.kind,
        station=station.name if station else "",
        station_id=station.id if station else None,
        simulated=bool(line and line.simulated),
        has_line=bool(line and line.port),
        range_min=row.range_min,
        range_max=row.range_max
        or (row.capacity_n if isinstance(row, Instrument) and is_force else None),
        unit=row.unit or ("N" if is_force else None),
        certificate=row.certificate,
        calibrated_at=row.calibrated_at,
        calibration_due_at=row.calibration_due_at,
        overdue=row.calibration_due_at < clock.now(),
        status=status,
        text=message,
        in_service=row.out_since is None,
        retired=row.retired_at is not None,
        room=rooms.get(station.room_id) if station and station.room_id else None,
        room_id=station.room_id if station else None,
        serves=serves(owned.kind),
    )


def serves(kind: str) -> list[str]:
    """The methods that are worked at, or read off, a device of this kind."""
    if kind in GAUGE_KINDS:
        return [method.id for method in all_methods().values() if kind in _gauges_of(method)]
    return [method.id for method in all_methods().values() if station_kind_of(method) == kind]


def _gauges_of(method: Any) -> set[str]:
    kinds = {
        "thickness-gauge" if measure.field == "thickness_mm" else "caliper"
        for measure in method.guide.measures
    }
    if method.guide.bench in ("weigh", "cuts"):
        kinds.add("balance")
    return kinds


def _refuse_dates(calibrated_at: datetime, due_at: datetime) -> None:
    if calibrated_at > clock.now():
        raise Invalid("instrument.calibrated-in-future", field="calibrated_at")
    if due_at <= calibrated_at:
        raise Invalid("instrument.due-before-calibration", field="calibration_due_at")


def _refuse_known(session: Session, request: NewRequest) -> None:
    for table in (Instrument, Gauge):
        if session.scalar(select(table.id).where(table.serial == request.serial)) is not None:
            raise Conflict("instrument.serial-taken", serial=request.serial)
    for named in (Station, Gauge):
        if session.scalar(select(named.id).where(named.name == request.name)) is not None:
            raise Conflict("instrument.name-taken", name=request.name)


def _refuse_in_use(session: Session, owned: Owned) -> None:
    if owned.row.retired_at is not None:
        raise Conflict("instrument.retired", instrument=owned.row.name)
    station = owned.station
    busy = session.scalar(select(Run).where(Run.busy_station_id == station.id)) if station else None
    if station is not None and busy is not None:
        raise Conflict("instrument.running", station=station.name, code=busy.specimen.code)


def _was_used(session: Session, owned: Owned) -> bool:
    station = owned.station
    if station is None:
        measured = func.coalesce(func.json_search(Specimen.dimensions, "one", owned.row.serial), "")
        return bool(session.scalar(select(Specimen.id).where(measured != "").limit(1)))
    used = [
        select(Run.id).where(
            or_(Run.station_id == station.id, Run.instrument_id == station.instrument_id)
        ),
        select(BenchEvent.id).where(BenchEvent.station_id == station.id),
        select(Supply.id).where(Supply.station_id == station.id),
    ]
    return any(session.scalar(query.limit(1)) is not None for query in used)
