"""From stored samples to figures. Nothing here changes the record."""

from __future__ import annotations

import hashlib
import json
import logging
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from pydantic import (
    TypeAdapter,
    ValidationError,
)
from sqlalchemy import select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session, object_session, undefer
from sqlalchemy.orm.attributes import set_committed_value

import endurant
from endurant.core.bench.recorded import recorded_entry
from endurant.core.document import (
    ResultDocument,
    TestDocument,
    analyse,
    read_parameters,
    read_specimen,
)
from endurant.core.messages import worded
from endurant.core.methods import find_method
from endurant.core.methods.results import SpecimenResult
from endurant.core.refusals import Invalid, Refusal
from endurant.core.trace import Samples
from endurant.store.cards import keeps_cards
from endurant.store.samples import FRAME_CHANNELS, Table, unpack, unpack_entry
from endurant.store.tables import Recording, Run, Specimen, Test, TestCard
from endurant.work.base.memory import Remembered
from endurant.work.base.read_scope import once
from endurant.work.facts.status import last_run, open_void

_log = logging.getLogger(__name__)


MAX_TROUBLE = 400
Figures = tuple[ResultDocument | None, str | None]

_RESULT = TypeAdapter(ResultDocument)
_remembered: Remembered[ResultDocument] = Remembered(16)
_figures: Remembered[Figures] = Remembered(200)
_readings: Remembered[Any] = Remembered(120)
"""Validated readings by what they are made from; a long trace takes almost a megabyte."""


FINISHED = ("ended", "settled")
MAY_END = ("strain",)


def trace_columns(table: Table, channels: Sequence[str] | None = None) -> dict[str, Samples]:
    """The columns of a stored run, each of shape (samples,); a column with gaps is absent.

    Strain is NaN once its extensometer is off.
    """
    named = enumerate(channels or FRAME_CHANNELS)
    columns = {name: np.ascontiguousarray(table[:, place]) for place, name in named}
    return {
        name: column
        for name, column in columns.items()
        if name in MAY_END or np.isfinite(column).all()
    }


def columns_of(run: Run) -> dict[str, Samples] | None:
    """The columns of what was recorded; None where nothing was."""
    if run.raw is None:
        return None
    channels = run.channels or list(FRAME_CHANNELS)
    return trace_columns(unpack(run.raw, len(channels)), channels)


def finished_run(specimen: Specimen) -> Run | None:
    """The run whose samples are complete, kept or still to be looked at."""
    run = last_run(specimen)
    return run if run is not None and run.state in FINISHED else None


def document_of(test: Test) -> dict[str, Any]:
    """The test document of all specimens with readings, in the order they are placed."""
    runs = runs_of(test)
    _load_raw_data(object_session(test), [run.id for _, run in runs])
    return _document(test, [_entry_of(specimen, run) for specimen, run in runs])


def _load_raw_data(session: Session | None, run_ids: list[int]) -> None:
    """Read what is stored of these runs at once, rather than run by run."""
    if session is not None and run_ids:
        whole = select(Run).where(Run.id.in_(run_ids)).options(undefer(Run.entry))
        runs = session.scalars(whole).all()
        recordings = session.scalars(select(Recording).where(Recording.run_id.in_(run_ids)))
        kept = {(recording.run_id, recording.sha256): recording for recording in recordings}
        for run in runs:
            set_committed_value(run, "recording", kept.get((run.id, run.sha256 or "")))


def document_by_reference(test: Test) -> dict[str, Any]:
    """The same without raw data: each specimen names its run and the hash of what is stored."""
    entries = []
    for specimen, run in runs_of(test):
        entry = {"label": specimen.label} | own_facts(specimen)
        void = open_void(specimen)
        entry["observations"] = [void.code] if void else []
        entry["run"] = {"id": run.id, "sha256": run.sha256}
        entries.append(entry)
    return _document(test, entries)


def with_raw_data(session: Session, document: dict[str, Any]) -> dict[str, Any]:
    """A document by reference with the readings that it names; raises Invalid for others."""
    entries = []
    named_runs = [entry["run"]["id"] for entry in document["specimens"] if "run" in entry]
    _load_raw_data(session, named_runs)
    for entry in document["specimens"]:
        named = entry.get("run")
        if named is None:
            entries.append(entry)
            continue
        run = session.get(Run, named["id"])
        if run is None or run.sha256 != named["sha256"]:
            raise Invalid("record.raw-data-differs", specimen_label=entry["label"])
        known = {name: value for name, value in entry.items() if name != "run"}
        entries.append(_with_readings(known, run))
    return document | {"specimens": entries}


