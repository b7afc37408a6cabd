"""A live run on its way from the station into the record, and to everyone who looks."""

from __future__ import annotations

import os
import secrets
import socket
from collections.abc import Callable
from datetime import timedelta
from threading import Event, Thread
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import delete, or_, select, update
from sqlalchemy.orm import Session

from endurant.core.refusals import Conflict, NotFound, Unavailable
from endurant.core.trace import thin
from endurant.stations.driver import RunOrder
from endurant.stations.link import TRY_AGAIN_AFTER_S, RunOver, carry
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.engine import transaction
from endurant.store.samples import COLUMNS, Table, pack, sha256, unpack
from endurant.store.tables import Run, RunChunk, Station
from endurant.work.stations import driver_of
from endurant.work.views import View

Answer = TypeVar("Answer")

LEASE = timedelta(seconds=5)
LOOK_FOR_ORPHANS_S = 1.0
POINTS_TO_DRAW = 3000
FEWEST_SAMPLES = 2
"""A run with fewer has no trace: the specimen was not pulled and can be run again."""


class LivePiece(View):
    """What is new of a live run since the caller last looked."""

    state: str
    line: str
    line_says: str
    samples: int
    end_reason: str | None
    extension_mm: list[float]
    force_n: list[float]


def live_piece(run_id: int, first: int) -> LivePiece:
    """The samples of a run from number `first` on, thinned for the eye."""
    with transaction() as session:
        found = run_or_refuse(session, run_id)
        table = stored_table(session, found, first)
        x, y = thin(table[:, 1], table[:, 2], POINTS_TO_DRAW)
        return LivePiece(
            state=found.state,
            line=found.line,
            line_says=found.line_says,
            end_reason=found.end_reason,
            samples=max(first + table.shape[0], found.samples if found.raw else 0),
            extension_mm=x.tolist(),
            force_n=y.tolist(),
        )


def run_or_refuse(session: Session, run_id: int, *, lock: bool = False) -> Run:
    """The run; raises NotFound."""
    found = session.get(Run, run_id, with_for_update=lock or None)
    if found is None:
        raise NotFound(f"there is no run with id {run_id}")
    return found


def stored_table(session: Session, found: Run, first: int = 0) -> Table:
    """The samples of a run from number `first` on, finished or not; shape (n, 3)."""
    if found.raw is not None:
        return unpack(found.raw)[first:]
    chunks = session.scalars(
        select(RunChunk)
        .where(RunChunk.run_id == found.id, RunChunk.first_sample + RunChunk.count > first)
        .order_by(RunChunk.first_sample)
    ).all()
    if not chunks:
        return np.empty((0, len(COLUMNS)))
    whole = np.concatenate([unpack(chunk.samples) for chunk in chunks])
    return whole[max(first - chunks[0].first_sample, 0) :]


def new_lease() -> str:
    """A name that no other carrier has, in this process or another."""
    return f"{socket.gethostname()}-{os.getpid()}-{secrets.token_hex(6)}"


def carry_in_background(run_id: int, lease: str) -> Thread:
    """Carry a run to its end in a thread of this process, as the holder of `lease`."""
    thread = Thread(target=_carry, args=(run_id, lease), name=f"run-{run_id}", daemon=True)
    thread.start()
    return thread


def take_up_orphans() -> None:
    """Carry on runs whose carrier is gone: a killed process, a restarted server."""
    for run_id, lease in _take_orphans():
        carry_in_background(run_id, lease)


def _take_orphans() -> list[tuple[int, str]]:
    """Runs whose lease has run out, each with the lease that is ours from now on."""
    now = clock.now()
    with transaction() as session:
        orphans = session.scalars(
            select(Run)
            .join(Station, Run.station_id == Station.id)
            .where(
                Run.state == "running",
                or_(Station.leased_until.is_(None), Station.leased_until < now),
            )
            .with_for_update(skip_locked=True)
        ).all()
        taken = []
        for orphan in orphans:
            if orphan.station is not None:
                orphan.station.leased_by = new_lease()
                orphan.station.leased_until = now + LEASE
                taken.append((orphan.id, orphan.station.leased_by))
        return taken


