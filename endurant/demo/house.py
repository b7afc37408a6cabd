"""The demo laboratory itself: its people, rooms, gauges and recording stations."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta

from endurant.devices.logger.standin import LOG_EVERY_S, WARMER_C, SimulatedLogger
from endurant.standins.laboratory import demo_devices
from endurant.work.preparation.enclosures import store_readings
from endurant.work.record.founding import (
    NewFrame,
    NewGauge,
    NewLogger,
    NewPerson,
    add_enclosure,
    add_frame,
    add_gauge,
    add_person,
    found_laboratory,
)
from endurant.work.record.people import Actor
from endurant.work.record.transactions import transaction

PASSWORD = "bench-demo"  # noqa: S105 - printed at every start, and only ever on a demo
PEOPLE = (
    NewPerson("ines", "Ines Varnholt", "technician", PASSWORD),
    NewPerson("maren", "Maren Tischko", "reviewer", PASSWORD),
    NewPerson("ruben", "Ruben Aldaso", "manager", PASSWORD),
    NewPerson("pelle", "Pelle Odoya", "trainee", PASSWORD),
)


FILM_ROOM, PLASTICS_ROOM = "Film and plastics room", "Plastics cabinet"
ROOMS: tuple[tuple[str, str, str | None, dict[str, float | None] | None], ...] = (
    ("Textile room", "textile-20-65", "TH-1", None),
    (FILM_ROOM, "film-23-50", "TH-2", None),
    ("Drying oven", "oven-105", "TH-3", None),
    ("Desiccator", "desiccator", None, None),
    ("Pre-conditioning cabinet", "pre-conditioning", "TH-4", None),
    (
        "Cold chamber",
        "chamber",
        "TH-5",
        {
            "temperature_c": -30.0,
            "temperature_tolerance_c": 2.0,
            "humidity_percent": None,
            "humidity_tolerance_percent": None,
        },
    ),
    ("Water bath", "water", None, None),
    ("Paper room", "paper-23-50", None, None),
    (PLASTICS_ROOM, "plastics-23-50", None, None),
)
_NOWHEN = datetime(2199, 1, 1, tzinfo=UTC)
RECORDERS = (
    NewFrame(
        name="Frame 1",
        host="",
        port=0,
        simulated=True,
        instrument="Simulated frame with 50 kN load cell",
        serial="SF-1090",
        capacity_n=50_000,
        certificate="LC-26-0290",
        calibrated_at=_NOWHEN,
        calibration_due_at=_NOWHEN,
        device="SF-1090",
    ),
    NewFrame(
        name="Burst rig",
        host="",
        port=0,
        simulated=True,
        instrument="Simulated rig with 1 MPa cell",
        serial="BR-3",
        capacity_n=0,
        certificate="PC-26-0071",
        calibrated_at=_NOWHEN,
        calibration_due_at=_NOWHEN,
        kind="burst-rig",
        device="BR-3",
    ),
    NewFrame(
        name="Pallet rig",
        host="",
        port=0,
        simulated=True,
        instrument="Simulated rig with 50 kN cell and six sensors",
        serial="CR-8",
        capacity_n=50_000,
        certificate="PR-26-0006",
        calibrated_at=_NOWHEN,
        calibration_due_at=_NOWHEN,
        kind="compression-rig",
        device="CR-8",
    ),
)
GAUGES = (
    ("Caliper", "caliper", "CAL-7", "D-26-0112", 210),
    ("Thickness gauge", "thickness-gauge", "TG-2", "D-26-0119", 190),
    ("Balance", "balance", "BAL-1", "M-26-0044", 320),
    ("Pendulum", "pendulum", "PEN-4", "P-26-0018", 150),
)
LOG_DAYS = 14
WARM_HOURS = (9.6, 8.9)
"""How long before loading the film room was too warm: last night's excursion."""


@dataclass(frozen=True)
class DemoHouse:
    """Who and what stands there: people by login, rooms by name, the id of the smaller frame."""

    people: dict[str, Actor]
    rooms: dict[str, int]
    frame: int


def found_house(host: str, port: int, now: datetime) -> DemoHouse:
    """Found the laboratory with everything that stands in it, its devices at this address."""
    found_laboratory("Saltmarsh Lane Testing House", "Saltmarsh Lane 7, bench hall")
    people = {new.login: add_person(new) for new in PEOPLE}
    rooms = {
        name: add_enclosure(name, atmosphere, NewLogger(host, port, serial, simulated=True), own)
        if serial
        else add_enclosure(name, atmosphere)
        for name, atmosphere, serial, own in ROOMS
    }
    for name, kind, serial, certificate, days in GAUGES:
        add_gauge(
            NewGauge(
                name=name,
                kind=kind,
                serial=serial,
                host=host,
                port=port,
                simulated=True,
                certificate=certificate,
                calibrated_at=now - timedelta(days=365 - days),
                calibration_due_at=now + timedelta(days=days),
            )
        )
    frame = add_frame(
        NewFrame(
            name="Frame 2",
            host=host,
            port=port,
            simulated=True,
            instrument="Simulated frame with 500 N load cell",
            serial="SF-2041",
            capacity_n=500,
            certificate="LC-26-0317",
            calibrated_at=now - timedelta(days=140),
            calibration_due_at=now + timedelta(days=225),
        )
    )
    for recorder in RECORDERS:
        add_frame(
            replace(
                recorder,
                host=host,
                port=port,
                calibrated_at=now - timedelta(days=90),
                calibration_due_at=now + timedelta(days=275),
            )
        )
    return DemoHouse(people, rooms, frame)


def fill_log(enclosure_id: int, serial: str, start: datetime, *, warm: bool) -> None:
    """The log of a simulated room up to now, with an excursion last night where it was warm."""
    logger = demo_devices()[serial]
    if not isinstance(logger, SimulatedLogger):
        raise RuntimeError(f"{serial} is no logger")
    first = int((start - timedelta(days=LOG_DAYS)).timestamp() // LOG_EVERY_S) + 1
    rows = []
    for number in range(first, int(start.timestamp() // LOG_EVERY_S) + 1):
        at = datetime.fromtimestamp(number * LOG_EVERY_S, UTC)
        ago = (start - at) / timedelta(hours=1)
        hot = warm and WARM_HOURS[1] <= ago <= WARM_HOURS[0]
        read = logger.room.read(number * LOG_EVERY_S, WARMER_C if hot else 0.0)
        rows.append((at, read.temperature_c, read.humidity_percent))
    with transaction() as session:
        store_readings(session, enclosure_id, rows)
