"""A laboratory with years of work: invented, and the same again for the same seed.

It is for trying how the program bears years of jobs. The samples come from the simulation, the
figures and verdicts from the analysis, the record is sealed; only the PDF of a report is a page
that says where it comes from.
"""

from __future__ import annotations

import multiprocessing
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from endurant.core.conditioning.periods import Reading
from endurant.core.judging.criteria import Criterion
from endurant.core.methods import find_method
from endurant.core.refusals import Invalid
from endurant.core.simulate.traces import parameters_for, simulate
from endurant.demo.laboratory import PEOPLE
from endurant.store import clock, engine
from endurant.store.audit import seal_the_rest
from endurant.store.samples import pack, sha256
from endurant.store.tables import (
    ConditioningPeriod,
    Enclosure,
    Job,
    Person,
    Recording,
    Run,
    Specimen,
    Void,
)
from endurant.work.base.actors import Actor
from endurant.work.base.transactions import transaction
from endurant.work.facts.results import test_figures
from endurant.work.upkeep.founding import (
    add_enclosure,
    add_person,
    found_laboratory,
    is_founded,
)
from endurant.work.upkeep.rebuild import rebuild
from endurant.work.use_cases.preparation.enclosures import store_readings
from endurant.work.use_cases.receiving.limits import LimitRequest
from endurant.work.use_cases.receiving.receiving import SampleRequest, TestRequest, write_down
from endurant.work.use_cases.reporting.content import content_of, with_working
from endurant.work.use_cases.reporting.release import ReportPdfs, keep_report

YEARS = 3
RELEASED_SHARE = 0.8
SAMPLES = 220
LOG_DAYS, LOG_EVERY = 21, timedelta(minutes=10)
VOID_SHARE = 0.03
PROCESSES = 2
MAX_JOBS = 20_000
PAGE = (
    b"%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj\n"
    b"2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj\n"
    b"3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 300 80]/Contents 4 0 R/Resources<</Font<</F1 "
    b"<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>>>>>>>endobj\n"
    b"4 0 obj<</Length 70>>stream\nBT /F1 10 Tf 20 40 Td (Seeded report. Its figures are in the "
    b"JSON.) Tj ET\nendstream endobj\ntrailer<</Root 1 0 R>>\n%%EOF\n"
)


@dataclass(frozen=True)
class Kind:
    """What a kind of client sends: its products, form, room and tests.

    Each test has the property and limit that it is judged by, in every direction.
    """

    form: str
    products: tuple[str, ...]
    material: str
    room: str
    tests: tuple[tuple[str, str, str], ...]
    required: int


KINDS = (
    Kind(
        "sheet",
        ("Deck chair canvas", "Tent cloth", "Overall twill", "Satchel cloth", "Blind fabric"),
        "woven cotton and polyester",
        "textile-20-65",
        (
            ("iso-13937-2", "tear_force", "21"),
            ("iso-13934-1", "max_force", "1250"),
            ("iso-13934-2", "max_force", "360"),
            ("astm-d2261", "tear_force", "75"),
        ),
        8,
    ),
    Kind(
        "pieces",
        ("Crate corner", "Tool handle", "Hinge half", "Battery tray"),
        "moulded polypropylene",
        "plastics-23-50",
        (("iso-527", "tensile_strength", "34"),) * 4,
        10,
    ),
    Kind(
        "sheet",
        ("Door gasket sheet", "Hose cover", "Conveyor skirt"),
        "vulcanised rubber",
        "rubber-23-50",
        (("iso-37", "tensile_strength", "3"),) * 4,
        10,
    ),
    Kind(
        "sheet",
        ("Coffee pouch laminate", "Lidding film", "Sachet film"),
        "polyester and polyethylene laminate",
        "film-23-50",
        (("astm-f1306", "max_force", "8.4"),) * 3,
        8,
    ),
    Kind(
        "packs",
        ("Fruit box", "Jar case", "Archive carton"),
        "single wall board",
        "paper-23-50",
        (("iso-12048", "max_force", "2200"), ("iso-3037", "ect", "5.1")) * 2,
        10,
    ),
)
CLIENTS = (
    "Alder Row Weavers",
    "Harbour Lane Covers",
    "Millpond Outfitters",
    "Quarry Hill Packers",
    "Stonebridge Moulders",
    "Tern Island Rubber",
    "Upper Ferry Films",
    "Westwold Boxes",
)
ROOMS = (
    ("Fabric room", "textile-20-65"),
    ("Plastics room", "plastics-23-50"),
    ("Rubber room", "rubber-23-50"),
    ("Laminate room", "film-23-50"),
    ("Board room", "paper-23-50"),
)


