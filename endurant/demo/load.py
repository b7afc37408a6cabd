"""Loading the demo laboratory: jobs in every state, all at times relative to this moment."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta

import numpy as np

from endurant.core.bench.trace import frame_of
from endurant.core.judging.criteria import Criterion
from endurant.core.methods import find_method
from endurant.core.simulate.tear import TearFault, sample_tear, specimen_from_label
from endurant.devices.logger.standin import LOG_EVERY_S, WARMER_C, SimulatedLogger
from endurant.reports.pdf import report_pdf
from endurant.standins.laboratory import demo_devices
from endurant.store import clock
from endurant.store.samples import FRAME_CHANNELS, pack
from endurant.store.tables import Run, RunChunk, Specimen, Station, Test
from endurant.work.bench import readings, runs, voids
from endurant.work.bench.live import close_run
from endurant.work.jobs import job_views, receiving, test_views
from endurant.work.jobs.calling import called_specimens
from endurant.work.jobs.cards import rebuild
from endurant.work.jobs.states import open_stay, state_of
from endurant.work.judging.limits import LimitAsked, change_limits
from endurant.work.methods.guides import example_document
from endurant.work.preparation import hanging, measuring
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
from endurant.work.reporting.release import ReleaseAsked, draft, open_correction, release
from endurant.work.sheets import cutting

PASSWORD = "bench-demo"  # noqa: S105 - printed at every start, and only ever on a demo
METHOD = "iso-13937-2"
PEOPLE = (
    NewPerson("ines", "Ines Varnholt", "technician", PASSWORD),
    NewPerson("maren", "Maren Tischko", "reviewer", PASSWORD),
    NewPerson("ruben", "Ruben Aldaso", "manager", PASSWORD),
    NewPerson("pelle", "Pelle Odoya", "trainee", PASSWORD),
)


@dataclass(frozen=True)
class DemoJob:
    """One made-up job and how far it has come."""

    client: str
    product: str
    lot: str
    material: str
    days_ago: float
    due_in_days: float
    warp_limit: str
    weft_limit: str
    stop_after: str
    width_mm: float = 1480
    length_mm: float = 1200
    arrival_state: str = "as it should be"
    slips: tuple[str, ...] = ()
    tested: int = 99
    crease: tuple[float, float, float, float] | None = None
    parameters: tuple[tuple[str, str], ...] = ()


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

JOBS = (
    DemoJob(
        "Quillmere Awnings",
        "Harbour awning cloth, slate",
        "26-104",
        "woven acrylic, 285 g/m²",
        12,
        -6,
        "20",
        "16",
        "released",
    ),
    DemoJob(
        "Tarn & Tether Tents",
        "Ridge flysheet, moss",
        "T-881",
        "woven polyester, coated, 92 g/m²",
        10,
        -4,
        "22",
        "18",
        "corrected",
        slips=("W3",),
    ),
    DemoJob(
        "Oakvane Upholstery",
        "Settle cloth, russet",
        "5520-B",
        "woven wool and viscose, 410 g/m²",
        6,
        0.3,
        "25.0",
        "19.0",
        "tested",
        slips=("W2",),
    ),
    DemoJob(
        "Quillmere Awnings",
        "Harbour awning cloth, sand",
        "26-118",
        "woven acrylic, 285 g/m²",
        3,
        1.1,
        "20",
        "16",
        "bench",
        slips=("W2",),
        tested=4,
    ),
    DemoJob(
        "Low Meadow Sails",
        "Dinghy sail cloth, cream",
        "LM-77",
        "woven polyester, 170 g/m²",
        2.2,
        1.6,
        "18",
        "15",
        "conditioned",
        width_mm=1370,
        length_mm=900,
        parameters=(("evaluation", "twelve-peaks"),),
    ),
    DemoJob(
        "Fennick Workwear",
        "Apron drill, navy",
        "AP-3310",
        "woven cotton, 320 g/m²",
        0.62,
        2.4,
        "21",
        "17",
        "hanging",
        width_mm=1520,
        length_mm=800,
    ),
    DemoJob(
        "Brackenhall Packs",
        "Rucksack base cloth, black",
        "RB-19",
        "woven polyamide, coated, 240 g/m²",
        0.4,
        3.2,
        "24",
        "20",
        "placed",
        arrival_state="one crease across, from the parcel",
        crease=(0, 330, 1480, 372),
    ),
    DemoJob(
        "Marlow Sundry Goods",
        "Market stall cover, striped",
        "SC-02",
        "woven acrylic, 300 g/m²",
        0.1,
        4,
        "20",
        "20",
        "received",
        width_mm=1400,
        length_mm=700,
    ),
)


def load_demo(frame_host: str, frame_port: int, jobs_to_load: tuple[DemoJob, ...] = JOBS) -> None:
    """Found the laboratory in an empty database and bring every job to its state."""
    start = datetime.now(UTC)
    with clock.as_if(start - timedelta(days=30)):
        found_laboratory("Saltmarsh Lane Testing House", "Saltmarsh Lane 7, bench hall")
        people = {new.login: add_person(new) for new in PEOPLE}
        rooms = {
            name: add_enclosure(
                name, atmosphere, NewLogger(frame_host, frame_port, serial, simulated=True), own
            )
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
                    host=frame_host,
                    port=frame_port,
                    simulated=True,
                    certificate=certificate,
                    calibrated_at=start - timedelta(days=365 - days),
                    calibration_due_at=start + timedelta(days=days),
                )
            )
        station = add_frame(
            NewFrame(
                name="Frame 2",
                host=frame_host,
                port=frame_port,
                simulated=True,
                instrument="Simulated frame with 500 N load cell",
                serial="SF-2041",
                capacity_n=500,
                certificate="LC-26-0317",
                calibrated_at=start - timedelta(days=140),
                calibration_due_at=start + timedelta(days=225),
            )
        )
        for recorder in RECORDERS:
            add_frame(
                replace(
                    recorder,
                    host=frame_host,
                    port=frame_port,
                    calibrated_at=start - timedelta(days=90),
                    calibration_due_at=start + timedelta(days=275),
                )
            )
    for name, _, logger, _ in ROOMS:
        if logger:
            fill_log(rooms[name], logger, start, warm=name == FILM_ROOM)
    for job in jobs_to_load:
        _Walk(job, start, people, rooms["Textile room"], station).go()
    if jobs_to_load:
        laminate = lay_out(people["ines"], start - timedelta(hours=19), LAMINATE, [])
        with clock.as_if(start - timedelta(hours=20)):
            cut_and_hang(people["ines"], laminate, rooms[FILM_ROOM])
        lay_out(people["ines"], start, COVER, COVER_AREAS)
        pieces(people["ines"], start, BOAT, rooms["Textile room"])
        pieces(people["ines"], start, SACK, rooms["Paper room"])
        pieces(people["ines"], start, BARS, None, TURNED)
        pieces(people["ines"], start, COVERS, rooms[PLASTICS_ROOM], MOULDED)
        bring_in(people["ines"], start, RESIN, "balance-rg12.json", keep=False)
        bring_in(people["ines"], start, FLANNEL, "hood-n77.json", keep=True)
    # Everything was written as if at an earlier moment, with the log of the night already there.
    rebuild()


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


RESIN = receiving.SampleAsked(
    client="Plinth & Cap Closures",
    product="Cap regrind, grey",
    lot="RG-12",
    material="polyethylene, regrind, pellets",
    form="granules",
    mass_g=900,
    due_at=datetime(2199, 1, 1, tzinfo=UTC),
    tests=[
        receiving.TestAsked(
            method="iso-1133-1-a",
            parameters={"temperature_c": 190.0, "load_kg": 2.16, "cut_interval_s": 20.0},
            limits=[
                LimitAsked(
                    property="mfr",
                    direction="",
                    criterion=Criterion(on="mean", op="between", low="1.5", high="2.0"),
                )
            ],
        ),
        receiving.TestAsked(method="barrel-check"),
    ],
)
FLANNEL = RESIN.model_copy(
    update={
        "form": "sheet",
        "mass_g": None,
        "client": "Nightjar Knitwear",
        "product": "Pyjama flannel, brushed",
        "lot": "N-77",
        "material": "cotton, brushed one side, 165 g/m²",
        "width_mm": 1480,
        "length_mm": 900,
        "tests": [
            receiving.TestAsked(
                method="16-cfr-1610",
                parameters={"surface": "raised"},
                limits=[
                    LimitAsked(
                        property="class",
                        direction="",
                        criterion=Criterion(on="class", limit="1"),
                    )
                ],
            )
        ],
    }
)


LAMINATE = RESIN.model_copy(
    update={
        "form": "sheet",
        "mass_g": None,
        "client": "Cob & Kettle Roasters",
        "product": "Coffee pouch laminate, matt",
        "lot": "CK-2207",
        "material": "laminate of polyester, aluminium and polyethylene, 110 µm",
        "width_mm": 620,
        "length_mm": 1400,
        "tests": [
            receiving.TestAsked(method="astm-d882"),
            receiving.TestAsked(method="iso-6383-2", parameters={"capacity_n": 16.0}),
            receiving.TestAsked(method="astm-f88", parameters={"technique": "A"}),
            receiving.TestAsked(method="astm-f1306"),
            receiving.TestAsked(method="astm-d1709", parameters={"start_g": 150.0, "step_g": 15.0}),
        ],
    }
)
COVER = RESIN.model_copy(
    update={
        "form": "sheet",
        "mass_g": None,
        "client": "Gantry Lane Covers",
        "product": "Trailer cover cloth, green",
        "lot": "GL-340",
        "material": "woven polyester, coated, 340 g/m²",
        "arrival_state": "a crease across the roll and an oil stain",
        "width_mm": 1500,
        "length_mm": 1700,
        "tests": [
            receiving.TestAsked(method="iso-13937-2"),
            receiving.TestAsked(method="iso-13934-1"),
            receiving.TestAsked(method="iso-13934-2"),
            receiving.TestAsked(method="iso-13936-1"),
            receiving.TestAsked(method="iso-13938-1"),
            receiving.TestAsked(method="iso-12947-2", parameters={"pressure_kpa": 12.0}),
        ],
    }
)
BOAT = RESIN.model_copy(
    update={
        "form": "pieces",
        "mass_g": None,
        "count": 12,
        "client": "Gantry Lane Covers",
        "product": "Boat cover cloth, grey",
        "lot": "GL-377",
        "material": "woven polyester, coated, 300 g/m²",
        "tests": [
            receiving.TestAsked(
                method="iso-13938-1",
                parameters={"diaphragm_pressure_kpa": 24.5},
                limits=[
                    LimitAsked(
                        property="bursting_strength",
                        direction="",
                        criterion=Criterion(on="mean", op=">=", limit="350"),
                    )
                ],
            )
        ],
    }
)
SACK = BOAT.model_copy(
    update={
        "count": 24,
        "client": "Westering Mills",
        "product": "Sack paper, brown",
        "lot": "WM-90",
        "material": "kraft paper, 90 g/m²",
        "tests": [receiving.TestAsked(method="iso-535")],
    }
)
BARS = BOAT.model_copy(
    update={
        "count": 8,
        "client": "Plinth & Cap Closures",
        "product": "Spindle bar, turned",
        "lot": "SB-4",
        "material": "mild steel, 12.5 mm in its parallel part",
        "tests": [
            receiving.TestAsked(
                method="astm-e8",
                parameters={
                    "gauge_length_mm": 50.0,
                    "speed_mm_min": 5.0,
                    "extensometer_off_strain": 0.02,
                },
            )
        ],
    }
)
COVERS = BOAT.model_copy(
    update={
        "count": 12,
        "client": "Plinth & Cap Closures",
        "product": "Meter cover, ribbed",
        "lot": "MC-21",
        "material": "moulded bars, polypropylene with chalk",
        "tests": [
            receiving.TestAsked(
                method="iso-180", parameters={"pendulum_j": 5.5, "friction_j": 0.02}
            )
        ],
    }
)
COVER_AREAS = [
    cutting.AreaAsked(reason="crease", corners=[(0, 610), (1500, 660), (1500, 690), (0, 640)]),
    cutting.AreaAsked(
        reason="stain",
        corners=[(820, 180), (905, 165), (950, 215), (915, 270), (840, 262), (805, 225)],
    ),
]


def lay_out(
    technician: Actor,
    start: datetime,
    sample: receiving.SampleAsked,
    areas: list[cutting.AreaAsked],
) -> int:
    """A sample with many tests whose specimens are placed and not cut yet."""
    with clock.as_if(start - timedelta(hours=3)):
        asked = sample.model_copy(update={"due_at": start + timedelta(days=4.2)})
        job = receiving.receive(technician, asked)
        sheet = cutting.sheet(job.id)
        if areas:
            sheet = cutting.mark_areas(technician, job.id, areas, sheet.revision)
        cutting.place_all(technician, job.id, sheet.revision, cutting.PlaceAsked(seconds=0))
        return job.id


TURNED = {"diameter_mm": [12.5, 12.49, 12.51]}
MOULDED = {"thickness_mm": [4.01, 4.0, 4.0], "remaining_width_mm": [8.02, 7.99]}


def pieces(
    technician: Actor,
    start: datetime,
    sample: receiving.SampleAsked,
    room: int | None,
    sizes: dict[str, list[float]] | None = None,
) -> None:
    """A sample that came as ready specimens, long enough in its room to be tested now."""
    with clock.as_if(start - timedelta(hours=100)):
        asked = sample.model_copy(update={"due_at": start + timedelta(days=2.8)})
        specimens = receiving.receive(technician, asked).tests[0].specimens
        if room is not None:
            ids = [specimen.id for specimen in specimens]
            hanging.hang(technician, room, hanging.HangAsked(specimen_ids=ids))
    with clock.as_if(start - timedelta(hours=2)):
        for specimen in specimens if sizes else []:
            measuring.measure(
                technician,
                specimen.id,
                measuring.SizesAsked(dimensions=sizes or {}, revision=specimen.revision),
            )


def cut_and_hang(technician: Actor, job_id: int, room: int) -> None:
    """Say that a sheet was cut, and hang everything that came off it."""
    cutting.confirm_cut(technician, job_id, cutting.sheet(job_id).revision)
    ids = [specimen.id for test in job_views.job(job_id).tests for specimen in test.specimens]
    hanging.hang(technician, room, hanging.HangAsked(specimen_ids=ids))


def bring_in(
    technician: Actor, start: datetime, sample: receiving.SampleAsked, file_name: str, keep: bool
) -> None:
    """A sample whose readings came from another instrument: the method's worked example."""
    with clock.as_if(start - timedelta(hours=6)):
        asked = sample.model_copy(update={"due_at": start + timedelta(days=2.2)})
        test = receiving.receive(technician, asked).tests[0]
    document = example_document(test.method)[1]
    planned = list(test.specimens)
    for specimen in document["specimens"]:
        own = specimen.get("direction", "")
        unused = next(
            (specimen for specimen in planned if not own or specimen.direction == own), None
        )
        if unused is not None:
            specimen["label"] = unused.label
            planned.remove(unused)
    with clock.as_if(start - timedelta(hours=1)):
        why = "dried and cooled beside the hood, before the oven had its logger"
        asked_why = why if test.method == FLANNEL.tests[0].method else None
        brought = readings.ReadingsAsked(
            document=document, source_name=file_name, deviation=asked_why
        )
        readings.bring_in_readings(technician, test.id, brought)
        if keep:
            readings.keep_all(technician, test.id)


