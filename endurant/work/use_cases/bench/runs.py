"""Runs: started at a station or brought in as a file, then kept."""

from __future__ import annotations

import secrets
from collections.abc import Mapping
from datetime import datetime
from typing import Any

import numpy as np
from sqlalchemy.orm import Session, object_session

from endurant.core.bench.procedures import procedure_of
from endurant.core.bench.recorded import recorded_entry
from endurant.core.columns import as_lists
from endurant.core.csv_trace import read_trace_csv
from endurant.core.departures import in_sentences
from endurant.core.document import read_specimen
from endurant.core.drawn import curves_of
from endurant.core.messages import Message, worded
from endurant.core.methods import find_method
from endurant.core.methods.guide import FrameGuide
from endurant.core.refusals import Conflict, NeedsReason
from endurant.core.trace import Samples, thin
from endurant.core.workbooks import is_workbook, recorded_sheets
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.samples import FRAME_CHANNELS, pack, sha256, unpack_entry
from endurant.store.tables import Person, Recording, Run, Specimen, Station
from endurant.work.base.actors import Actor
from endurant.work.base.memory import Remembered
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.bench_events import aims_for, events_of
from endurant.work.facts.called_specimens import called_specimens
from endurant.work.facts.conditioning_progress import conditioning_facts, departures
from endurant.work.facts.instrument_status import refuse_out
from endurant.work.facts.models import CurveView, SpecimenState
from endurant.work.facts.readiness import departures_at
from endurant.work.facts.results import (
    document_of,
    test_result,
    trace_columns,
)
from endurant.work.facts.run_facts import (
    DeviationFacts,
    GaugeFacts,
    InstrumentFacts,
    RunSettings,
    SupervisorFacts,
    deviation_of,
)
from endurant.work.facts.set_up_at_station import limits_of
from endurant.work.facts.station_air import out_of_enclosure, room_at
from endurant.work.facts.status import (
    open_period,
    open_void,
    refuse_released,
    specimen_or_refuse,
    state_of,
    test_or_refuse,
)
from endurant.work.use_cases.amending.setting_up import remember_set_up
from endurant.work.use_cases.bench.live import (
    POINTS_TO_DRAW,
    channels_of,
    close_run,
    delete_pieces,
    drawn_columns,
    run_or_refuse,
    stored_table,
)
from endurant.work.use_cases.bench.uploads import keep_source
from endurant.work.use_cases.instruments.consumables import use_up
from endurant.work.use_cases.instruments.equipment import owned_or_refuse
from endurant.work.use_cases.people.staff import refuse_unauthorised


class RunView(View):
    """A run with as much of its trace as is drawn, and what was read from it."""

    id: int
    specimen_id: int
    specimen_label: str
    state: str
    line: str
    line_message: str
    samples: int
    stop_requested: bool
    started_at: datetime
    ended_at: datetime | None
    end_reason: str | None
    by: str
    source_name: str | None
    said: list[str]
    sha256: str | None
    settings: RunSettings
    curves: list[CurveView]
    result: dict[str, Any] | None


def station_run(
    session: Session,
    actor: Actor,
    specimen: Specimen,
    station: Station,
    now: datetime,
    reasons: Mapping[str, str],
) -> Run:
    """A run of a specimen at a station that begins now, with everything that it is made under."""
    return Run(
        specimen=specimen,
        station_id=station.id,
        instrument_id=station.instrument_id,
        device_run=f"R{secrets.token_hex(6)}",
        busy_station_id=station.id,
        busy_specimen_id=specimen.id,
        state="running",
        settings=settings_at(session, actor, specimen, station, now, reasons).model_dump(
            mode="json"
        ),
        checks=[],
        source_notes=[],
        started_at=now,
        by_id=actor.id,
        samples=0,
    )


