"""What a report says, gathered from the record."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Sequence
from typing import Any

from pydantic.fields import FieldInfo
from pydantic_core import PydanticUndefined
from sqlalchemy import select
from sqlalchemy.orm import Session, object_session

from endurant.core.bench.cuts import CHARGING, PREHEAT, TOTAL
from endurant.core.conditioning.atmospheres import atmosphere_in_words
from endurant.core.conditioning.chains import stage_in_words
from endurant.core.field_names import title_and_unit
from endurant.core.judging.verdicts import report_verdict
from endurant.core.lab_tables import atmosphere_by
from endurant.core.labelled import labels_in_words
from endurant.core.messages import worded
from endurant.core.methods import find_method
from endurant.core.methods.method import Method
from endurant.core.refusals import Conflict, Refusal
from endurant.store import clock
from endurant.store.audit import head_of
from endurant.store.clients import Client
from endurant.store.equipment import Photo
from endurant.store.tables import Job, Specimen, Test
from endurant.work.base.actors import Actor
from endurant.work.base.clock_set import clock_set_between
from endurant.work.facts.bench_history import Happened, at_bench, events_of_job
from endurant.work.facts.conditioning_progress import stages_for, usual_stages
from endurant.work.facts.job_status import arrived_in_words
from endurant.work.facts.laboratory import (
    comparison_for,
    laboratory,
    rounding_for,
    tables_for,
    writing_for,
)
from endurant.work.facts.models import SpecimenView, TestView
from endurant.work.facts.results import (
    document_by_reference,
    finished_run,
    runs_of,
    test_figures,
    test_result,
    with_raw_data,
)
from endurant.work.facts.run_facts import CheckFacts, RunSettings
from endurant.work.use_cases.photographs.photos import reported_photos
from endurant.work.use_cases.preparation.windows import missed_windows
from endurant.work.use_cases.reporting.changes_after_test import (
    ChangeLine,
    EarlierReport,
    changes_after_first_run,
    changes_since,
    in_a_sentence,
)
from endurant.work.use_cases.reporting.doubts import affected_text, not_for_sale, retest_text
from endurant.work.use_cases.reporting.models import (
    ParameterLine,
    ReportContent,
    ReportedPhoto,
    ReportedRun,
    ReportedTest,
)
from endurant.work.use_cases.review.second_person import tester_names
from endurant.work.use_cases.review.supervision import supervision_text
from endurant.work.views.clients import paper_of
from endurant.work.views.job_page import dropped_in_words, job_view
from endurant.work.views.sheet_drawing import crossings_on, placements_of


def with_working(job: Job, content: ReportContent) -> ReportContent:
    """The same report with the working and the marks of every figure, computed from the samples.

    Raises Conflict where they cannot be computed.
    """
    tests = []
    for test, reported in zip(job.tests, content.tests, strict=True):
        try:
            result = test_result(test)
        except Refusal as refusal:
            raise Conflict(
                "report.test-not-computed", test=reported.view.title, reason=refusal.sentence
            ) from refusal
        tests.append(reported.model_copy(update={"result": result.as_json() if result else {}}))
    return content.model_copy(update={"tests": tests})


def with_samples(session: Session, content: ReportContent) -> ReportContent:
    """The same report with the raw data that its documents name, for whoever draws it."""
    return content.model_copy(
        update={
            "tests": [
                reported.model_copy(
                    update={
                        "document": with_raw_data(session, reported.document),
                        "photos": [_with_bytes(session, photo) for photo in reported.photos],
                    }
                )
                for reported in content.tests
            ]
        }
    )


def _with_bytes(session: Session, photo: ReportedPhoto) -> ReportedPhoto:
    kept = session.get_one(Photo, photo.sha256)
    return photo.model_copy(update={"jpeg_base64": b64encode(kept.jpeg).decode()})


def _photos(test: Test) -> list[ReportedPhoto]:
    session = object_session(test)
    shown = [] if session is None else reported_photos(session, test.id)
    return [
        ReportedPhoto(
            label=label,
            shows=", ".join(wording for wording in (use.subject, use.shows) if wording),
            sha256=use.sha256,
        )
        for label, use in shown
    ]


def content_of(session: Session, job: Job, releaser: Actor | None) -> ReportContent:
    """The report of a job as it stands; a draft without a releaser.

    Its documents name the raw data that is stored, and hold none of it.
    """
    lab = laboratory(session)
    view = job_view(session, job)
    now = clock.now()
    happened = events_of_job(session, job)
    crossings = (
        crossings_on(job, placements_of(job), lambda specimen: specimen.label)
        if job.form == "sheet"
        else {}
    )
    tests = [
        _reported_test(test, shown, happened, crossings.get(test.id, []))
        for test, shown in zip(job.tests, view.tests, strict=True)
    ]
    runs = [run for reported in tests for run in reported.runs.values()]
    placed = [
        period.placed_at
        for test in job.tests
        for specimen in test.specimens
        for period in specimen.periods
        if specimen.runs
    ]
    tested_to = max((run.at for run in runs), default=None)
    required = [row.verdict for test in view.tests for row in test.rows if row.criterion]
    latest = max((report.revision for report in job.reports), default=0)
    changes = changes_after_first_run(session, job)
    earlier = max(job.reports, key=lambda report: report.revision, default=None)
    return ReportContent(
        laboratory=lab.name,
        address=lab.address,
        written=writing_for(lab, job),
        number=f"R{job.number.removeprefix('J')}",
        revision=latest + 1,
        reason=job.correction_reason,
        draft=releaser is None,
        client=job.client,
        product=f"{job.product}, {job.variant}" if job.variant else job.product,
        lot=job.lot,
        material=job.material,
        arrival_state=job.arrival_state,
        form=job.form,
        arrived=arrived_in_words(job),
        order_number=job.order_number or "",
        client_reference=job.client_reference or "",
        paper=paper_of(session.scalar(select(Client).where(Client.name == job.client))),
        width_mm=job.width_mm,
        length_mm=job.length_mm,
        received_at=job.received_at,
        received_by=view.received_by,
        cut_at=job.cut_at,
        conditioned_from=min(placed, default=None),
        tested_from=min((run.at for run in runs), default=None),
        tested_to=tested_to,
        released_at=now if releaser else None,
        released_by=releaser.name if releaser else None,
        tested_by=tester_names(session, job),
        comparison=comparison_for(lab, job),
        rounding=rounding_for(lab, job),
        verdict=report_verdict(required),
        deviations=[
            *dropped_in_words(session, job),
            *map(in_a_sentence, changes),
            *deviations_of(tests, changes),
            *missed_windows(session, job),
            *clock_set_between(
                session, job.received_at, max((run.at for run in runs), default=now)
            ),
        ],
        corrects=None
        if earlier is None
        else EarlierReport(
            revision=earlier.revision,
            verdict=earlier.verdict,
            released_at=earlier.released_at,
        ),
        changes=[] if earlier is None else changes_since(session, job, earlier),
        record_head=head_of(session) if releaser else None,
        tests=tests,
    )


def _reported_test(
    test: Test, view: TestView, happened: Happened, crossings: list[str]
) -> ReportedTest:
    method = find_method(test.method)
    fields = method.parameters.model_fields
    runs = {
        specimen.label: reported_run
        for specimen in test.specimens
        if (reported_run := _reported_run(specimen)) is not None
    }
    instruments = {run.instrument.serial: run.instrument for run in runs.values() if run.instrument}
    result = test_figures(test)[0]
    return ReportedTest(
        view=view,
        parameters=[
            ParameterLine(
                name=name,
                value=_plain(test.parameters.get(name)),
                default=_plain(_default(method, name, field)),
                changed=not field.is_required()
                and test.parameters.get(name) != _default(method, name, field),
                description=field.description or "",
            )
            for name, field in fields.items()
        ],
        atmosphere=_preparation_text(test),
        prepared_otherwise=_prepared_otherwise(test),
        at_bench=[
            *crossings,
            *at_bench(
                test,
                happened,
                [check for run in runs.values() for check in run.checks],
                {
                    specimen.label: RunSettings.model_validate(run.settings)
                    for specimen, run in runs_of(test)
                },
            ),
        ],
        doubts=[
            *not_for_sale(result),
            *retest_text(test),
            *supervision_text(test),
            *affected_text(test),
        ],
        photos=_photos(test),
        runs=runs,
        instruments=list(instruments.values()),
        document=document_by_reference(test),
        result=result.as_json() if result else {},
    )


def _preparation_text(test: Test) -> str:
    """The chain of a test as the report names it."""
    stages = stages_for(test)
    if not stages:
        return atmosphere_in_words(None)
    if stages == usual_stages(test) and len(stages) == 1 and test.state == "original":
        return atmosphere_in_words(atmosphere_by(tables_for(test.job), stages[0].atmosphere))
    return "; ".join(stage_in_words(stage) for stage in stages)


def _prepared_otherwise(test: Test) -> list[str]:
    """What was set for this test in place of what its method asks for."""
    stages, usual = stages_for(test), usual_stages(test)
    if stages == usual:
        return []
    request = "; ".join(stage_in_words(specimen) for specimen in usual) or "nothing"
    chain = "; ".join(stage_in_words(stage) for stage in stages) or "nothing"
    return [f"{find_method(test.method).title}: prepared by {chain}; the method asks for {request}"]


def _reported_run(specimen: Specimen) -> ReportedRun | None:
    run = finished_run(specimen)
    if run is None or run.sha256 is None:
        return None
    settings = RunSettings.model_validate(run.settings)
    return ReportedRun(
        by=run.by.name,
        at=run.started_at,
        samples=run.samples,
        sha256=run.sha256,
        source_name=run.source_name,
        source_sha256=run.source_sha256,
        said=run.source_notes,
        conditioning=settings.conditioning,
        instrument=settings.instrument,
        checks=[CheckFacts.model_validate(check) for check in run.checks],
        deviations=settings.deviations,
    )


def _imported_from(test: ReportedTest) -> list[str]:
    """Each file that readings of a test came from, with the hash that it is kept by."""
    by_file: dict[tuple[str, str | None], list[str]] = {}
    for label, run in test.runs.items():
        if run.source_name is not None:
            by_file.setdefault((run.source_name, run.source_sha256), []).append(label)
    return [
        f"{', '.join(labels)}: imported from the file {name}"
        + (f" (SHA-256 {sha256[:SHOWN_OF_HASH]}…)" if sha256 else "")
        for (name, sha256), labels in by_file.items()
    ]


SHOWN_OF_HASH = 16


def _parameter_deviation(test: str, line: ParameterLine) -> str:
    """A parameter that has another value than the method gives it, in words."""
    title, unit = title_and_unit(line.name)
    value = f"{line.value} {unit}".strip()
    default = f"{line.default} {unit}".strip()
    return worded("deviation-line.parameter", test=test, name=title, value=value, default=default)


SAME_CAUSE = {
    "charged-late": f"clock-{CHARGING}",
    "preheat-out-of-window": f"clock-{PREHEAT}",
    "finished-late": f"clock-{TOTAL}",
    "ended-early": "clock-look",
}
"""Flags that say what a clock of the bench said already, with its reason: said once."""


def deviations_of(tests: list[ReportedTest], changes: Sequence[ChangeLine] = ()) -> list[str]:
    """Gathered by themselves: defaults not kept, named deviations of runs, warnings.

    What was changed after testing had begun has a sentence of its own.
    """
    said = {line.field for line in changes}
    deviations: list[str] = []
    for test in tests:
        deviations += test.doubts
        deviations += test.prepared_otherwise
        deviations += [
            _parameter_deviation(test.view.title, line)
            for line in test.parameters
            if line.changed
            and line.default != _plain(None)
            and f"{test.view.title}, {line.name.replace('_', ' ')}" not in said
        ]
        deviations += _imported_from(test)
        by_label: dict[str, SpecimenView] = {
            specimen.label: specimen for specimen in test.view.specimens
        }
        whose: dict[str, list[str]] = {}
        for label, run in test.runs.items():
            for each in run.deviations:
                whose.setdefault(f"{each.says} Reason: {each.why}.", []).append(label)
            given = {each.code for each in run.deviations}
            for flag in by_label[label].flags:
                if flag["severity"] == "warn" and SAME_CAUSE.get(flag["code"]) not in given:
                    whose.setdefault(flag["text"], []).append(label)
        deviations += [f"{labels_in_words(labels)}: {message}" for message, labels in whose.items()]
        deviations += [flag["text"] for flag in test.view.flags if flag["severity"] == "warn"]
    return list(dict.fromkeys(deviations))


def _default(method: Method, name: str, field: FieldInfo) -> Any:
    """The default of a parameter; of the specimens wanted it is what the guide asks for."""
    if name == "specimens_wanted":
        return method.guide.count_per_direction
    return field.get_default(call_default_factory=True)


def _plain(value: Any) -> str:
    if value is None or value is PydanticUndefined:
        return "–"
    if isinstance(value, list):
        return ", ".join(_plain(specimen) for specimen in value)
    if isinstance(value, dict):
        return (
            ", ".join(f"{name} {_plain(part)}" for name, part in value.items() if part is not None)
            or "–"
        )
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, float | int) else str(value)