def _document(test: Test, entries: list[dict[str, Any]]) -> dict[str, Any]:
    return {"method": test.method, "parameters": test.parameters, "specimens": entries}


def runs_of(test: Test) -> list[tuple[Specimen, Run]]:
    """The specimens that were tested, each with the run that its readings come from."""
    return [
        (specimen, run)
        for specimen in test.specimens
        if (run := finished_run(specimen)) is not None and run.sha256 is not None
    ]


def _entry_of(specimen: Specimen, run: Run) -> dict[str, Any]:
    void = open_void(specimen)
    entry: dict[str, Any] = {"label": specimen.label} | own_facts(specimen)
    return _with_readings(entry | {"observations": [void.code] if void else []}, run)


def _with_readings(entry: dict[str, Any], run: Run) -> dict[str, Any]:
    """An entry with the readings or samples of its run; what was seen then and later is joined."""
    seen = entry["observations"]
    if run.entry is not None:
        entry = entry | unpack_entry(run.entry)
    elif run.raw is not None:
        columns = columns_of(run) or {}
        method = find_method(run.specimen.test.method)
        entry = entry | recorded_entry(method, columns) | (run.other_readings or {})
    at_the_bench = entry["observations"] if run.entry is not None else []
    return entry | {"observations": list(dict.fromkeys([*at_the_bench, *noted(run), *seen]))}


def own_facts(specimen: Specimen) -> dict[str, Any]:
    """What a document of this specimen says unless its readings say otherwise."""
    facts: dict[str, Any] = {}
    if specimen.direction:
        facts["direction"] = specimen.direction
    if specimen.test.state != "original":
        facts["state"] = specimen.test.state
    for name, parameter in find_method(specimen.test.method).guide.given.items():
        facts[name] = specimen.test.parameters.get(parameter)
    if specimen.dimensions:
        facts["dimensions"] = dict(specimen.dimensions)
    return facts


def test_result(test: Test) -> ResultDocument | None:
    """Everything computed from what has been tested so far, with working and marks.

    None when nothing has been. It reads every sample of the test: only who draws or opens a
    figure asks for it; others take `test_figures`.
    """
    key = result_key(test)
    if key is None:
        return None
    result = _remembered.get((key,))
    if result is None:
        result = analyse(validated_document(test))
        _remembered.put((key,), result)
    return result


def validated_document(test: Test) -> TestDocument:
    """The test as its method reads it. The readings of a run are validated once, then kept.

    Raises Invalid.
    """
    return _validated(test, runs_of(test))


def validated_alone(specimen: Specimen, run: Run) -> TestDocument:
    """The test of one specimen alone; the raw data of the others stays unread. Raises Invalid."""
    return _validated(specimen.test, [(specimen, run)])


def _validated(test: Test, runs: Sequence[tuple[Specimen, Run]]) -> TestDocument:
    keys = [(test.method, *_depends_on(specimen, run)) for specimen, run in runs]
    unread = [run.id for (_, run), key in zip(runs, keys, strict=True) if not _readings.get(key)]
    _load_raw_data(object_session(test), unread)
    method = find_method(test.method)
    readings = []
    for place, ((specimen, run), key) in enumerate(zip(runs, keys, strict=True), start=1):
        reading = _readings.get(key)
        if reading is None:
            reading = read_specimen(method, _entry_of(specimen, run), place)
            _readings.put(key, reading)
        readings.append(reading)
    return TestDocument(method, read_parameters(method, test.parameters), readings)


def _depends_on(specimen: Specimen, run: Run) -> tuple[str, ...]:
    """What the readings of a run are made from, besides its method."""
    facts = [_void_code(specimen), own_facts(specimen), run.other_readings or {}, run.channels]
    return specimen.label, str(run.sha256), json.dumps(facts, sort_keys=True)


