"""Jobs, their tests and limits, the sheet, and conditioning."""

from __future__ import annotations

from fastapi import APIRouter, Response
from pydantic import Field

from endurant.api.session import SignedIn
from endurant.reports.pdf import sheet_pdf
from endurant.work import conditioning, cutting, jobs
from endurant.work.jobs import Asked
from endurant.work.views import JobLine, JobView, SpecimenView, TestView, View

router = APIRouter(tags=["jobs"])


class LimitsAsked(Asked):
    """New limits for a test, and the test as it was seen."""

    limits: list[jobs.LimitAsked] = Field(max_length=40)
    revision: int


class SheetSeen(Asked):
    """The sheet as it was seen, so that nobody's work is overwritten."""

    revision: int


class MoveSeen(cutting.MoveAsked):
    """A move, and the sheet as it was seen."""

    revision: int


class AreasSeen(Asked):
    """The areas to avoid, and the sheet as it was seen."""

    areas: list[cutting.AreaAsked]
    revision: int


class Found(View):
    """What a scanned or typed code belongs to."""

    job_id: int
    test_id: int
    specimen: SpecimenView


@router.get("/jobs")
def list_jobs(actor: SignedIn) -> list[JobLine]:
    """All jobs, those in work first by due date."""
    return jobs.jobs()


@router.post("/jobs", status_code=201)
def receive_sample(actor: SignedIn, asked: jobs.SampleAsked) -> JobView:
    """Write a new job down."""
    return jobs.receive(actor, asked)


@router.get("/jobs/{job_id}")
def show_job(actor: SignedIn, job_id: int) -> JobView:
    """One job."""
    return jobs.job(job_id)


@router.get("/tests/{test_id}")
def show_test(actor: SignedIn, test_id: int) -> TestView:
    """One test with its specimens and rows."""
    return jobs.test(test_id)


@router.put("/tests/{test_id}/limits")
def set_limits(actor: SignedIn, test_id: int, asked: LimitsAsked) -> TestView:
    """Replace the limits of a test."""
    return jobs.change_limits(actor, test_id, asked.limits, asked.revision)


@router.get("/specimens/by-code/{code}")
def find_by_code(actor: SignedIn, code: str) -> Found | None:
    """The specimen with a scanned or typed code, or null."""
    specimen = jobs.find_specimen(code)
    if specimen is None:
        return None
    test_id = jobs.test_id_of(specimen.id)
    return Found(job_id=jobs.test(test_id).job_id, test_id=test_id, specimen=specimen)


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
def place_specimens(actor: SignedIn, job_id: int, asked: SheetSeen) -> cutting.SheetView:
    """Place every specimen anew."""
    return cutting.place_all(actor, job_id, asked.revision)


@router.post("/jobs/{job_id}/sheet/move")
def move_specimen(actor: SignedIn, job_id: int, asked: MoveSeen) -> cutting.SheetView:
    """Put one specimen down elsewhere."""
    return cutting.move(actor, job_id, asked, asked.revision)


@router.post("/jobs/{job_id}/sheet/check")
def check_specimen(
    actor: SignedIn, job_id: int, asked: cutting.MoveAsked
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


@router.get("/conditioning")
def show_conditioning(actor: SignedIn) -> conditioning.ConditioningView:
    """What hangs where, and what waits to be hung."""
    return conditioning.conditioning()


@router.post("/enclosures/{enclosure_id}/hang")
def hang_specimens(
    actor: SignedIn, enclosure_id: int, asked: conditioning.HangAsked
) -> conditioning.ConditioningView:
    """Hang specimens in; their clock starts now."""
    return conditioning.hang(actor, enclosure_id, asked)


@router.post("/enclosures/take-out")
def take_out_specimens(
    actor: SignedIn, asked: conditioning.HangAsked
) -> conditioning.ConditioningView:
    """Take specimens out."""
    return conditioning.take_out(actor, asked)


@router.get("/clocks")
def show_clocks(actor: SignedIn) -> conditioning.ClocksView:
    """Every running clock, with the server's time."""
    return conditioning.clocks()


def pdf_response(pdf: bytes, name: str) -> Response:
    """A PDF that the browser shows, and saves under `name`."""
    return Response(
        pdf,
        media_type="application/pdf",
        headers={"content-disposition": f'inline; filename="{name}"'},
    )
