"""A report as data: the PDF is drawn from it and from nothing else."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from pydantic import field_serializer

from endurant.core.columns import as_lists
from endurant.core.judging.verdicts import Verdict
from endurant.core.writing import Writing
from endurant.work.base.view import View
from endurant.work.facts.models import JobView, TestView
from endurant.work.facts.run_facts import (
    CheckFacts,
    ConditioningFacts,
    DeviationFacts,
    InstrumentFacts,
)
from endurant.work.use_cases.reporting.changes_after_test import ChangeLine, EarlierReport


class ParameterLine(View):
    """One parameter as the report prints it."""

    name: str
    value: str
    default: str
    changed: bool
    description: str


class ReportedRun(View):
    """How one specimen was pulled: by whom, on what, from which file, with which deviations."""

    by: str
    at: datetime
    samples: int
    sha256: str
    source_name: str | None
    source_sha256: str | None = None
    said: list[str]
    conditioning: ConditioningFacts | None
    instrument: InstrumentFacts | None
    checks: list[CheckFacts]
    deviations: list[DeviationFacts]


class ReportedPhoto(View):
    """A photograph that the report shows; its bytes are there only while it is drawn."""

    label: str
    shows: str
    sha256: str
    jpeg_base64: str = ""


class ReportedTest(View):
    """One test with everything that its pages show."""

    view: TestView
    parameters: list[ParameterLine]
    atmosphere: str
    prepared_otherwise: list[str] = []
    at_bench: list[str] = []
    doubts: list[str] = []
    photos: list[ReportedPhoto] = []
    runs: dict[str, ReportedRun]
    instruments: list[InstrumentFacts]
    document: dict[str, Any]
    result: dict[str, Any]

    @field_serializer("document", when_used="json")
    def _with_lists(self, document: dict[str, Any]) -> dict[str, Any]:
        return as_lists(document)


class ReportContent(View):
    """The whole report as data; the PDF is drawn from it and from nothing else."""

    laboratory: str
    address: str
    written: Writing = Writing()
    number: str
    revision: int
    reason: str | None
    draft: bool
    client: str
    product: str
    lot: str
    material: str
    arrival_state: str
    form: str = "sheet"
    arrived: str = ""
    order_number: str = ""
    client_reference: str = ""
    paper: str = "A4"
    width_mm: float | None
    length_mm: float | None
    received_at: datetime
    received_by: str
    cut_at: datetime | None
    conditioned_from: datetime | None
    tested_from: datetime | None
    tested_to: datetime | None
    released_at: datetime | None
    released_by: str | None
    tested_by: list[str]
    comparison: str
    rounding: str
    verdict: Verdict
    deviations: list[str]
    withdrawn: str = ""
    corrects: EarlierReport | None = None
    changes: list[ChangeLine] = []
    record_head: str | None = None
    tests: list[ReportedTest]


class DraftView(View):
    """What a reviewer sees before release; `obstacles` are why it cannot be released yet."""

    job: JobView
    number: str
    revision: int
    verdict: Verdict
    deviations: list[str]
    corrects: EarlierReport | None
    changes: list[ChangeLine]
    tested_by: list[str]
    obstacles: list[str]
    to_confirm: bool
    not_by_you: str | None
    content_sha256: str
