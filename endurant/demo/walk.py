"""A tear test of the demo laboratory, taken from the counter to where it stops."""

from __future__ import annotations

from datetime import datetime, timedelta

import numpy as np
from sqlalchemy.orm import Session

from endurant.core.bench.procedure import checks_of
from endurant.core.bench.procedures import procedure_of
from endurant.core.bench.trace import frame_of
from endurant.core.judging.criteria import Criterion
from endurant.core.methods import find_method
from endurant.core.simulate.tear import TearFault, sample_tear, specimen_from_label
from endurant.demo.laboratory import PASSWORD
from endurant.demo.samples import DemoJob
from endurant.reports.pdf import report_pdfs
from endurant.store import clock
from endurant.store.samples import FRAME_CHANNELS, pack
from endurant.store.tables import Run, RunChunk, Specimen, Station, Test
from endurant.work.base.actors import Actor
from endurant.work.base.transactions import transaction
from endurant.work.facts.called_specimens import called_specimens
from endurant.work.facts.status import open_period, state_of
from endurant.work.use_cases.bench import accepting, runs, voids
from endurant.work.use_cases.bench.live import close_run, delete_pieces
from endurant.work.use_cases.preparation import placement
from endurant.work.use_cases.receiving import receiving
from endurant.work.use_cases.receiving.limits import LimitRequest, change_limits
from endurant.work.use_cases.reporting.release import (
    ReleaseRequest,
    draft,
    open_correction,
    release,
)
from endurant.work.use_cases.sheets import cutting
from endurant.work.views import job_page, test_page

METHOD = "iso-13937-2"


class Walk:
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
        """Do what was done to it, up to where it stops."""
        stages = {
            "received": self._receive,
            "placed": self._place,
            "cut": self._cut,
            "hanging": self._place_specimens,
            "conditioned": self._wait,
            "bench": self._test,
            "tested": self._finish,
        }
        for stop, act in stages.items():
            act()
            if self.job.stop_after == stop:
                return
        self._release("maren")
        if self.job.stop_after == "corrected":
            self._correct()

    def _later(self, minutes: float) -> datetime:
        self.moment += timedelta(minutes=minutes)
        return self.moment

    def _receive(self) -> None:
        job = self.job
        limits = [
            LimitRequest(
                property="tear_force", direction=direction, criterion=Criterion(limit=limit)
            )
            for direction, limit in (("warp", job.warp_limit), ("weft", job.weft_limit))
        ]
        request = receiving.SampleRequest(
            client=job.client,
            product=job.product,
            lot=job.lot,
            material=job.material,
            arrival_state=job.arrival_state,
            width_mm=job.width_mm,
            length_mm=job.length_mm,
            due_at=self.due_at,
            tests=[
                receiving.TestRequest(method=METHOD, parameters=dict(job.parameters), limits=limits)
            ],
        )
        with clock.as_if(self.moment):
            self.job_id = receiving.receive(self.technician, request).id

    def _place(self) -> None:
        with clock.as_if(self._later(8)):
            sheet = cutting.sheet(self.job_id)
            if self.job.crease is not None:
                left, near, right, far = self.job.crease
                corners = [(left, near), (right, near), (right, far), (left, far)]
                area = cutting.AreaRequest(reason="crease", corners=corners)
                sheet = cutting.mark_areas(self.technician, self.job_id, [area], sheet.revision)
            cutting.place_all(
                self.technician, self.job_id, sheet.revision, cutting.PlaceRequest(seconds=0)
            )

    def _cut(self) -> None:
        with clock.as_if(self._later(35)):
            revision = cutting.sheet(self.job_id).revision
            cutting.confirm_cut(self.technician, self.job_id, revision)

    def _place_specimens(self) -> None:
        with clock.as_if(self._later(12)):
            ids = [
                specimen.id
                for test in job_page.job(self.job_id).tests
                for specimen in test.specimens
            ]
            placement.place_specimens(
                self.technician, self.room, placement.PlacementRequest(specimen_ids=ids)
            )

    def _wait(self) -> None:
        self._later(24 * 60 + 20)

    def _test(self) -> None:
        self._pull_up_to(self.job.tested)

    def _finish(self) -> None:
        self._pull_up_to(99)

    def _pull_up_to(self, count: int) -> None:
        """Pull specimens in order; those that slip are voided and replaced by their spare."""
        test_id = job_page.job(self.job_id).tests[0].id
        done = sum(specimen.run_id is not None for specimen in test_page.test(test_id).specimens)
        while done < count:
            with clock.as_if(self._later(4)):
                label = self._pull_next(test_id)
            if label is None:
                return
            done += 1

    def _pull_next(self, test_id: int) -> str | None:
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
            station = session.get_one(Station, self.station)
            run = self._store_run(session, station, specimen)
            session.add(run)
            session.flush()
            columns = self._columns(specimen, slipped)
            table = np.column_stack([columns[name] for name in FRAME_CHANNELS])
            session.add(
                RunChunk(run_id=run.id, first_sample=0, count=len(table), samples=pack(table))
            )
            close_run(session, run, "end of travel")
            period = open_period(specimen)
            if period is not None:
                period.removed_at, period.open_for = clock.now(), None
            run_id, specimen_id, label = run.id, specimen.id, specimen.label
        delete_pieces(run_id)
        if slipped:
            voids.void(
                self.technician,
                specimen_id,
                voids.VoidRequest(
                    code="jaw-slip", remark="the left leg slipped in its jaw at half way"
                ),
            )
        else:
            accepting.accept(self.technician, run_id)
        return label

    def _store_run(self, session: Session, station: Station, specimen: Specimen) -> Run:
        run = runs.station_run(session, self.technician, specimen, station, clock.now(), {})
        method = find_method(METHOD)
        run.checks = [
            {"code": check.code, "title": check.title, "says": "", "by": self.technician.name}
            for check in checks_of(procedure_of(method), method, specimen.test.parameters)
        ]
        return run

    def _columns(self, specimen: Specimen, slipped: bool) -> dict[str, list[float]]:
        fault: TearFault = "jaw-slip" if slipped else "none"
        end_mm = frame_of(find_method(METHOD)).travel_mm
        return sample_tear(specimen_from_label(specimen.code, fault), end_mm)

    def _release(self, login: str) -> None:
        with clock.as_if(self._later(90)):
            seen = draft(self.people[login], self.job_id)
            request = ReleaseRequest(
                password=PASSWORD,
                revision=seen.job.revision,
                content_sha256=seen.content_sha256,
            )
            release(self.people[login], self.job_id, request, report_pdfs)

    def _correct(self) -> None:
        with clock.as_if(self._later(26 * 60)):
            why = "the client's order names a warp limit of 23 N; 22 N was written at the counter"
            open_correction(self.people["maren"], self.job_id, why)
            test = job_page.job(self.job_id).tests[0]
            other_limits = [
                LimitRequest(
                    property="tear_force", direction=direction, criterion=Criterion(limit=limit)
                )
                for direction, limit in (("warp", "23"), ("weft", self.job.weft_limit))
            ]
            change_limits(self.people["ruben"], test.id, other_limits, test.revision, why)
        self._release("maren")