def settings_at(
    session: Session,
    actor: Actor,
    specimen: Specimen,
    station: Station | None,
    now: datetime,
    reasons: Mapping[str, str],
    worn: int = 1,
) -> RunSettings:
    """Everything that a run at this station, or by hand, is made under; what it wears is counted.

    `reasons` were given for deviations before the specimen was clamped, by their codes.
    """
    test = specimen.test
    method = find_method(test.method)
    aims = aims_for(specimen, events_of(session, specimen.id))
    setup = procedure_of(method).setup(method, aims)
    departed = [
        deviation_of(departure, reasons.get(departure.code))
        for departure in departures_at(session, specimen, station)
    ]
    remember_set_up(session, test, None if station is None else station.id)
    room = room_at(session, specimen, station)
    return RunSettings(
        setup={} if station is None else setup | limits_of(station, setup),
        conditioning=conditioning_facts(specimen, now),
        instrument=None if station is None else _instrument_facts(station),
        deviations=departed,
        room=room,
        out=out_of_enclosure(specimen, room, now),
        under=_supervisor(session, actor),
        supplies=use_up(session, method, None if station is None else station.id, worn),
    )


def _supervisor(session: Session, actor: Actor) -> SupervisorFacts | None:
    """Under whom a trainee tests; None for everyone else."""
    if actor.role != "trainee" or actor.supervisor_id is None:
        return None
    return SupervisorFacts(
        id=actor.supervisor_id, name=session.get_one(Person, actor.supervisor_id).name
    )


def brought_in_with(
    session: Session,
    actor: Actor,
    specimen: Specimen,
    serial: str,
    now: datetime,
    deviation: str | None,
) -> tuple[RunSettings, int | None]:
    """What readings from elsewhere are brought in under, and the id of the instrument they name.

    Raises NotFound for a serial number that nothing has, Conflict for an instrument that is out.
    """
    owned = owned_or_refuse(session, serial) if serial else None
    station = None if owned is None else owned.station
    gauge = owned.row if owned is not None and station is None else None
    if gauge is not None:
        refuse_out(session, gauge)
    settings = RunSettings(
        conditioning=conditioning_facts(specimen, now),
        instrument=None if station is None else _instrument_facts(station),
        deviations=deviations(specimen, station, now, deviation),
        under=_supervisor(session, actor),
        gauges=[]
        if gauge is None
        else [GaugeFacts(reading="", name=gauge.name, serial=gauge.serial)],
    )
    return settings, None if station is None else station.instrument_id


def bring_in(
    actor: Actor,
    specimen_id: int,
    file_name: str,
    data: bytes,
    deviation: str | None,
    instrument: str = "",
) -> RunView:
    """Take the trace of a specimen from a CSV file or a workbook; it is looked at like any run."""
    actor.must("test")
    taken = read_trace_csv(recorded_sheets(data)[0][1] if is_workbook(data) else data)
    now = clock.now()
    with transaction() as session:
        specimen = specimen_or_refuse(session, specimen_id)
        job = refuse_released(session, specimen.test.job_id)
        refuse_unauthorised(session, actor, specimen.test.method)
        refuse_unfit(specimen, now)
        columns = {name: samples.tolist() for name, samples in taken.columns.items()}
        method = find_method(specimen.test.method)
        if not isinstance(method.guide.live, FrameGuide) or method.guide.live.parts != ("trace",):
            raise Conflict("import.own-page", method=method.title)
        read_specimen(method, {"label": specimen.label, "trace": columns}, 1)
        rows = taken.columns["force_n"].size
        missing = np.full(rows, np.nan)
        table = np.column_stack([taken.columns.get(name, missing) for name in FRAME_CHANNELS])
        settings, instrument_id = brought_in_with(
            session, actor, specimen, instrument, now, deviation
        )
        source = keep_source(session, file_name, data, taken.said)
        run = Run(
            specimen=specimen,
            state="ended",
            busy_specimen_id=specimen.id,
            instrument_id=instrument_id,
            settings=settings.model_dump(mode="json"),
            checks=[],
            source_name=source.name,
            source_sha256=source.sha256,
            source_notes=taken.said,
            started_at=now,
            ended_at=now,
            end_reason=worded("run-end.imported-from-a-file"),
            by_id=actor.id,
            samples=rows,
            recording=Recording(packed=pack(table)),
            sha256=sha256(table),
        )
        session.add(run)
        end_period(specimen, now)
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="bring-in",
            entity="run",
            entity_id=run.id,
            job_id=job.id,
            message=Message(
                "audit.import-trace",
                {"actor": actor.name, "file": file_name[:80], "label": specimen.label},
            ),
            after={
                "samples": rows,
                "sha256": run.sha256,
                "said": taken.said,
                "files": {source.name: source.sha256},
            },
        )
        return run_view(session, run)


