"""Runs: started at a station or brought in as a file, then kept."""

from __future__ import annotations

import secrets
from datetime import datetime
from typing import Any

import numpy as np
from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.csv_trace import read_trace_csv
from endurant.core.document import read_specimen
from endurant.core.drawn import curves_of, force_curve
from endurant.core.methods import find_method
from endurant.core.refusals import Conflict, Invalid
from endurant.core.trace import thin
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.engine import transaction
from endurant.store.samples import COLUMNS, pack, sha256, unpack_entry
from endurant.store.tables import Run, Specimen, Station
from endurant.work.asked import Asked
from endurant.work.calling import called_specimens
from endurant.work.live import (
    LEASE,
    POINTS_TO_DRAW,
    carry_in_background,
    close_run,
    new_lease,
    run_or_refuse,
    stored_table,
)
from endurant.work.people import Actor
from endurant.work.results import document_of, test_result, trace_columns
from endurant.work.serving import conditioning_facts, departures
from endurant.work.states import (
    open_stay,
    refuse_released,
    specimen_or_refuse,
    standing_void,
    state_of,
    test_or_refuse,
)
from endurant.work.stations import driver_of, station_or_refuse, ticked
from endurant.work.views import CurveView, View


class StartAsked(Asked):
    """The ready check as it was gone through; `deviation` names why a clock was not waited for."""

    station_id: int
    confirmed: list[str] = Field(max_length=40)
    deviation: str | None = Field(None, max_length=300)
    request_key: str | None = Field(None, max_length=64)


class RunView(View):
    """A run with as much of its trace as is drawn, and what was read from it."""

    id: int
    specimen_id: int
    specimen_label: str
    state: str
    line: str
    line_says: str
    samples: int
    stop_wanted: bool
    started_at: datetime
    ended_at: datetime | None
    end_reason: str | None
    by: str
    source_name: str | None
    said: list[str]
    sha256: str | None
    settings: dict[str, Any]
    curves: list[CurveView]
    result: dict[str, Any] | None


def start(actor: Actor, specimen_id: int, asked: StartAsked) -> RunView:
    """Start a run after its ready check.

    Raises Conflict when the specimen or the station is taken, Invalid when an item of the
    ready check is open, Unavailable when the station does not answer.
    """
    actor.must("test")
    try:
        return _start(actor, specimen_id, asked)
    except Conflict:
        again = None if asked.request_key is None else _started(specimen_id, asked.request_key)
        if again is None:
            raise
        return again


def _started(specimen_id: int, request_key: str) -> RunView | None:
    """The run that this request has started already; raises Invalid for another specimen's."""
    with transaction() as session:
        known = session.scalar(select(Run).where(Run.request_key == request_key))
        if known is not None and known.specimen_id != specimen_id:
            raise Invalid(
                f"request_key was used already to start {known.specimen.code}; "
                "expected a new key for another specimen",
                field="request_key",
            )
        return None if known is None else _run_view(session, known)


def _start(actor: Actor, specimen_id: int, asked: StartAsked) -> RunView:
    known = None if asked.request_key is None else _started(specimen_id, asked.request_key)
    if known is not None:
        return known
    with transaction() as session:
        specimen = specimen_or_refuse(session, specimen_id)
        test = specimen.test
        station = station_or_refuse(session, asked.station_id)
    method = find_method(test.method)
    if not method.runs_at_frame:
        raise Conflict(f"{method.title} is not run at the bench here; bring its readings in")
    guide = method.guide
    status = driver_of(station).status()
    checks = ticked(guide.ready_checks, status, test.parameters, asked.confirmed)
    open_items = [check.title for check in checks if not check.ticked]
    if open_items:
        raise Invalid(f"the ready check is not done: {'; '.join(open_items)}", field="confirmed")
    now = clock.now()
    with transaction() as session:
        job = refuse_released(session, test.job_id)
        specimen = specimen_or_refuse(session, specimen_id)
        refuse_unfit(specimen, now)
        station = station_or_refuse(session, asked.station_id)
        busy = session.scalar(select(Run).where(Run.busy_station_id == station.id))
        if busy is not None:
            raise Conflict(f"{station.name} is running {busy.specimen.code}")
        run = station_run(actor, specimen, station, now, asked.deviation)
        run.request_key = asked.request_key
        run.checks = [
            {"code": check.code, "title": check.title, "says": check.says, "by": actor.name}
            for check in checks
        ]
        session.add(run)
        end_stay(specimen, now)
        lease = new_lease()
        station.leased_by, station.leased_until = lease, now + LEASE
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="start-run",
            entity="run",
            entity_id=run.id,
            job_id=job.id,
            words=f"{actor.name} started {specimen.label} on {station.name}",
            after={"settings": run.settings, "checks": run.checks},
        )
        run_id = run.id
        view = _run_view(session, run)
    carry_in_background(run_id, lease)
    return view