def _carry(run_id: int, lease: str) -> None:
    with transaction() as session:
        found = run_or_refuse(session, run_id)
        station = found.station
        if station is None or found.device_run is None:
            return
        order = RunOrder(
            device_run=found.device_run,
            specimen_code=found.specimen.code,
            speed_mm_min=found.settings["speed_mm_min"],
            end_mm=found.settings["end_mm"],
        )
    carry(driver_of(station), order, StoredRun(run_id, lease), pause=Event().wait)


class StoredRun:
    """The record of one run as a link sees it; see stations.link.RunRecord.

    While the database is away, storing is tried again: the device keeps the samples.
    """

    def __init__(self, run_id: int, lease: str) -> None:
        self.run_id = run_id
        self.lease = lease

    def stored(self) -> int:
        """How many samples are stored already."""
        return self._patiently(lambda session, found: found.samples)

    def store(self, first: int, samples: NDArray[np.float64]) -> bool:
        """Store samples; True when someone asked to stop the run."""

        def write(session: Session, found: Run) -> bool:
            fresh = samples[max(found.samples - first, 0) :]
            if first > found.samples:
                raise RunOver
            if len(fresh):
                session.add(
                    RunChunk(
                        run_id=found.id,
                        first_sample=found.samples,
                        count=len(fresh),
                        samples=pack(fresh),
                    )
                )
                found.samples += len(fresh)
            found.line, found.line_says = "up", ""
            return found.stop_wanted

        return self._patiently(write)

    def line_lost(self, says: str) -> bool:
        """Note that the line is lost; True when someone asked to stop the run."""

        def write(session: Session, found: Run) -> bool:
            found.line, found.line_says = "lost", says
            return found.stop_wanted

        return self._patiently(write)

    def ended(self, reason: str) -> None:
        """Close the run with everything that is stored."""

        def write(session: Session, found: Run) -> None:
            close_run(session, found, reason.replace("-", " "))
            record(
                session,
                person_id=None,
                action="end-run",
                entity="run",
                entity_id=found.id,
                job_id=found.specimen.test.job_id,
                words=f"{found.specimen.label} ended: {found.end_reason}",
                after={"samples": found.samples, "sha256": found.sha256},
            )

        self._patiently(write)

    def _patiently(self, act: Callable[[Session, Run], Answer]) -> Answer:
        """Act on the run under lock, again and again while the database is away."""
        while True:
            try:
                with transaction() as session:
                    found = run_or_refuse(session, self.run_id, lock=True)
                    station = found.station
                    if found.state != "running" or station is None:
                        raise RunOver
                    if station.leased_by != self.lease:
                        raise RunOver
                    station.leased_until = clock.now() + LEASE
                    return act(session, found)
            except (Unavailable, Conflict):
                Event().wait(TRY_AGAIN_AFTER_S)


def close_run(session: Session, found: Run, reason: str) -> None:
    """Join the chunks into the raw samples of the run and let specimen and station go."""
    table = stored_table(session, found)
    found.raw, found.sha256 = pack(table), sha256(table)
    found.samples = table.shape[0]
    found.state = "ended" if table.shape[0] >= FEWEST_SAMPLES else "abandoned"
    if found.state == "abandoned":
        found.busy_specimen_id = None
    found.ended_at, found.end_reason = clock.now(), reason
    found.busy_station_id = None
    found.line, found.line_says = "up", ""
    session.execute(delete(RunChunk).where(RunChunk.run_id == found.id))
    if found.station_id is not None:
        session.execute(
            update(Station)
            .where(Station.id == found.station_id)
            .values(leased_by=None, leased_until=None)
        )
    session.flush()
