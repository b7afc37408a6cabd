"""The sheet of a job, and cutting documents."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Response
from pydantic import Field

from endurant.api.session import SignedIn
from endurant.core.cutting.document import cut_document
from endurant.reports.pdf import sheet_pdf
from endurant.work import cutting
from endurant.work.jobs import Asked

router = APIRouter(tags=["cutting"])


class SheetSeen(Asked):
    """The sheet as it was seen, so that nobody's work is overwritten."""

    revision: int


class PlaceSeen(cutting.PlaceAsked):
    """How to place, and the sheet as it was seen."""

    revision: int


class LaidSeen(Asked):
    """Specimens put down by hand, and the sheet as it was seen."""

    laid: list[cutting.LaidAsked] = Field(min_length=1, max_length=400)
    revision: int


class AreasSeen(Asked):
    """The areas to avoid, and the sheet as it was seen."""

    areas: list[cutting.AreaAsked]
    revision: int


@router.post("/cutting")
def answer_cutting(actor: SignedIn, document: dict[str, Any]) -> dict[str, Any]:
    """Answer a cutting document: where everything lies, or what stands in the way."""
    return cut_document(document)


@router.get("/jobs/{job_id}/sheet")
def show_sheet(actor: SignedIn, job_id: int) -> cutting.SheetView:
    """The sheet as it lies."""
    return cutting.sheet(job_id)


@router.get("/jobs/{job_id}/sheet.pdf", response_class=Response)
def print_sheet(actor: SignedIn, job_id: int) -> Response:
    """The sheet to scale with cutting list and labels, as PDF."""
    sheet = cutting.sheet(job_id)
    return pdf_response(sheet_pdf(sheet), f"{sheet.job_number}-sheet.pdf")


@router.post("/jobs/{job_id}/sheet/place")
def place_specimens(actor: SignedIn, job_id: int, asked: PlaceSeen) -> cutting.SheetView:
    """Place every specimen anew around those that are locked."""
    return cutting.place_all(actor, job_id, asked.revision, asked)


@router.put("/jobs/{job_id}/sheet/layout")
def lay_specimens(actor: SignedIn, job_id: int, asked: LaidSeen) -> cutting.SheetView:
    """Put specimens down by hand, turn them or lock them."""
    return cutting.lay(actor, job_id, asked.laid, asked.revision)


@router.post("/jobs/{job_id}/sheet/check")
def check_specimen(
    actor: SignedIn, job_id: int, asked: cutting.LaidAsked
) -> list[cutting.BrokenRuleView]:
    """The rules that a move would break; nothing is stored."""
    return cutting.check_move(job_id, asked)


@router.put("/jobs/{job_id}/sheet/areas")
def mark_areas(actor: SignedIn, job_id: int, asked: AreasSeen) -> cutting.SheetView:
    """Replace the areas to avoid."""
    return cutting.mark_areas(actor, job_id, asked.areas, asked.revision)


@router.post("/jobs/{job_id}/sheet/cut")
def confirm_cut(actor: SignedIn, job_id: int, asked: SheetSeen) -> cutting.SheetView:
    """The specimens were cut as they lie."""
    return cutting.confirm_cut(actor, job_id, asked.revision)


@router.post("/tests/{test_id}/replacements/{direction}", status_code=201)
def cut_replacement(actor: SignedIn, test_id: int, direction: str) -> cutting.SheetView:
    """One more spare from what is left of the sheet."""
    return cutting.cut_replacement(actor, test_id, direction)


def pdf_response(pdf: bytes, name: str) -> Response:
    """A PDF that the browser shows, and saves under `name`."""
    return Response(
        pdf,
        media_type="application/pdf",
        headers={"content-disposition": f'inline; filename="{name}"'},
    )