def station_run(
    actor: Actor, specimen: Specimen, station: Station, now: datetime, deviation: str | None
) -> Run:
    """A run of a specimen at a station that begins now, with everything that it is made under."""
    test = specimen.test
    return Run(
        specimen=specimen,
        station_id=station.id,
        instrument_id=station.instrument_id,
        device_run=f"R{secrets.token_hex(6)}",
        busy_station_id=station.id,
        busy_specimen_id=specimen.id,
        state="running",
        settings={
            "speed_mm_min": test.parameters["speed_mm_min"],
            "gauge_length_mm": test.parameters["gauge_length_mm"],
            "end_mm": find_method(test.method).guide.run_end_mm,
            "conditioning": conditioning_facts(specimen, now),
            "instrument": _instrument_facts(station),
            "deviations": deviations(specimen, station, now, deviation),
        },
        checks=[],
        source_said=[],
        started_at=now,
        by_id=actor.id,
        samples=0,
    )


def bring_in(
    actor: Actor, specimen_id: int, file_name: str, data: bytes, deviation: str | None
) -> RunView:
    """Take the trace of a specimen from a CSV file; it is then looked at like any other run."""
    actor.must("test")
    taken = read_trace_csv(data)
    now = clock.now()
    with transaction() as session:
        specimen = specimen_or_refuse(session, specimen_id)
        job = refuse_released(session, specimen.test.job_id)
        refuse_unfit(specimen, now)
        columns = {name: samples.tolist() for name, samples in taken.columns.items()}
        method = find_method(specimen.test.method)
        if not method.runs_at_frame:
            raise Conflict(f"the readings of {method.title} are brought in on their own page")
        read_specimen(method, {"label": specimen.label, "trace": columns}, 1)
        rows = taken.columns["force_n"].size
        missing = np.full(rows, np.nan)
        table = np.column_stack([taken.columns.get(name, missing) for name in COLUMNS])
        run = Run(
            specimen=specimen,
            state="ended",
            busy_specimen_id=specimen.id,
            settings={
                "conditioning": conditioning_facts(specimen, now),
                "deviations": deviations(specimen, None, now, deviation),
            },
            checks=[],
            source_name=file_name[:200],
            source_file=data,
            source_said=taken.said,
            started_at=now,
            ended_at=now,
            end_reason="brought in from a file",
            by_id=actor.id,
            samples=rows,
            raw=pack(table),
            sha256=sha256(table),
        )
        session.add(run)
        end_stay(specimen, now)
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="bring-in",
            entity="run",
            entity_id=run.id,
            job_id=job.id,
            words=f"{actor.name} brought in {file_name[:80]} for {specimen.label}",
            after={"samples": rows, "sha256": run.sha256, "said": taken.said},
        )
        return _run_view(session, run)


def run(run_id: int) -> RunView:
    """A run with its trace; raises NotFound."""
    with transaction() as session:
        return _run_view(session, run_or_refuse(session, run_id))


def raw_csv(run_id: int) -> tuple[str, str]:
    """A file name, and the raw samples of a run as CSV text, every digit kept."""
    with transaction() as session:
        found = run_or_refuse(session, run_id)
        table = stored_table(session, found)
        code = found.specimen.code
    columns = trace_columns(table)
    rows = zip(*columns.values(), strict=True)
    lines = [",".join(columns), *(",".join(repr(cell) for cell in row) for row in rows)]
    return f"{code}.csv", "\n".join(lines) + "\n"


def stop(actor: Actor, run_id: int) -> RunView:
    """Ask the station to stop; the samples so far stay.

    While its line is lost, the run is closed with what is stored.
    """
    actor.must("test")
    with transaction() as session:
        found = run_or_refuse(session, run_id, lock=True)
        if found.state != "running":
            raise Conflict(f"the run of {found.specimen.code} is over already")
        found.stop_wanted = True
        if found.line == "lost":
            close_run(session, found, "closed by hand while the line was lost")
        record(
            session,
            person_id=actor.id,
            action="stop-run",
            entity="run",
            entity_id=found.id,
            job_id=found.specimen.test.job_id,
            words=f"{actor.name} stopped {found.specimen.label}",
        )
        return _run_view(session, found)


