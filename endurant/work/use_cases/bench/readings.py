"""Readings that are brought in as a document or a file, or typed, for any method."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from pydantic import Field
from sqlalchemy.orm import Session

from endurant.core.decimal_commas import with_figures
from endurant.core.document import TestDocument, kept_form, read_document
from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.refusals import Invalid
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.samples import pack_entry
from endurant.store.tables import Run, Specimen, Test
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.facts.models import TestView
from endurant.work.facts.results import test_result
from endurant.work.facts.status import refuse_released, test_or_refuse
from endurant.work.facts.test_settings import missing_set_up, set_up_names
from endurant.work.facts.test_status import test_view
from endurant.work.use_cases.amending.setting_up import change_set_up
from endurant.work.use_cases.bench.runs import brought_in_with, end_period, refuse_unfit
from endurant.work.use_cases.bench.uploads import Brought, Source, read_upload, use_upload
from endurant.work.use_cases.people.staff import refuse_unauthorised

MAX_LABEL = 16


class ReadingsRequest(RequestBody):
    """A test document that was typed, or the upload whose files are to be imported.

    The method and the parameters of a document may be left out. `instrument` is the serial number
    of what it was read off.
    """

    document: dict[str, Any] | None = None
    upload_id: int | None = Field(None, ge=1)
    instrument: str = Field("", max_length=40)
    deviation: str | None = Field(None, max_length=300)


def bring_in_readings(actor: Actor, test_id: int, request: ReadingsRequest) -> TestView:
    """Take the readings of specimens; all of them or, when one is refused, none.

    Raises Invalid, and Conflict for a specimen that is not to be tested now.
    """
    actor.must("test")
    if (request.document is None) == (request.upload_id is None):
        raise Invalid("import.nothing-given")
    brought = (
        Brought(request.document or {})
        if request.upload_id is None
        else read_upload(actor, test_id, request.upload_id)
    )
    return import_document(actor, test_id, brought, request)


def import_document(
    actor: Actor, test_id: int, brought: Brought, request: ReadingsRequest
) -> TestView:
    """Take the readings of a document; all of them or, when one is refused, none."""
    now = clock.now()
    with transaction() as session:
        test = test_or_refuse(session, test_id)
        job = refuse_released(session, test.job_id)
        session.refresh(test)
        refuse_unauthorised(session, actor, test.method)
        if request.upload_id is not None:
            use_upload(session, actor, test_id, request.upload_id)
        plain = _with_figures(test, brought.document)
        document = _validated(session, actor, test, plain)
        entries = plain["specimens"]
        specimens = {specimen.label: specimen for specimen in test.specimens}
        for entry, reading in zip(entries, document.readings, strict=True):
            specimen = specimens.get(entry["label"]) or _named_by_document(session, test, entry)
            _refuse_other_direction(specimen, entry)
            refuse_unfit(specimen, now)
            source = brought.sources.get(entry["label"])
            kept = kept_form(reading, entry)
            specimen.runs.append(_run(session, actor, specimen, kept, source, request, now))
            end_period(specimen, now)
        session.flush()
        test_result(test)
        labels = [entry["label"] for entry in entries]
        files = {source.name: source.sha256 for source in brought.sources.values()}
        about = {"actor": actor.name, "labels": labels}
        record(
            session,
            person_id=actor.id,
            action="bring-in",
            entity="test",
            entity_id=test.id,
            job_id=job.id,
            message=Message("audit.import-files", {**about, "files": list(files)})
            if files
            else Message("audit.type-readings", about),
            after={"specimens": labels, "files": files},
        )
        return test_view(session, test)


def _run(
    session: Session,
    actor: Actor,
    specimen: Specimen,
    kept: dict[str, Any],
    source: Source | None,
    request: ReadingsRequest,
    now: datetime,
) -> Run:
    """The run that holds the validated readings of one specimen."""
    packed, sha256 = pack_entry(kept)
    settings, instrument_id = brought_in_with(
        session, actor, specimen, request.instrument, now, request.deviation
    )
    return Run(
        state="ended",
        busy_specimen_id=specimen.id,
        instrument_id=instrument_id,
        settings=settings.model_dump(mode="json"),
        checks=[],
        source_name=None if source is None else source.name,
        source_sha256=None if source is None else source.sha256,
        source_notes=[] if source is None else list(source.said),
        started_at=now,
        ended_at=now,
        end_reason="typed" if source is None else "imported from a file",
        by_id=actor.id,
        samples=_samples_in(kept),
        entry=packed,
        sha256=sha256,
    )


def _with_figures(test: Test, document: dict[str, Any]) -> dict[str, Any]:
    """The document with figures that came as text, such as "24,5", as numbers."""
    method = find_method(test.method)
    entries = document.get("specimens")
    read = dict(document)
    if isinstance(entries, list):
        read["specimens"] = [with_figures(method.readings, entry) for entry in entries]
    if "parameters" in document:
        read["parameters"] = with_figures(method.parameters, document["parameters"])
    return read


def _validated(
    session: Session, actor: Actor, test: Test, document: dict[str, Any]
) -> TestDocument:
    """Read a document that has to fit the test; raises Invalid.

    Set-up of the bench that the document brings becomes the test's, until a specimen counts.
    """
    given = document.get("method", test.method)
    if given != test.method:
        raise Invalid("import.other-method", given=str(given), method=test.method, field="method")
    parameters = document.get("parameters", {})
    if not isinstance(parameters, dict):
        raise Invalid("import.parameters-shape", field="parameters")
    bench = set_up_names(find_method(test.method))
    brought = {
        name: value
        for name, value in parameters.items()
        if name in bench and value != test.parameters.get(name)
    }
    for name, value in parameters.items():
        if name in brought:
            continue
        if name in test.parameters and value != test.parameters[name]:
            raise Invalid(
                "import.parameter-differs",
                name=name,
                given=str(value),
                expected=str(test.parameters[name]),
                field=name,
            )
    entries = document.get("specimens")
    if brought:
        change_set_up(session, actor, test, brought, "the imported document")
    for name in missing_set_up(test):
        raise Invalid("import.set-up-missing", name=name, field=name)
    return read_document(
        {
            **document,
            "method": test.method,
            "parameters": {**parameters, **test.parameters},
            "specimens": _with_sizes(test, entries),
        }
    )


def _with_sizes(test: Test, entries: Any) -> Any:
    """The specimens of a document with the sizes that were measured here, where it has none."""
    if not isinstance(entries, list):
        return entries
    sizes = {
        specimen.label: specimen.dimensions for specimen in test.specimens if specimen.dimensions
    }
    return [
        {"dimensions": sizes[entry["label"]]} | entry
        if isinstance(entry, dict)
        and isinstance(entry.get("label"), str)
        and entry["label"] in sizes
        else entry
        for entry in entries
    ]


def _named_by_document(session: Session, test: Test, entry: dict[str, Any]) -> Specimen:
    """A new specimen, where the document names them; raises Invalid where they are planned."""
    label = entry["label"]
    method = find_method(test.method)
    if method.planned != "by-document":
        known = ", ".join(specimen.label for specimen in test.specimens)
        raise Invalid(
            "import.label-unknown", label=label, known=known, field="label", specimen=label
        )
    twin = next(
        (specimen for specimen in test.specimens if specimen.label.upper() == label.upper()), None
    )
    if twin is not None:
        raise Invalid(
            "import.label-by-capitals", label=label, known=twin.label, field="label", specimen=label
        )
    if len(label) > MAX_LABEL:
        raise Invalid(
            "import.label-too-long",
            label=label,
            count=len(label),
            max=MAX_LABEL,
            field="label",
            specimen=label,
        )
    place = test.job.tests.index(test) + 1
    specimen = Specimen(
        code=f"{test.job.number}-{place}-{label}".upper(),
        label=label,
        direction=entry.get("direction") or "",
        long_side="warp",
        position=len(test.specimens) + 1,
        spare=False,
    )
    test.specimens.append(specimen)
    session.flush()
    return specimen


def _refuse_other_direction(specimen: Specimen, entry: dict[str, Any]) -> None:
    given = entry.get("direction")
    if given is not None and given != specimen.direction:
        own = specimen.direction or "none"
        raise Invalid(
            "import.other-direction",
            label=specimen.label,
            given=given,
            own=own,
            field="direction",
            specimen=specimen.label,
        )


def _samples_in(entry: dict[str, Any]) -> int:
    """Samples of the longest trace of the readings; 0 without one."""
    columns = [
        column
        for trace in entry.values()
        if isinstance(trace, dict)
        for column in trace.values()
        if isinstance(column, list)
    ]
    return max((len(column) for column in columns), default=0)