def run(run_id: int) -> RunView:
    """A run with its trace; raises NotFound."""
    with transaction() as session:
        return run_view(session, run_or_refuse(session, run_id))


class WindowView(View):
    """A part of what is drawn of a run, as fine as the eye sees it."""

    x: list[float]
    y: list[float]


_drawn: Remembered[tuple[Samples, Samples]] = Remembered(4)


def window(run_id: int, low: float, high: float) -> WindowView:
    """What is drawn of a finished run between two places of its first axis.

    The two columns of the last few runs are kept at hand. Raises NotFound.
    """
    with transaction() as session:
        row = run_or_refuse(session, run_id)
        columns = _drawn.get((row.sha256,)) if row.sha256 else None
        if columns is None:
            columns = drawn_columns(row, stored_table(session, row))
            if row.sha256:
                _drawn.put((row.sha256,), columns)
    x, y = columns
    inside = np.flatnonzero((x >= low) & (x <= high))
    if not inside.size:
        return WindowView(x=[], y=[])
    part = slice(max(int(inside[0]) - 1, 0), int(inside[-1]) + 2)
    x, y = thin(x[part], y[part], POINTS_TO_DRAW)
    return WindowView(x=x.tolist(), y=y.tolist())


def raw_csv(run_id: int) -> tuple[str, str]:
    """A file name, and the raw samples of a run as CSV text, every digit kept."""
    with transaction() as session:
        run_row = run_or_refuse(session, run_id)
        table = stored_table(session, run_row)
        code = run_row.specimen.code
        channels = channels_of(run_row)
    columns = trace_columns(table, channels)
    rows = zip(*as_lists(list(columns.values())), strict=True)
    lines = [",".join(columns), *(",".join(map(_cell, row)) for row in rows)]
    return f"{code}.csv", "\n".join(lines) + "\n"


def _cell(figure: float | None) -> str:
    """Every digit of a sample; empty where a sensor read nothing."""
    return "" if figure is None else repr(figure)


def stop(actor: Actor, run_id: int) -> RunView:
    """Ask the station to stop; the samples so far stay.

    While its line is lost, the run is closed with what is stored.
    """
    actor.must("test")
    with transaction() as session:
        run_row = run_or_refuse(session, run_id, lock=True)
        if run_row.state != "running":
            raise Conflict("run.ended", code=run_row.specimen.code)
        run_row.stop_requested = True
        if run_row.line == "lost":
            close_run(session, run_row, worded("run-end.closed-by-the-operator-while-the"))
        record(
            session,
            person_id=actor.id,
            action="stop-run",
            entity="run",
            entity_id=run_row.id,
            job_id=run_row.specimen.test.job_id,
            message=Message(
                "audit.stop-run", {"actor": actor.name, "label": run_row.specimen.label}
            ),
        )
        view = run_view(session, run_row)
    delete_pieces(run_id)
    return view


CANNOT_BE_TESTED: dict[SpecimenState, str] = {
    "to-cut": "specimen.not-cut",
    "running": "specimen.running-already",
    "to-look-at": "specimen.not-decided",
    "tested": "specimen.already-tested",
    "void": "specimen.void",
}
"""The refusal of a test by the state of its specimen."""


