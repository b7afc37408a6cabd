"""Drafts, release, released reports in every form; and computing a document on its own."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import StreamingResponse

from endurant.api.answers import page_of_job
from endurant.api.files import csv_response, disposition, pdf_response, workbook_response
from endurant.api.long import in_long_thread
from endurant.api.route import Route
from endurant.api.routes_bench import Reason
from endurant.api.session import SignedIn, right
from endurant.reports.package import released_package
from endurant.reports.pdf import (
    client_report_pdf,
    report_pdf,
    report_pdfs,
    stamped,
    study_pdf,
)
from endurant.reports.report_workbook import report_tables
from endurant.reports.signing import has_key
from endurant.reports.tables import report_specimens, report_traces
from endurant.work.facts.models import JobView
from endurant.work.use_cases.reporting import models as report_views
from endurant.work.use_cases.reporting import release as releasing
from endurant.work.use_cases.review import supervision

router = APIRouter(route_class=Route, tags=["reports"])


@router.get("/jobs/{job_id}/draft", response_model=report_views.DraftView)
def show_draft(actor: SignedIn, request: Request, job_id: int) -> Response:
    """The report as it would be released now, and what stands in its way."""
    return page_of_job(request, "draft", job_id, lambda: releasing.draft(actor, job_id), actor.id)


@router.get("/jobs/{job_id}/draft.pdf", response_class=Response)
async def print_draft(actor: SignedIn, job_id: int) -> Response:
    """The draft as PDF, marked as one on every page."""
    content = await in_long_thread(lambda: releasing.draft_content(job_id))
    pdf = await in_long_thread(lambda: report_pdf(content))
    return pdf_response(pdf, f"{content.number}-draft.pdf")


@router.get("/jobs/{job_id}/draft/client.pdf", response_class=Response)
async def print_client_draft(actor: SignedIn, job_id: int) -> Response:
    """The draft of the client report as PDF, marked as one on every page."""
    content = await in_long_thread(lambda: releasing.draft_content(job_id))
    pdf = await in_long_thread(lambda: client_report_pdf(content))
    return pdf_response(pdf, f"{content.number}-client-draft.pdf")


@router.get("/studies/{study_id}/report.pdf", response_class=Response)
async def study_report(
    actor: SignedIn, study_id: int, against: Annotated[int | None, Query()] = None
) -> Response:
    """The report of all samples of a study: side by side, then the released one of each."""
    view, reports = await in_long_thread(lambda: releasing.study_reports(study_id, against))
    pdf = await in_long_thread(lambda: study_pdf(view, reports))
    return pdf_response(pdf, f"study-{study_id}.pdf")


@router.post("/jobs/{job_id}/release", dependencies=[right("release")])
async def release_report(
    actor: SignedIn, job_id: int, request: releasing.ReleaseRequest
) -> JobView:
    """Release the report, for good; the password is asked for again."""
    return await in_long_thread(lambda: releasing.release(actor, job_id, request, report_pdfs))


@router.post("/jobs/{job_id}/confirm", dependencies=[right("test")])
def confirm_supervised(actor: SignedIn, job_id: int) -> JobView:
    """The supervisor confirms what trainees tested under them."""
    return supervision.confirm(actor, job_id)


@router.post("/jobs/{job_id}/correction", dependencies=[right("release")])
def open_correction(actor: SignedIn, job_id: int, request: Reason) -> JobView:
    """Open a released job for a new revision."""
    return releasing.open_correction(actor, job_id, request.reason)


@router.get("/reports/{report_id}.pdf", response_class=Response)
def report_as_pdf(actor: SignedIn, report_id: int) -> Response:
    """A released report for people."""
    name, pdf, no_longer = releasing.released_pdf(report_id)
    return pdf_response(stamped(pdf, no_longer) if no_longer else pdf, f"{name}.pdf")


@router.get("/reports/{report_id}/client.pdf", response_class=Response)
async def client_report_as_pdf(actor: SignedIn, report_id: int) -> Response:
    """The client report of a released report: the answer, the specimens and the figures."""
    name, pdf, no_longer = await in_long_thread(
        lambda: releasing.released_client_pdf(report_id, client_report_pdf)
    )
    return pdf_response(stamped(pdf, no_longer) if no_longer else pdf, f"{name}.pdf")


@router.get("/reports/{report_id}/package.zip", response_class=Response)
async def report_as_package(actor: SignedIn, report_id: int) -> Response:
    """Every form of a released report, and a signed list of hashes that proves them."""
    forms = await in_long_thread(lambda: releasing.released_forms(report_id))
    await in_long_thread(has_key)
    name = f"{forms.content.number}-{forms.content.revision}.zip"
    headers = {"content-disposition": disposition("attachment", name)}
    return StreamingResponse(released_package(forms), media_type="application/zip", headers=headers)


@router.post("/reports/{report_id}/withdraw", dependencies=[right("release")])
def withdraw_report(actor: SignedIn, report_id: int, request: releasing.WithdrawRequest) -> JobView:
    """A released report holds no longer; it stays readable, and says so."""
    return releasing.withdraw(actor, report_id, request)


@router.get("/reports/{report_id}.json")
def report_as_json(actor: SignedIn, report_id: int) -> report_views.ReportContent:
    """A released report for machines, raw traces included."""
    return releasing.released_report(report_id)


@router.get("/reports/{report_id}/specimens.csv", response_class=Response)
def report_as_table(actor: SignedIn, report_id: int) -> Response:
    """The specimen table of a released report."""
    content = releasing.released_figures(report_id)
    text = "\n".join(table.csv() for table in report_specimens(content))
    return csv_response(text, f"{content.number}-{content.revision}.csv")


@router.get("/reports/{report_id}.xlsx", response_class=Response)
def report_as_workbook(actor: SignedIn, report_id: int) -> Response:
    """A whole released report as a workbook: its heads, results, specimens and deviations."""
    content = releasing.released_figures(report_id)
    return workbook_response(report_tables(content), f"{content.number}-{content.revision}.xlsx")


@router.get("/reports/{report_id}/traces.csv", response_class=Response)
def report_raw_traces(actor: SignedIn, report_id: int) -> Response:
    """Every raw sample of a released report."""
    content = releasing.released_report(report_id)
    return csv_response(
        report_traces(content).csv(), f"{content.number}-{content.revision}-traces.csv"
    )