def keep(actor: Actor, run_id: int) -> RunView:
    """The specimen counts. Raises Conflict unless it is waiting to be looked at."""
    actor.must("test")
    with transaction() as session:
        found = run_or_refuse(session, run_id)
        job = refuse_released(session, found.specimen.test.job_id)
        session.refresh(found)
        _refuse_settled(found)
        found.state, found.busy_specimen_id = "settled", None
        record(
            session,
            person_id=actor.id,
            action="keep",
            entity="run",
            entity_id=found.id,
            job_id=job.id,
            words=f"{actor.name} kept {found.specimen.label}",
        )
        return _run_view(session, found)


def refuse_unfit(specimen: Specimen, now: datetime) -> None:
    """Raises Conflict unless this specimen is to be tested now."""
    state = state_of(specimen, now)
    words = {
        "to-cut": "is not cut yet",
        "running": "is running already",
        "to-look-at": "was pulled already; keep or void it first",
        "tested": "was tested already; a specimen is pulled once",
        "void": "is void; its replacement is tested in its place",
    }
    if state in words:
        raise Conflict(f"{specimen.code} {words[state]}")
    named_by_document = find_method(specimen.test.method).planned == "by-document"
    if named_by_document:
        return
    if specimen.id not in {one.id for one in called_specimens(specimen.test)}:
        raise Conflict(f"{specimen.code} is a spare; a void calls for it, and none does")


def end_stay(specimen: Specimen, now: datetime) -> None:
    """The specimen has left its enclosure."""
    stay = open_stay(specimen)
    if stay is not None:
        stay.taken_at, stay.open_for = now, None


def _instrument_facts(station: Station) -> dict[str, Any]:
    instrument = station.instrument
    return {
        "station": station.name,
        "simulated": station.simulated,
        "name": instrument.name,
        "serial": instrument.serial,
        "capacity_n": instrument.capacity_n,
        "certificate": instrument.certificate,
        "calibrated_at": instrument.calibrated_at.isoformat(),
        "calibration_due_at": instrument.calibration_due_at.isoformat(),
    }


def deviations(
    specimen: Specimen, station: Station | None, now: datetime, words: str | None
) -> list[dict[str, str]]:
    """Departures from the rules that this run is made with; each needs the person's word.

    Raises Conflict that says what would deviate when no word is given.
    """
    found = departures(specimen, now)
    if station is not None and station.instrument.calibration_due_at < now:
        found.append(
            (
                "calibration-overdue",
                f"the calibration of {station.instrument.name} {station.instrument.serial} "
                f"was due on {station.instrument.calibration_due_at:%d %b %Y}",
            )
        )
    given = (words or "").strip()
    if found and not given:
        raise Conflict(
            f"{'; '.join(says for _, says in found)}. "
            "Wait, or go on with a deviation: say why, and the report will say it too"
        )
    return [{"code": code, "says": says, "why": given} for code, says in found]


def _refuse_settled(found: Run) -> None:
    if found.state == "running":
        raise Conflict(f"{found.specimen.code} is still running")
    if found.state == "settled":
        void_now = standing_void(found.specimen)
        who = f"voided by {void_now.by.name}" if void_now else "kept"
        raise Conflict(f"{found.specimen.code} was {who} already")


def _run_view(session: Session, found: Run) -> RunView:
    result = None
    if found.raw is not None or found.entry is not None:
        whole = test_result(found.specimen.test)
        if whole is not None:
            plain = whole.as_json()["specimens"]
            result = next((one for one in plain if one["label"] == found.specimen.label), None)
    return RunView(
        id=found.id,
        specimen_id=found.specimen_id,
        specimen_label=found.specimen.label,
        state=found.state,
        line=found.line,
        line_says=found.line_says,
        samples=found.samples,
        stop_wanted=found.stop_wanted,
        started_at=found.started_at,
        ended_at=found.ended_at,
        end_reason=found.end_reason,
        by=found.by.name,
        source_name=found.source_name,
        said=found.source_said,
        sha256=found.sha256,
        settings=found.settings,
        curves=_curves(session, found),
        result=result,
    )


def _curves(session: Session, found: Run) -> list[CurveView]:
    """What there is to draw of a run."""
    if found.entry is not None:
        curves = curves_of(unpack_entry(found.entry))
    else:
        table = stored_table(session, found)
        curves = [force_curve(table[:, 1], table[:, 2])]
    drawn = []
    for curve in curves:
        x, y = thin(curve.x, curve.y, POINTS_TO_DRAW)
        drawn.append(CurveView(**{**vars(curve), "x": x.tolist(), "y": y.tolist()}))
    return drawn


def export_document(test_id: int) -> dict[str, Any]:
    """The test document of a test with its raw traces, as `endurant analyse` reads it."""
    with transaction() as session:
        return document_of(test_or_refuse(session, test_id))