def refuse_unfit(specimen: Specimen, now: datetime) -> None:
    """Raises Conflict unless this specimen is to be tested now."""
    state = state_of(specimen, now)
    if state in CANNOT_BE_TESTED:
        raise Conflict(CANNOT_BE_TESTED[state], code=specimen.code)
    method = find_method(specimen.test.method)
    if method.planned == "by-document" or method.guide.calls is not None:
        return
    if specimen.id not in {
        called_specimen.id for called_specimen in called_specimens(specimen.test)
    }:
        raise Conflict("specimen.spare", code=specimen.code)


def end_period(specimen: Specimen, now: datetime) -> None:
    """The specimen has left its enclosure."""
    period = open_period(specimen)
    if period is not None:
        period.removed_at, period.open_for = now, None


def _instrument_facts(station: Station) -> InstrumentFacts:
    instrument = station.instrument
    return InstrumentFacts(
        station=station.name,
        simulated=station.simulated,
        name=instrument.name,
        serial=instrument.serial,
        capacity_n=instrument.capacity_n,
        certificate=instrument.certificate,
        calibrated_at=instrument.calibrated_at,
        calibration_due_at=instrument.calibration_due_at,
    )


def deviations(
    specimen: Specimen, station: Station | None, now: datetime, text: str | None
) -> list[DeviationFacts]:
    """Departures from the rules of readings that are imported; each needs a reason.

    Raises NeedsReason that says what would deviate when none is given.
    """
    departed = departures(specimen, now)
    session = object_session(specimen)
    if station is not None and session is not None:
        departed += refuse_out(session, station.instrument)
    given = (text or "").strip()
    if departed and not given:
        raise NeedsReason(
            "bench.departed-wait", departures=in_sentences(departed), specimen=specimen.label
        )
    return [deviation_of(departure, given) for departure in departed]


def refuse_settled(run: Run) -> None:
    """Raises Conflict for a run that is not waiting to be looked at."""
    if run.state == "running":
        raise Conflict("run.still-running", code=run.specimen.code)
    if run.state == "recorded":
        raise Conflict("run.not-complete", code=run.specimen.code)
    if run.state == "settled":
        void_now = open_void(run.specimen)
        if void_now:
            raise Conflict("specimen.voided", code=run.specimen.code, by=void_now.by.name)
        raise Conflict("specimen.accepted", code=run.specimen.code)


def run_view(session: Session, run: Run) -> RunView:
    """A run as a page shows it."""
    result = None
    if run.entry is not None or run.raw is not None:
        whole = test_result(run.specimen.test)
        if whole is not None:
            plain = whole.as_json()["specimens"]
            result = next(
                (specimen for specimen in plain if specimen["label"] == run.specimen.label), None
            )
    return RunView(
        id=run.id,
        specimen_id=run.specimen_id,
        specimen_label=run.specimen.label,
        state=run.state,
        line=run.line,
        line_message=run.line_message,
        samples=run.samples,
        stop_requested=run.stop_requested,
        started_at=run.started_at,
        ended_at=run.ended_at,
        end_reason=run.end_reason,
        by=run.by.name,
        source_name=run.source_name,
        said=run.source_notes,
        sha256=run.sha256,
        settings=RunSettings.model_validate(run.settings),
        curves=_curves(session, run),
        result=result,
    )


def _curves(session: Session, run: Run) -> list[CurveView]:
    """What there is to draw of a run."""
    if run.entry is not None:
        curves = curves_of(unpack_entry(run.entry))
    else:
        table = stored_table(session, run)
        columns = trace_columns(table, channels_of(run))
        method = find_method(run.specimen.test.method)
        curves = curves_of(recorded_entry(method, columns))
    drawn = []
    for curve in curves:
        x, y = thin(curve.x, curve.y, POINTS_TO_DRAW)
        drawn.append(CurveView(**{**vars(curve), "x": x.tolist(), "y": y.tolist()}))
    return drawn


def export_document(test_id: int) -> dict[str, Any]:
    """The test document of a test with its raw traces, as `endurant analyse` reads it."""
    with transaction() as session:
        return as_lists(document_of(test_or_refuse(session, test_id)))
