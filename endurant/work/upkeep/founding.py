"""Setting up a laboratory in an empty database: house rules, people, places, instruments."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.conditioning.atmospheres import find_atmosphere
from endurant.core.devices import StationKind
from endurant.core.messages import Message
from endurant.core.refusals import Conflict
from endurant.store.audit import START_HASH, record
from endurant.store.tables import (
    AuditHead,
    Enclosure,
    Gauge,
    Instrument,
    Laboratory,
    Person,
    Station,
)
from endurant.work.base.actors import Actor, Role
from endurant.work.base.transactions import transaction
from endurant.work.use_cases.people.sign_in import hash_password


@dataclass(frozen=True)
class NewPerson:
    """Someone to be added, with a first password."""

    login: str
    name: str
    role: Role
    password: str


@dataclass(frozen=True)
class NewStation:
    """A frame, a rig or another device with its instrument, and the address it answers at.

    `device` is its serial number where several answer there; a `port` of 0 is a device without
    a line, which a person works and reads.
    """

    name: str
    host: str
    port: int
    simulated: bool
    instrument: str
    serial: str
    capacity_n: float
    certificate: str
    calibrated_at: datetime
    calibration_due_at: datetime
    kind: StationKind = "frame"
    device: str | None = None


def is_founded() -> bool:
    """True once the database holds a laboratory."""
    with transaction() as session:
        return session.get(Laboratory, 1) is not None


def found_laboratory(name: str, address: str, manager: NewPerson | None = None) -> None:
    """Write the laboratory rules into an empty database, and who adds the others.

    Raises Conflict in a database that has them, Invalid for a short password; nothing is half done.
    """
    with transaction() as session:
        if session.get(Laboratory, 1) is not None:
            raise Conflict("laboratory.exists")
        session.add(
            Laboratory(
                id=1,
                name=name,
                address=address,
                label_school="by-failing-yarn",
                comparison="as-rounded",
                rounding="half-even",
            )
        )
        session.add(AuditHead(id=1, last_id=0, last_hash=START_HASH, sealed_from=0))
        session.flush()
        _note(session, "found", "laboratory", 1, {"name": name})
        if manager is not None:
            _add_person(session, manager)


def add_person(new: NewPerson) -> Actor:
    """Add someone; raises Conflict when the login is taken."""
    with transaction() as session:
        if session.scalar(select(Person).where(Person.login == new.login)) is not None:
            raise Conflict("person.login-taken", login=new.login)
        return _add_person(session, new)


def _add_person(session: Session, new: NewPerson) -> Actor:
    person = Person(
        login=new.login,
        name=new.name,
        role=new.role,
        password_hash=hash_password(new.password),
        active=True,
    )
    session.add(person)
    session.flush()
    _note(session, "add-person", "person", person.id, {"name": new.name, "role": new.role})
    return Actor(person.id, person.name, person.role)


@dataclass(frozen=True)
class NewLogger:
    """Where the logger of an enclosure answers."""

    host: str
    port: int
    serial: str
    simulated: bool


def add_enclosure(
    name: str,
    atmosphere: str,
    logger: NewLogger | None = None,
    set_point: dict[str, float | None] | None = None,
) -> int:
    """Add an enclosure with its atmosphere; its id."""
    with transaction() as session:
        enclosure = Enclosure(
            name=name, atmosphere=find_atmosphere(atmosphere).id, set_point=set_point
        )
        if logger is not None:
            enclosure.host, enclosure.port = logger.host, logger.port
            enclosure.device, enclosure.simulated = logger.serial, logger.simulated
        session.add(enclosure)
        session.flush()
        _note(session, "add-enclosure", "enclosure", enclosure.id, {"name": name})
        return enclosure.id


@dataclass(frozen=True)
class NewGauge:
    """A caliper, thickness gauge or balance that answers over its line."""

    name: str
    kind: str
    serial: str
    host: str
    port: int
    simulated: bool
    certificate: str
    calibrated_at: datetime
    calibration_due_at: datetime


def add_gauge(new: NewGauge) -> int:
    """Add a gauge; its id."""
    with transaction() as session:
        gauge = Gauge(**vars(new))
        session.add(gauge)
        session.flush()
        _note(session, "add-gauge", "gauge", gauge.id, {"name": new.name, "serial": new.serial})
        return gauge.id


def add_station(new: NewStation) -> int:
    """Add a station, with its instrument; the station's id."""
    with transaction() as session:
        instrument = Instrument(
            name=new.instrument,
            serial=new.serial,
            capacity_n=new.capacity_n,
            certificate=new.certificate,
            calibrated_at=new.calibrated_at,
            calibration_due_at=new.calibration_due_at,
        )
        session.add(instrument)
        session.flush()
        station = Station(
            name=new.name,
            kind=new.kind,
            device=new.device,
            host=new.host,
            port=new.port,
            simulated=new.simulated,
            instrument_id=instrument.id,
        )
        session.add(station)
        session.flush()
        _note(session, "add-station", "station", station.id, {"name": new.name})
        return station.id


def move_station(station_id: int, host: str, port: int) -> None:
    """A station answers at another address from now on."""
    with transaction() as session:
        station = session.get_one(Station, station_id)
        if (station.host, station.port) == (host, port):
            return
        station.host, station.port = host, port
        _note(
            session,
            "move-station",
            "station",
            station.id,
            {"name": station.name, "address": f"{host}:{port}"},
        )


def _note(
    session: Session, action: str, entity: str, entity_id: int, about: Mapping[str, str]
) -> None:
    message = Message(f"audit.{action}-at-founding", about)
    record(
        session, person_id=None, action=action, entity=entity, entity_id=entity_id, message=message
    )
