"""A live run on its way from the station into the record, and to everyone who looks."""

from __future__ import annotations

import logging
import os
import secrets
import socket
from collections.abc import Callable
from dataclasses import dataclass
from datetime import timedelta
from threading import Event, Thread
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import delete, or_, select, update
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from endurant.core.bench.procedures import procedure_of
from endurant.core.messages import Message, worded
from endurant.core.methods import find_method
from endurant.core.methods.guide import FrameGuide
from endurant.core.methods.voids import observations_of
from endurant.core.refusals import Conflict, NotFound, Unavailable
from endurant.core.rounding import in_numbers
from endurant.core.trace import Samples, thin
from endurant.devices.driver import Batch, DeviceEvent, Order
from endurant.devices.link import TRY_AGAIN_AFTER_S, RunOver, carry
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.engine import database_url, engine_for
from endurant.store.samples import FRAME_CHANNELS, Table, pack, sha256, unpack
from endurant.store.tables import Recording, Run, RunChunk, Station
from endurant.work.base.transactions import again, transaction
from endurant.work.base.view import View
from endurant.work.facts.bench_events import events_of, state_at_bench
from endurant.work.facts.results import test_figures
from endurant.work.facts.run_facts import RunSettings
from endurant.work.read_models.job_cards import watch_turning
from endurant.work.use_cases.bench.feed import arrived, close_feed, publish
from endurant.work.use_cases.bench.stations import recorder_of
from endurant.work.use_cases.bench_record.events import device_event

_log = logging.getLogger(__name__)

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
    line_message: str
    samples: int
    end_reason: str | None
    x: list[float]
    y: list[float]


def live_piece(run_id: int, first: int) -> LivePiece:
    """The samples of a run from number `first` on, thinned for the eye."""
    with transaction() as session:
        run = run_or_refuse(session, run_id)
        table = stored_table(session, run, first)
        x, y = thin(*drawn_columns(run, table), POINTS_TO_DRAW)
        return LivePiece(
            state=run.state,
            line=run.line,
            line_message=run.line_message,
            end_reason=run.end_reason,
            samples=max(first + table.shape[0], run.samples if run.raw else 0),
            x=x.tolist(),
            y=y.tolist(),
        )


def arrived_piece(run_id: int, first: int) -> LivePiece | None:
    """The same for a run that this process carries, without asking the database."""
    here = arrived(run_id, first)
    if here is None:
        return None
    x, y = thin(*here, POINTS_TO_DRAW)
    return LivePiece(
        state="running",
        line="up",
        line_message="",
        end_reason=None,
        samples=first + here[0].size,
        x=x.tolist(),
        y=y.tolist(),
    )


def run_or_refuse(session: Session, run_id: int, *, lock: bool = False) -> Run:
    """The run; raises NotFound."""
    run = session.get(Run, run_id, with_for_update=lock or None)
    if run is None:
        raise NotFound("run.unknown", run_id=run_id)
    return run


def channels_of(run: Run) -> list[str]:
    """The channels of a run, in the order they are packed."""
    return run.channels or list(FRAME_CHANNELS)


def drawn_columns(run: Run, table: Table) -> tuple[Samples, Samples]:
    """What is drawn of a run while it records: the two columns that its procedure names.

    Before its first sample the device may not have said yet which channels it has.
    """
    if not table.shape[0]:
        return np.empty(0), np.empty(0)
    x, y = drawn_places(run)
    return table[:, x], table[:, y]


def drawn_places(run: Run) -> tuple[int, int]:
    """Where those two stand among the channels of a run."""
    test = run.specimen.test
    method = find_method(test.method)
    drawing = procedure_of(method).drawing(method, test.parameters)
    names = channels_of(run)
    x, y = (drawing.x.column, drawing.y.column) if drawing else (names[0], names[-1])
    return names.index(x), names.index(y)


def stored_table(session: Session, run: Run, first: int = 0) -> Table:
    """The samples of a run from number `first` on, finished or not; shape (n, channels)."""
    channels = len(channels_of(run))
    if run.raw is not None:
        return unpack(run.raw, channels)[first:]
    chunks = session.scalars(
        select(RunChunk)
        .where(RunChunk.run_id == run.id, RunChunk.first_sample + RunChunk.count > first)
        .order_by(RunChunk.first_sample)
    ).all()
    if not chunks:
        return np.empty((0, channels))
    whole = np.concatenate([unpack(chunk.samples, channels) for chunk in chunks])
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
        run = run_or_refuse(session, run_id)
        station = run.station
        if station is None or run.device_run is None:
            return
        order = Order(
            device_run=run.device_run,
            specimen=run.specimen.code,
            method=run.specimen.test.method,
            setup=RunSettings.model_validate(run.settings).setup,
        )
    try:
        carry(recorder_of(station), order, StoredRun(run_id, lease), pause=Event().wait)
    finally:
        close_feed(run_id)