def result_key(test: Test) -> str | None:
    """SHA-256 over everything that the figures of a test depend on; None before there are any."""
    runs = runs_of(test)
    if not runs:
        return None
    facts = [
        endurant.__version__,
        test.id,
        test.method,
        test.parameters,
        *(
            (
                specimen.label,
                run.sha256,
                _void_code(specimen),
                own_facts(specimen),
                *([run.other_readings] if run.other_readings else []),
            )
            for specimen, run in runs
        ),
    ]
    return hashlib.sha256(json.dumps(facts, sort_keys=True).encode()).hexdigest()


def test_figures(test: Test) -> tuple[ResultDocument | None, str | None]:
    """What a test gives so far without working and marks, or why it cannot be computed.

    A record that cannot be computed does not hide the others: whatever goes wrong is logged with
    the test that it belongs to, and said where the test is shown.
    """
    return once(object_session(test), ("figures", test.id), lambda: _figures_now(test))


def _figures_now(test: Test) -> Figures:
    key = result_key(test)
    if key is None:
        return None, None
    session = object_session(test)
    known = _figures.get((key,))
    if known is None or (session is not None and keeps_cards(session)):
        card = None if session is None else session.get(TestCard, test.id)
        is_stored = card is not None and card.key == key
        if known is None:
            known = _read_card(card) if card is not None and is_stored else None
            is_stored = known is not None
            known = known or _computed_figures(test)
            _figures.put((key,), known)
        if session is not None and keeps_cards(session) and not is_stored:
            _write_card(session, test.id, key, known)
    return known


def _read_card(card: TestCard) -> Figures | None:
    """The figures on a card; None for a card that another release wrote in its own form."""
    if card.figures is None:
        return None, card.problem
    try:
        return _RESULT.validate_json(card.figures), None
    except ValidationError:
        _log.info("the card of test %s has another form and is computed again", card.test_id)
        return None


def _write_card(session: Session, test_id: int, key: str, figures: Figures) -> None:
    result, problem = figures
    row = insert(TestCard).values(
        test_id=test_id,
        key=key,
        figures=None if result is None else _RESULT.dump_json(result).decode(),
        problem=problem,
    )
    session.execute(
        row.on_duplicate_key_update(
            key=row.inserted.key, figures=row.inserted.figures, problem=row.inserted.problem
        )
    )


def _computed_figures(test: Test) -> Figures:
    try:
        result = test_result(test)
    except Refusal as refusal:
        return None, refusal.sentence[:MAX_TROUBLE]
    except Exception:
        _log.exception("the figures of test %s cannot be computed", test.id)
        return None, worded("results.not-computed")
    return (None if result is None else without_working(result)), None


def without_working(result: ResultDocument) -> ResultDocument:
    """The figures and flags alone: what lists, rows and verdicts are made of."""
    return replace(
        result,
        specimens=[replace(specimen, working=[], marks=[]) for specimen in result.specimens],
    )


def voided_by_analysis(test: Test) -> set[str]:
    """Labels of specimens that were kept and that the analysis says do not count.

    A pilot is one of them: another is pulled in its place.
    """
    result, _ = test_figures(test)
    settled = settled_results(test, result)
    return {
        specimen.label
        for specimen in settled
        if (not specimen.valid or specimen.has_flag("pilot"))
        and specimen.label not in _voided(test)
    }


def _voided(test: Test) -> set[str]:
    return {specimen.label for specimen in test.specimens if open_void(specimen) is not None}


def settled_results(test: Test, result: ResultDocument | None) -> list[SpecimenResult]:
    """The results of specimens that were kept or voided.

    A specimen that was pulled but not yet kept is drawn and counted in no figure.
    """
    settled = {
        specimen.label
        for specimen in test.specimens
        if (run := last_run(specimen)) is not None and run.state == "settled"
    }
    return [
        specimen for specimen in (result.specimens if result else []) if specimen.label in settled
    ]


def _void_code(specimen: Specimen) -> str | None:
    void = open_void(specimen)
    return void.code if void else None


def noted(run: Run) -> list[str]:
    """What was noted of a run after it."""
    return [str(code) for code in (run.other_readings or {}).get("observations", [])]


def noted_of(specimen: Specimen) -> list[str]:
    """What was noted of a specimen; nothing before it was tested."""
    run = last_run(specimen)
    return [] if run is None else noted(run)