def seed(
    jobs: int, number: int, progress: Callable[[str], None] = lambda _: None
) -> tuple[int, int, int]:
    """Add so many jobs of the last years to a laboratory, which is founded where there is none.

    Returns how many jobs, specimens and recordings the database then holds.
    """
    if not 1 <= jobs <= MAX_JOBS:
        raise Invalid("demo.job-count", jobs=jobs, max=MAX_JOBS, field="jobs")
    now = datetime.now(UTC).replace(microsecond=0)
    _found(now)
    progress("rooms and their logs")
    rooms = _rooms(now, number)
    people = _people()
    shares = [range(first, jobs, PROCESSES) for first in range(PROCESSES)]
    context = multiprocessing.get_context("spawn")
    messages = context.Queue()
    workers = [
        context.Process(target=_work, args=(share, jobs, number, now, rooms, people, messages))
        for share in shares
    ]
    for worker in workers:
        worker.start()
    done = 0
    while done < jobs:
        text = messages.get()
        if text is not None:
            for worker in workers:
                worker.kill()
            raise Invalid("demo.seeding-stopped", reason=text)
        done += 1
        if done % 100 == 0:
            progress(f"{done} of {jobs} jobs")
    for worker in workers:
        worker.join()
    # They were written as if at the moment they came in; now it is now.
    rebuild(open_only=True)
    with transaction() as session:
        counts = [
            session.scalar(select(func.count()).select_from(table)) or 0
            for table in (Job, Specimen, Run)
        ]
    return counts[0], counts[1], counts[2]


def _found(now: datetime) -> None:
    if is_founded():
        return
    with clock.as_if(now - timedelta(days=365 * YEARS + 30)):
        found_laboratory("Saltmarsh Lane Testing House", "Saltmarsh Lane 7, bench hall")
        for new in PEOPLE:
            add_person(new)


def _people() -> dict[str, Actor]:
    with transaction() as session:
        rows = session.scalars(select(Person))
        people: dict[str, Actor] = {row.role: Actor(row.id, row.name, row.role) for row in rows}
    missing = {"technician", "reviewer"} - set(people)
    if missing:
        raise Invalid("demo.role-missing", missing=" and no ".join(sorted(missing)))
    return people


def _rooms(now: datetime, number: int) -> dict[str, int]:
    """A room of each atmosphere with the log of its last weeks; by atmosphere."""
    rooms: dict[str, int] = {}
    for place, (name, atmosphere) in enumerate(ROOMS):
        with transaction() as session:
            known = session.scalar(select(Enclosure.id).where(Enclosure.name == name))
        if known is not None:
            rooms[atmosphere] = known
            continue
        rooms[atmosphere] = add_enclosure(name, atmosphere)
        with transaction() as session:
            enclosure = session.get_one(Enclosure, rooms[atmosphere])
            log = _log(enclosure, now, np.random.default_rng([number, place]))
            store_readings(session, enclosure.id, log)
    return rooms