class _Walk:
    """Takes one job from the counter to where it stops."""

    def __init__(
        self, job: DemoJob, start: datetime, people: dict[str, Actor], room: int, station: int
    ) -> None:
        self.job = job
        self.people = people
        self.room = room
        self.station = station
        self.moment = start - timedelta(days=job.days_ago)
        self.due_at = start + timedelta(days=job.due_in_days)
        self.technician = people["ines"]
        self.job_id = 0

    def go(self) -> None:
        stops = ("received", "placed", "cut", "hanging", "conditioned", "bench", "tested")
        acts = (self.receive, self.place, self.cut, self.hang, self.wait, self.test, self.finish)
        for stop, act in zip(stops, acts, strict=True):
            act()
            if self.job.stop_after == stop:
                return
        self.release("maren")
        if self.job.stop_after == "corrected":
            self.correct()

    def later(self, minutes: float) -> datetime:
        self.moment += timedelta(minutes=minutes)
        return self.moment

    def receive(self) -> None:
        job = self.job
        limits = [
            LimitAsked(property="tear_force", direction=direction, criterion=Criterion(limit=limit))
            for direction, limit in (("warp", job.warp_limit), ("weft", job.weft_limit))
        ]
        asked = receiving.SampleAsked(
            client=job.client,
            product=job.product,
            lot=job.lot,
            material=job.material,
            arrival_state=job.arrival_state,
            width_mm=job.width_mm,
            length_mm=job.length_mm,
            due_at=self.due_at,
            tests=[
                receiving.TestAsked(method=METHOD, parameters=dict(job.parameters), limits=limits)
            ],
        )
        with clock.as_if(self.moment):
            self.job_id = receiving.receive(self.technician, asked).id

    def place(self) -> None:
        with clock.as_if(self.later(8)):
            sheet = cutting.sheet(self.job_id)
            if self.job.crease is not None:
                left, near, right, far = self.job.crease
                corners = [(left, near), (right, near), (right, far), (left, far)]
                area = cutting.AreaAsked(reason="crease", corners=corners)
                sheet = cutting.mark_areas(self.technician, self.job_id, [area], sheet.revision)
            cutting.place_all(
                self.technician, self.job_id, sheet.revision, cutting.PlaceAsked(seconds=0)
            )

    def cut(self) -> None:
        with clock.as_if(self.later(35)):
            revision = cutting.sheet(self.job_id).revision
            cutting.confirm_cut(self.technician, self.job_id, revision)

    def hang(self) -> None:
        with clock.as_if(self.later(12)):
            ids = [
                specimen.id
                for test in job_views.job(self.job_id).tests
                for specimen in test.specimens
            ]
            hanging.hang(self.technician, self.room, hanging.HangAsked(specimen_ids=ids))

    def wait(self) -> None:
        self.later(24 * 60 + 20)

    def test(self) -> None:
        self.pull_up_to(self.job.tested)

    def finish(self) -> None:
        self.pull_up_to(99)

    def pull_up_to(self, count: int) -> None:
        """Pull specimens in order; those that slip are voided and replaced by their spare."""
        test_id = job_views.job(self.job_id).tests[0].id
        done = sum(specimen.run_id is not None for specimen in test_views.test(test_id).specimens)
        while done < count:
            with clock.as_if(self.later(4)):
                label = self.pull_next(test_id)
            if label is None:
                return
            done += 1

    def pull_next(self, test_id: int) -> str | None:
        with transaction() as session:
            test = session.get_one(Test, test_id)
            ready = [
                called_specimen
                for called_specimen in called_specimens(test)
                if state_of(called_specimen, clock.now()) == "ready"
            ]
            if not ready:
                return None
            specimen = ready[0]
            slipped = specimen.label in self.job.slips
            run = self.store_run(session.get_one(Station, self.station), specimen, slipped)
            session.add(run)
            session.flush()
            columns = self.columns(specimen, slipped)
            table = np.column_stack([columns[name] for name in FRAME_CHANNELS])
            session.add(
                RunChunk(run_id=run.id, first_sample=0, count=len(table), samples=pack(table))
            )
            close_run(session, run, "end of travel")
            stay = open_stay(specimen)
            if stay is not None:
                stay.taken_at, stay.open_for = clock.now(), None
            run_id, specimen_id, label = run.id, specimen.id, specimen.label
        if slipped:
            voids.void(
                self.technician,
                specimen_id,
                voids.VoidAsked(
                    code="jaw-slip", words="the left leg slipped in its jaw at half way"
                ),
            )
        else:
            runs.keep(self.technician, run_id)
        return label

    def store_run(self, station: Station, specimen: Specimen, slipped: bool) -> Run:
        run = runs.station_run(self.technician, specimen, station, clock.now(), None)
        guide = find_method(METHOD).guide
        run.checks = [
            {"code": check.code, "title": check.title, "says": "", "by": self.technician.name}
            for check in guide.ready_checks
        ]
        return run

    def columns(self, specimen: Specimen, slipped: bool) -> dict[str, list[float]]:
        fault: TearFault = "jaw-slip" if slipped else "none"
        end_mm = frame_of(find_method(METHOD)).travel_mm
        return sample_tear(specimen_from_label(specimen.code, fault), end_mm)

    def release(self, login: str) -> None:
        with clock.as_if(self.later(90)):
            seen = draft(self.people[login], self.job_id)
            asked = ReleaseAsked(
                password=PASSWORD,
                revision=seen.job.revision,
                content_sha256=seen.content_sha256,
            )
            release(self.people[login], self.job_id, asked, report_pdf)

    def correct(self) -> None:
        with clock.as_if(self.later(26 * 60)):
            why = "the client's order names a warp limit of 23 N; 22 N was written at the counter"
            open_correction(self.people["maren"], self.job_id, why)
            test = job_views.job(self.job_id).tests[0]
            other_limits = [
                LimitAsked(
                    property="tear_force", direction=direction, criterion=Criterion(limit=limit)
                )
                for direction, limit in (("warp", "23"), ("weft", self.job.weft_limit))
            ]
            change_limits(self.people["ruben"], test.id, other_limits, test.revision, why)
        self.release("maren")
