"""The demo laboratory itself: its people, rooms, gauges and recording stations."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy import select

from endurant.core.devices import StationKind
from endurant.devices.logger.standin import LOG_EVERY_S, WARMER_C, SimulatedLogger
from endurant.standins.laboratory import demo_devices
from endurant.store import clock
from endurant.store.equipment import Supply
from endurant.work.base.actors import Actor
from endurant.work.base.transactions import transaction
from endurant.work.upkeep.founding import (
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
from endurant.work.use_cases.instruments import checks, consumables, equipment
from endurant.work.use_cases.preparation.enclosures import store_readings

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
WITH_CELL: tuple[tuple[str, StationKind, str, str, str, float], ...] = (
    ("Frame 1", "frame", "SF-1090", "Simulated frame with 50 kN load cell", "LC-26-0290", 50_000),
    ("Frame 3", "frame", "SF-0417", "Simulated frame with 200 N load cell", "LC-26-0342", 200),
    (
        "Pallet rig",
        "compression-rig",
        "CR-8",
        "Simulated rig with 50 kN cell",
        "PR-26-0006",
        50_000,
    ),
)
GAUGES = (
    ("Caliper", "caliper", "CAL-7", "D-26-0112", 210),
    ("Thickness gauge", "thickness-gauge", "TG-2", "D-26-0119", 190),
    ("Balance", "balance", "BAL-1", "M-26-0044", 320),
)
LOG_DAYS = 14
WARM_HOURS = (9.6, 8.9)
"""How long before loading the film room was too warm: last night's excursion."""


@dataclass(frozen=True)
class DemoLaboratory:
    """Who and what stands there: people by login, rooms by name, the id of the smaller frame."""

    people: dict[str, Actor]
    rooms: dict[str, int]
    frame: int


def found_demo_laboratory(host: str, port: int, now: datetime) -> DemoLaboratory:
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
    for name, kind, serial, instrument, certificate, capacity_n in (
        *WITH_CELL,
        *((*station, 0.0) for station in STATIONS),
    ):
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
                capacity_n=capacity_n,
                certificate=certificate,
                calibrated_at=now - timedelta(days=90),
                calibration_due_at=now + timedelta(days=275),
            )
        )
    equip(people, rooms, now)
    return DemoLaboratory(people, rooms, frame)


STANDS_IN = {
    "SF-2041": "Textile room",
    "SF-1090": PLASTICS_ROOM,
    "SF-0417": FILM_ROOM,
    "BR-3": "Textile room",
    "RR-5": "Textile room",
    "DT-1": FILM_ROOM,
    "PEN-4": PLASTICS_ROOM,
}
CHECKS: tuple[tuple[str, str, str, float, float, float, int, tuple[float, ...]], ...] = (
    (
        "MR-2",
        "Reference resin at 190 °C, 2.16 kg",
        "g/10 min",
        1.7,
        0.05,
        0.09,
        7,
        (1.69, 1.71, 1.7, 1.72, 1.68, 1.71, 1.73, 1.72),
    ),
    ("BR-3", "Check foil", "kPa", 412.0, 8.0, 14.0, 7, (410.0, 415.0, 409.0, 418.0, 414.0)),
    ("PEN-4", "Free swing of 5.5 J", "J", 0.02, 0.008, 0.015, 1, (0.021, 0.019, 0.022, 0.02)),
    ("BAL-1", "Check mass of 1 g", "g", 1.0, 0.0006, 0.001, 1, (1.0002, 0.9998, 1.0001)),
    (
        "RR-5",
        "Check fabric, grade after 10 rubs",
        "steps",
        4.0,
        0.4,
        0.6,
        14,
        (4.0, 4.0, 3.5, 3.5),
    ),
)
SUPPLIES: tuple[tuple[str, str, int | None, int | None], ...] = (
    ("diaphragm", "D-118", 1200, 180),
    ("rubbing cloth", "RC-26-7", 400, None),
    ("scuff felt", "SF-31", 60, None),
    ("wool abradant", "WA-9", 40, None),
    ("notch cutter", "NC-4", 2000, None),
    ("stop thread", "ST-77", None, 365),
    ("knife", "K-12", 300, None),
    ("needle", "N-90-3", 100, None),
    ("blotter", "BL-5", 500, None),
)
USED = {"diaphragm": 1184, "scuff felt": 60, "needle": 71, "notch cutter": 1460}


def equip(people: dict[str, Actor], rooms: dict[str, int], now: datetime) -> None:
    """Where the stations stand, their checks with some weeks of readings, and what wears out."""
    manager, technician = people["ruben"], people["ines"]
    for serial, room in STANDS_IN.items():
        equipment.set_room(manager, serial, equipment.RoomRequest(enclosure_id=rooms[room]))
    for serial, title, unit, target, warn, limit, days, readings in CHECKS:
        request = checks.CheckRequest(
            title=title, unit=unit, target=target, warn=warn, limit=limit, every_days=days
        )
        first = now - timedelta(days=days * len(readings))
        with clock.as_if(first):
            check = checks.begin_check(manager, serial, request)[-1]
        for place, value in enumerate(readings):
            with clock.as_if(first + timedelta(days=days * (place + 0.6))):
                checks.read_check(technician, check.id, checks.ReadingRequest(value=value))
    for kind, lot, count, max_days in SUPPLIES:
        with clock.as_if(now - timedelta(days=40)):
            consumables.open_lot(
                technician,
                consumables.SupplyRequest(
                    kind=kind, lot=lot, limit_count=count, limit_days=max_days
                ),
            )
    with transaction() as session:
        for row in session.scalars(select(Supply).where(Supply.kind.in_(USED))):
            row.used = USED[row.kind]


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
