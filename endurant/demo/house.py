"""The demo laboratory itself: its people, rooms, gauges and recording stations."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from endurant.core.bench.picture import StationKind
from endurant.devices.logger.standin import LOG_EVERY_S, WARMER_C, SimulatedLogger
from endurant.standins.laboratory import demo_devices
from endurant.work.preparation.enclosures import store_readings
from endurant.work.record.founding import (
    NewGauge,
    NewLogger,
    NewPerson,
    NewStation,
    add_enclosure,
    add_gauge,
    add_person,
    add_station,
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
STATIONS: tuple[tuple[str, StationKind, str, str, str], ...] = (
    ("Burst rig", "burst-rig", "BR-3", "Simulated rig with 1 MPa cell", "PC-26-0071"),
    ("Pendulum", "pendulum", "PEN-4", "Simulated pendulum, 1 to 22 J", "P-26-0018"),
    ("Melt flow rig", "melt-rig", "MR-2", "Simulated rig with two sensors", "MF-26-0009"),
    ("Dart tower", "dart-tower", "DT-1", "Simulated tower, 0.66 and 1.5 m", "DT-26-0031"),
    ("Flame cabinet", "flame-cabinet", "FC-1", "Simulated cabinet with timer", "FC-26-0012"),
    ("Rub rig", "rub-rig", "RR-5", "Simulated rig with counter", "RR-26-0027"),
    ("Shaking table", "shaking-table", "ST-1", "Simulated table, 3 to 100 Hz", "ST-26-0003"),
    ("Drop tester", "drop-tester", "DR-3", "Simulated hook, to 2 m", "DR-26-0008"),
    ("Vacuum jar", "vacuum-jar", "VJ-2", "Simulated jar, to 90 kPa", "VJ-26-0015"),
)
LARGE: tuple[tuple[str, StationKind, str, str, str], ...] = (
    ("Frame 1", "frame", "SF-1090", "Simulated frame with 50 kN load cell", "LC-26-0290"),
    ("Pallet rig", "compression-rig", "CR-8", "Simulated rig with 50 kN cell", "PR-26-0006"),
)
LARGE_N = 50_000
GAUGES = (
    ("Caliper", "caliper", "CAL-7", "D-26-0112", 210),
    ("Thickness gauge", "thickness-gauge", "TG-2", "D-26-0119", 190),
    ("Balance", "balance", "BAL-1", "M-26-0044", 320),
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
    frame = add_station(
        NewStation(
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
    for name, kind, serial, instrument, certificate in (*LARGE, *STATIONS):
        add_station(
            NewStation(
                name=name,
                kind=kind,
                device=serial,
                host=host,
                port=port,
                simulated=True,
                instrument=instrument,
                serial=serial,
                capacity_n=LARGE_N if (name, kind, serial, instrument, certificate) in LARGE else 0,
                certificate=certificate,
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