def _log(enclosure: Enclosure, now: datetime, rng: np.random.Generator) -> list[Reading]:
    """Readings that stay in tolerance, but for an hour in the week before last."""
    from endurant.work.facts.set_points import atmosphere_in

    room = atmosphere_in(enclosure)
    count = int(timedelta(days=LOG_DAYS) / LOG_EVERY)
    out = int(rng.integers(count // 3, count // 2))
    rows: list[Reading] = []
    for place in range(count):
        celsius = room.temperature_c + 0.3 * room.temperature_tolerance_c * rng.standard_normal()
        celsius = float(np.clip(celsius, room.temperature_c - 0.9, room.temperature_c + 0.9))
        if out <= place < out + 6:
            celsius = room.temperature_c + 1.6 * room.temperature_tolerance_c
        percent = None if room.humidity_percent is None else room.humidity_percent + 0.4
        at = now - LOG_EVERY * (count - place)
        rows.append((at, round(celsius, 2), percent))
    return rows


def _work(
    share: Sequence[int],
    jobs: int,
    number: int,
    now: datetime,
    rooms: dict[str, int],
    people: dict[str, Actor],
    messages: Any,
) -> None:
    """In a process of its own: these jobs, one transaction each."""
    for place in share:
        try:
            _Seeded(place, jobs, number, now, rooms, people).write()
        except Exception as error:
            messages.put(f"job {place}: {type(error).__name__}: {error}")
            return
        messages.put(None)


@contextmanager
def _no_card_yet() -> Iterator[Session]:
    """A transaction after which lists do not show its facts yet: another one follows."""
    with engine.transaction() as session:
        yield session
        seal_the_rest(session)


class _Seeded:
    """One job of the seeded years, brought as far as its place says."""

    def __init__(
        self,
        place: int,
        jobs: int,
        number: int,
        now: datetime,
        rooms: dict[str, int],
        people: dict[str, Actor],
    ) -> None:
        self.rng = np.random.default_rng([number, place, 7])
        self.seed = number * 1_000_000 + place * 1000
        self.kind = KINDS[int(self.rng.integers(len(KINDS)))]
        self.now = now
        open_from = int(jobs * RELEASED_SHARE)
        self.released = place < open_from
        if self.released:
            ago = timedelta(days=365 * YEARS) * (1 - place / max(open_from, 1)) + timedelta(days=9)
        else:
            ago = timedelta(hours=float(self.rng.uniform(4, 8 * 24)))
        self.received_at = now - ago
        self.progress = 5 if self.released else int(self.rng.integers(0, 5))
        self.room_id = rooms[self.kind.room]
        self.people = people

    def write(self) -> None:
        """Everything about it: received, worked on, released.

        The chain of the record is locked from its first entry to the end of a transaction, so
        what takes long is computed before: several processes then seed side by side.
        """
        with clock.as_if(self.received_at):
            with _no_card_yet() as session:
                job_id = write_down(session, self.people["technician"], self._requested()).id
            with _no_card_yet() if self.released else transaction() as session:
                self._work_on(session, session.get_one(Job, job_id))
            if self.released:
                with transaction() as session:
                    self._release(session, session.get_one(Job, job_id))

    def _work_on(self, session: Session, job: Job) -> None:
        if self.progress >= 1:
            self._cut(job)
        if self.progress >= 2:
            self._place_specimens(session, job)
        if self.progress >= 3:
            self._test(session, job)
            session.flush()
            for test in job.tests:
                test_figures(test)

    def _requested(self) -> SampleRequest:
        kind, rng = self.kind, self.rng
        sizes: dict[str, Any] = {"width_mm": 1500.0, "length_mm": 4000.0}
        if kind.form != "sheet":
            sizes = {"count": 120}
        return SampleRequest(
            client=CLIENTS[int(rng.integers(len(CLIENTS)))],
            product=kind.products[int(rng.integers(len(kind.products)))],
            lot=f"{self.received_at:%y%m}-{int(rng.integers(100, 999))}",
            material=kind.material,
            form=kind.form,
            due_at=self.received_at + timedelta(days=float(rng.integers(3, 12))),
            tests=[self._requested_test(*test) for test in kind.tests],
            **sizes,
        )

    def _requested_test(self, method_id: str, judged: str, limit: str) -> TestRequest:
        return TestRequest(
            method=method_id,
            parameters=parameters_for(method_id) | {"specimens_wanted": self.kind.required},
            limits=[LimitRequest(property=judged, direction="", criterion=Criterion(limit=limit))],
        )

    def _cut(self, job: Job) -> None:
        """In rows from the selvedge on, one below the other."""
        if job.form != "sheet":
            return
        x, y, tallest = 150.0, 20.0, 0.0
        for test in job.tests:
            blank = find_method(test.method).blank_for(test.parameters)
            if blank is None:
                continue
            for specimen in test.specimens:
                lengthwise = specimen.long_side == "warp"
                wide, tall = (
                    (blank.short_mm, blank.long_mm)
                    if lengthwise
                    else (blank.long_mm, blank.short_mm)
                )
                if x + wide > 1350:
                    x, y, tallest = 150.0, y + tallest + 10, 0.0
                specimen.x_mm, specimen.y_mm = x + wide / 2, y + tall / 2
                x, tallest = x + wide + 10, max(tallest, tall)
        job.cut_at = self.received_at + timedelta(hours=2)

    def _place_specimens(self, session: Session, job: Job) -> None:
        placed_at = min(self.received_at + timedelta(hours=4), self.now - timedelta(minutes=30))
        is_over = self.progress >= 3
        for test in job.tests:
            for specimen in test.specimens:
                session.add(
                    ConditioningPeriod(
                        specimen=specimen,
                        enclosure_id=self.room_id,
                        placed_at=placed_at,
                        removed_at=placed_at + timedelta(hours=45) if is_over else None,
                        open_for=None if is_over else specimen.id,
                        placed_by_id=self.people["technician"].id,
                    )
                )

    def _test(self, session: Session, job: Job) -> None:
        share = 1.0 if self.progress >= 4 else float(self.rng.uniform(0.2, 0.8))
        for test in job.tests:
            planned = [specimen for specimen in test.specimens if not specimen.spare]
            spares = [specimen for specimen in test.specimens if specimen.spare]
            for specimen in planned[: max(int(share * len(planned)), 1)]:
                void = float(self.rng.uniform()) < VOID_SHARE
                spare = next(
                    (held for held in spares if held.direction == specimen.direction), None
                )
                if void and spare is not None:
                    spares.remove(spare)
                    self._run(session, specimen)
                    self._void(session, specimen)
                    self._run(session, spare)
                else:
                    self._run(session, specimen)

    def _run(self, session: Session, specimen: Specimen) -> None:
        self.seed += 1
        entry = simulate(specimen.test.method, self.seed, SAMPLES)
        trace: dict[str, Any] = entry["trace"]
        table = np.column_stack([trace[channel] for channel in trace])
        specimen.dimensions = entry.get("dimensions")
        tested_at = min(self.received_at + timedelta(hours=50), self.now - timedelta(minutes=5))
        session.add(
            Run(
                specimen=specimen,
                state="settled",
                settings={"conditioning": None, "deviations": []},
                checks=[],
                source_name=None,
                source_notes=[],
                started_at=tested_at,
                ended_at=tested_at,
                end_reason="break",
                by_id=self.people["technician"].id,
                samples=len(table),
                channels=list(trace),
                recording=Recording(packed=pack(table)),
                sha256=sha256(table),
            )
        )

    def _void(self, session: Session, specimen: Specimen) -> None:
        session.add(
            Void(
                specimen=specimen,
                open_for=specimen.id,
                code="set-aside",
                remark="the blank was nicked when it was cut",
                at=self.received_at + timedelta(hours=51),
                by_id=self.people["technician"].id,
            )
        )

    def _release(self, session: Session, job: Job) -> None:
        with clock.as_if(self.received_at + timedelta(hours=60)):
            reviewer = self.people["reviewer"]
            content = with_working(job, content_of(session, job, reviewer))
            keep_report(session, reviewer, job, content, ReportPdfs(PAGE, PAGE))