MAX_REASON = 200
"""Letters that are kept of why a run ended."""


class StoredRun:
    """The record of one run as a link sees it; see stations.link.RunRecord.

    While the database is away, storing is tried again: the device keeps the samples.
    """

    def __init__(self, run_id: int, lease: str) -> None:
        self.run_id = run_id
        self.lease = lease
        self._drawn: tuple[int, int] | None = None

    def stored(self) -> int:
        """How many samples are stored already."""

        def look(_: Session, run: Run) -> int:
            self._drawn = drawn_places(run) if run.samples else None
            return run.samples

        return self._patiently(look)

    def channels(self) -> tuple[str, ...]:
        """The channels that were noted as the run began."""

        def look(_: Session, run: Run) -> tuple[str, ...]:
            return FRAME_CHANNELS if run.channels is None else tuple(run.channels)

        return self._patiently(look)

    def began(self, channels: tuple[str, ...]) -> None:
        """Note which channels the device records."""

        def write(session: Session, run: Run) -> None:
            if run.samples == 0:
                run.channels = None if channels == FRAME_CHANNELS else list(channels)
            self._drawn = drawn_places(run)

        self._patiently(write)

    def arrived(self, batch: Batch) -> None:
        """Show samples to those who look at this process."""
        if self._drawn is not None:
            x, y = self._drawn
            publish(self.run_id, batch.first, batch.samples[:, x], batch.samples[:, y])

    def notified(self, event: DeviceEvent) -> None:
        """Note what the device tells of the test, once."""

        def write(session: Session, run: Run) -> None:
            happened = events_of(session, run.specimen_id)
            if happened and happened[-1].kind != event.kind:
                device_event(session, run, event.kind, {})

        self._patiently(write)

    def store(self, first: int, samples: NDArray[np.float64]) -> bool:
        """Store samples; True when someone asked to stop the run."""

        def write(session: Session, run: Run) -> bool:
            fresh = samples[max(run.samples - first, 0) :]
            if first > run.samples:
                raise RunOver
            if len(fresh):
                session.add(
                    RunChunk(
                        run_id=run.id,
                        first_sample=run.samples,
                        count=len(fresh),
                        samples=pack(fresh),
                    )
                )
                run.samples += len(fresh)
            run.line, run.line_message = "up", ""
            return run.stop_requested

        return self._patiently(write)

    def line_lost(self, message: str) -> bool:
        """Note that the line is lost; True when someone asked to stop the run."""
        # Nothing arrives here now: whoever looks is told by the record.
        close_feed(self.run_id)

        def write(session: Session, run: Run) -> bool:
            run.line, run.line_message = "lost", message
            return run.stop_requested

        return self._patiently(write)

    def ended(self, reason: str) -> None:
        """Close the run with everything that is stored.

        What takes long (packing, writing a large recording, deleting its pieces, writing the
        card of the job) is done before and after, in transactions of their own that hold nothing
        which others wait for.
        """
        joined = self._joined()
        self._keep(joined)
        self._compute_ahead(joined)

        def write(session: Session, run: Run) -> None:
            close_run(session, run, reason.replace("-", " "), joined)
            record(
                session,
                person_id=None,
                action="end-run",
                entity="run",
                entity_id=run.id,
                job_id=run.specimen.test.job_id,
                message=Message(
                    "audit.end-run", {"label": run.specimen.label, "reason": run.end_reason}
                ),
                after={"samples": run.samples, "sha256": run.sha256},
            )

        self._patiently(write, cards_at_once=False)
        again(
            lambda: delete_pieces(self.run_id),
            f"clearing up after run {self.run_id}",
        )
        watch_turning()

    def _compute_ahead(self, joined: Joined) -> None:
        """Compute what the test will give, so that closing the run finds it made.

        Nothing is written or locked; what cannot be computed now is said when it is closed.
        """
        try:
            with Session(engine_for(database_url())) as session, session.no_autoflush:
                run = session.get(Run, self.run_id)
                if run is not None:
                    run.sha256, run.samples, run.state = joined.sha256, joined.samples, "ended"
                    test_figures(run.specimen.test)
                session.rollback()
        except DBAPIError:
            _log.info("the figures of run %s are computed as it is closed", self.run_id)

    def _keep(self, joined: Joined) -> None:
        """Write the recording, once; who closed the run meanwhile wrote the same or more."""
        while True:
            try:
                with transaction() as session:
                    if session.get(Recording, (self.run_id, joined.sha256)) is None:
                        session.add(joined.recording(self.run_id))
                return
            except (Unavailable, Conflict):
                Event().wait(TRY_AGAIN_AFTER_S)

    def _joined(self) -> Joined:
        """All that is stored of this run, joined without holding it."""
        while True:
            try:
                with transaction() as session:
                    return _join(stored_table(session, run_or_refuse(session, self.run_id)))
            except (Unavailable, Conflict):
                Event().wait(TRY_AGAIN_AFTER_S)

    def _patiently(
        self, act: Callable[[Session, Run], Answer], *, cards_at_once: bool = True
    ) -> Answer:
        """Act on the run under lock, again and again while the database is away.

        What closing a run reads beside it is read before the run is held.
        """
        while True:
            try:
                with transaction(cards_at_once=cards_at_once) as session:
                    if not cards_at_once:
                        state_at_bench(session, run_or_refuse(session, self.run_id).specimen)
                    run = run_or_refuse(session, self.run_id, lock=True)
                    station = run.station
                    if run.state != "running" or station is None:
                        raise RunOver
                    if station.leased_by != self.lease:
                        raise RunOver
                    station.leased_until = clock.now() + LEASE
                    return act(session, run)
            except (Unavailable, Conflict):
                Event().wait(TRY_AGAIN_AFTER_S)


