"""The sheet of a job, and cutting documents."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request, Response
from pydantic import Field

from endurant.api.answers import page_of_job
from endurant.api.files import attached, pdf_response
from endurant.api.long import in_long_thread, in_process
from endurant.api.route import Route
from endurant.api.session import SignedIn, right
from endurant.core.cutting.document import cut_document
from endurant.reports.full_size import Paper, sheet_dxf, svg_sheet
from endurant.reports.labels import STOCKS, find_stock
from endurant.reports.pdf import full_size_pdf, labels_pdf, sheet_pdf
from endurant.work.base.requests import RequestBody
from endurant.work.base.view import View
from endurant.work.use_cases.receiving.required_size import (
    RequiredSizeRequest,
    RequiredSizeView,
    required_size,
)
from endurant.work.use_cases.sheets import cutting
from endurant.work.views.labels import labels_of
from endurant.work.views.sheet_drawing import BrokenRuleView, SheetView

CUTTING_WITHIN_S = 120.0

router = APIRouter(route_class=Route, tags=["cutting"])


class SheetSeen(RequestBody):
    """The sheet as it was seen, so that nobody's work is overwritten."""

    revision: int


class PlaceSeen(cutting.PlaceRequest):
    """How to place, and the sheet as it was seen."""

    revision: int


class LaidSeen(RequestBody):
    """Specimens put down by hand, and the sheet as it was seen."""

    laid: list[cutting.LaidRequest] = Field(min_length=1, max_length=400)
    revision: int


class AreasSeen(RequestBody):
    """The areas to avoid, and the sheet as it was seen."""

    areas: list[cutting.AreaRequest]
    revision: int


class StockView(View):
    """A sheet of labels that can be printed on."""

    id: str
    title: str
    per_page: int


@router.post("/cutting")
async def answer_cutting(
    actor: SignedIn, request: Request, document: dict[str, Any]
) -> dict[str, Any]:
    """Answer a cutting document: where everything lies, or what stands in the way."""
    answer: dict[str, Any] = await in_process(
        request, cut_document, document, CUTTING_WITHIN_S, whose=actor.id
    )
    return answer


@router.post("/required-sample-size")
async def ask_required_size(actor: SignedIn, request: RequiredSizeRequest) -> RequiredSizeView:
    """The least length off the roll for some tests, before anything has arrived."""
    return await in_long_thread(lambda: required_size(request))


@router.get("/jobs/{job_id}/sheet", response_model=SheetView)
def show_sheet(actor: SignedIn, request: Request, job_id: int) -> Response:
    """The sheet as it lies."""
    return page_of_job(request, "sheet", job_id, lambda: cutting.sheet(job_id))


@router.get("/jobs/{job_id}/sheet.pdf", response_class=Response)
def print_sheet(actor: SignedIn, job_id: int) -> Response:
    """The sheet to scale with cutting list and labels, as PDF."""
    sheet = cutting.sheet(job_id)
    return pdf_response(sheet_pdf(sheet), f"{sheet.job_number}-sheet.pdf")


@router.get("/jobs/{job_id}/sheet-full-size.pdf", response_class=Response)
def print_full_size(actor: SignedIn, job_id: int, paper: Paper = "A4") -> Response:
    """The sheet at full size as PDF: tiles of A4 or Letter, or one big page."""
    sheet = cutting.sheet(job_id)
    return pdf_response(full_size_pdf(sheet, paper), f"{sheet.job_number}-1to1-{paper}.pdf")


@router.get("/jobs/{job_id}/sheet.svg", response_class=Response)
def sheet_as_svg(actor: SignedIn, job_id: int) -> Response:
    """The sheet at full size as SVG."""
    sheet = cutting.sheet(job_id)
    return attached(svg_sheet(sheet).encode(), "image/svg+xml", f"{sheet.job_number}-sheet.svg")


@router.get("/jobs/{job_id}/sheet.dxf", response_class=Response)
def sheet_as_dxf(actor: SignedIn, job_id: int) -> Response:
    """The sheet in mm as DXF, a layer for each test."""
    sheet = cutting.sheet(job_id)
    return attached(sheet_dxf(sheet), "image/vnd.dxf", f"{sheet.job_number}-sheet.dxf")


@router.get("/jobs/{job_id}/labels.pdf", response_class=Response)
def print_labels(
    actor: SignedIn, request: Request, job_id: int, stock: str = "a4-24", skip: int = 0
) -> Response:
    """A label for each piece, and for each half of a pair, on a common sheet of labels."""
    labels = labels_of(job_id)
    printed = labels_pdf(labels, find_stock(stock), skip, f"{request.base_url}s/")
    return pdf_response(printed, f"{labels.job_number}-labels.pdf")


@router.get("/label-stocks")
def list_label_stocks(actor: SignedIn) -> list[StockView]:
    """The sheets of labels that can be printed on."""
    return [
        StockView(id=stock.id, title=stock.title, per_page=stock.per_page)
        for stock in STOCKS.values()
    ]


@router.post("/jobs/{job_id}/sheet/place", dependencies=[right("cut")])
async def place_specimens(actor: SignedIn, job_id: int, request: PlaceSeen) -> SheetView:
    """Place every specimen anew around those that are locked."""
    return await in_long_thread(lambda: cutting.place_all(actor, job_id, request.revision, request))


@router.put("/jobs/{job_id}/sheet/layout", dependencies=[right("cut")])
def lay_specimens(actor: SignedIn, job_id: int, request: LaidSeen) -> SheetView:
    """Put specimens down by hand, turn them or lock them."""
    return cutting.lay(actor, job_id, request.laid, request.revision)


@router.post("/jobs/{job_id}/sheet/check")
def check_specimen(
    actor: SignedIn, job_id: int, request: cutting.LaidRequest
) -> list[BrokenRuleView]:
    """The rules that a move would break; nothing is stored."""
    return cutting.check_move(job_id, request)


@router.put("/jobs/{job_id}/sheet/areas", dependencies=[right("cut")])
def mark_areas(actor: SignedIn, job_id: int, request: AreasSeen) -> SheetView:
    """Replace the areas to avoid."""
    return cutting.mark_areas(actor, job_id, request.areas, request.revision)


@router.post("/jobs/{job_id}/sheet/cut", dependencies=[right("cut")])
def confirm_cut(actor: SignedIn, job_id: int, request: SheetSeen) -> SheetView:
    """The specimens were cut as they lie."""
    return cutting.confirm_cut(actor, job_id, request.revision)


@router.post(
    "/tests/{test_id}/replacements/{direction}", dependencies=[right("cut")], status_code=201
)
def cut_replacement(actor: SignedIn, test_id: int, direction: str) -> SheetView:
    """One more spare from what is left of the sheet."""
    return cutting.cut_replacement(actor, test_id, direction)