@dataclass(frozen=True)
class Joined:
    """The pieces of a run as one recording, packed."""

    packed: bytes
    sha256: str
    samples: int

    def recording(self, run_id: int) -> Recording:
        """The row that keeps it."""
        return Recording(run_id=run_id, sha256=self.sha256, packed=self.packed)


def _join(table: Table) -> Joined:
    return Joined(pack(table), sha256(table), table.shape[0])


def delete_pieces(run_id: int) -> None:
    """The pieces of a run that is closed are in its recording, and are not needed any more."""
    with transaction() as session:
        run = run_or_refuse(session, run_id)
        if run.state != "running" and run.raw is not None:
            session.execute(delete(RunChunk).where(RunChunk.run_id == run_id))
            others = Recording.run_id == run_id, Recording.sha256 != run.sha256
            session.execute(delete(Recording).where(*others))


AT_LIMIT = {
    "force limit": worded("run-end.the-frame-stopped-at-its-force-limit"),
    "travel limit": worded("run-end.the-frame-stopped-at-its-travel-limit"),
    "end of travel": worded("run-end.the-frame-stopped-at-the-end-of-its"),
    "limit": "",
}
"""Reasons that a run ended at a limit, with the deviation that they are; empty where it is none."""
EXPECTED_AT_TRAVEL = ("travel",)


def _mark_by_reason(run: Run, reason: str) -> None:
    """What the reason of its end says of a run: a void by the device, or a limit that was met."""
    method = find_method(run.specimen.test.method)
    code = reason.replace(" ", "-")
    voids = {each.code for each in observations_of(method) if each.severity == "void"}
    if code in voids:
        seen = (run.other_readings or {}).get("observations", [])
        run.other_readings = {**(run.other_readings or {}), "observations": [*seen, code]}
    live = method.guide.live
    message = AT_LIMIT.get(reason, "")
    if isinstance(live, FrameGuide) and live.until in EXPECTED_AT_TRAVEL:
        message = "" if reason == "end of travel" else message
    if message:
        known = list(run.settings.get("deviations", []))
        limit_n = run.settings.get("setup", {}).get("force_limit_n")
        if code == "force-limit" and limit_n:
            message = worded("run-end.of-n", message=message, limit_n=in_numbers(float(limit_n)))
        known.append(
            {
                "code": f"ended-at-{code}",
                "says": message,
                "why": worded("run-end.limit-of-the-frame"),
            }
        )
        run.settings = run.settings | {"deviations": known}


def close_run(session: Session, run: Run, reason: str, joined: Joined | None = None) -> None:
    """End the run with everything that is stored of it, and let specimen and station go.

    Its pieces are joined here unless they were before; they are deleted by `delete_pieces`.
    """
    whole = joined or _join(stored_table(session, run))
    run.sha256, run.samples = whole.sha256, whole.samples
    if joined is None:
        session.merge(whole.recording(run.id))
    gave = run.samples >= FEWEST_SAMPLES
    kind = "ended" if gave else "abandoned"
    run.state = device_event(session, run, kind, {"reason": reason, "samples": run.samples})
    if run.state == "abandoned":
        run.busy_specimen_id = None
    run.ended_at, run.end_reason = clock.now(), reason[:MAX_REASON]
    _mark_by_reason(run, reason)
    run.busy_station_id = None
    run.line, run.line_message = "up", ""
    if run.station_id is not None:
        session.execute(
            update(Station)
            .where(Station.id == run.station_id)
            .values(leased_by=None, leased_until=None)
        )
    session.flush()
