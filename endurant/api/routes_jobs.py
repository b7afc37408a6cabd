"""Jobs, their tests and limits."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from pydantic import Field

from endurant.api.answers import page_of_job
from endurant.api.files import workbook_response
from endurant.api.route import Route
from endurant.api.session import SignedIn, right
from endurant.reports.tables import study_table
from endurant.work.base.requests import RequestBody
from endurant.work.base.view import View
from endurant.work.facts.models import (
    JobList,
    JobView,
    SpecimenView,
    TestView,
)
from endurant.work.use_cases.amending import amending, setting_up
from endurant.work.use_cases.bench import voids
from endurant.work.use_cases.receiving import custody, receiving
from endurant.work.use_cases.receiving.limits import LimitRequest, change_limits
from endurant.work.views import job_page, studies, test_page
from endurant.work.views.job_list import JobsRequest, jobs, waiting
from endurant.work.views.search import SearchHit, SearchRequest, search

router = APIRouter(route_class=Route, tags=["jobs"])


class LimitsRequest(RequestBody):
    """New limits for a test, and the test as it was seen."""

    limits: list[LimitRequest] = Field(max_length=40)
    revision: int
    reason: str | None = Field(None, max_length=300)


class OneMoreRequest(RequestBody):
    """The direction that lacks one; empty where there is none."""

    direction: str = Field("", max_length=16)


class Found(View):
    """What a scanned or typed code belongs to."""

    job_id: int
    test_id: int
    specimen: SpecimenView


@router.get("/jobs")
def list_jobs(actor: SignedIn, request: Annotated[JobsRequest, Query()]) -> JobList:
    """A page of jobs: open ones by due date, released ones apart, the newest first."""
    return jobs(request, actor.id)


@router.get("/jobs/waiting")
def count_waiting(actor: SignedIn) -> dict[str, int]:
    """How many open jobs wait at each screen."""
    return waiting()


@router.post("/jobs", dependencies=[right("receive")], status_code=201)
def receive_sample(actor: SignedIn, request: receiving.SampleRequest) -> JobView:
    """Write a new job down."""
    return receiving.receive(actor, request)


@router.get("/jobs/{job_id}", response_model=JobView)
def show_job(actor: SignedIn, request: Request, job_id: int) -> Response:
    """One job."""
    return page_of_job(request, "job", job_id, lambda: job_page.job(job_id))


@router.get("/studies/{study_id}")
def show_study(
    actor: SignedIn, study_id: int, against: Annotated[int | None, Query()] = None
) -> studies.StudyView:
    """Several samples side by side, held against one of them."""
    return studies.study(study_id, against)


@router.get("/studies/{study_id}/table.xlsx", response_class=Response)
def study_as_workbook(
    actor: SignedIn, study_id: int, against: Annotated[int | None, Query()] = None
) -> Response:
    """The same as a workbook, held against the same sample."""
    view = studies.study(study_id, against)
    return workbook_response({view.title: [study_table(view)]}, f"study-{study_id}.xlsx")


@router.get("/tests/{test_id}")
def show_test(actor: SignedIn, test_id: int) -> TestView:
    """One test with its specimens and rows."""
    return test_page.test(test_id)


@router.put("/tests/{test_id}/limits", dependencies=[right("set-limits")])
def set_limits(actor: SignedIn, test_id: int, request: LimitsRequest) -> TestView:
    """Replace the limits of a test."""
    return change_limits(actor, test_id, request.limits, request.revision, request.reason)


@router.put("/tests/{test_id}/set-up", dependencies=[right("test")])
def set_up(actor: SignedIn, test_id: int, request: setting_up.SetUpRequest) -> TestView:
    """Settle what exists only at the bench."""
    return setting_up.set_up(actor, test_id, request)


@router.post("/tests/{test_id}/additional-specimens", dependencies=[right("test")], status_code=201)
def ask_for_one_more(actor: SignedIn, test_id: int, request: OneMoreRequest) -> TestView:
    """One more specimen of a sample that comes ready, for a void without a spare."""
    return voids.ask_for_one_more(actor, test_id, request.direction)


@router.get("/search")
def search_everything(
    actor: SignedIn, request: Annotated[SearchRequest, Query()]
) -> list[SearchHit]:
    """Jobs, specimens, reports, clients, products, instruments and people, found by words."""
    return search(request)


@router.get("/specimens/by-code/{code}")
def find_by_code(actor: SignedIn, code: str) -> Found | None:
    """The specimen with a scanned or typed code, or null."""
    specimen = test_page.find_specimen(code)
    if specimen is None:
        return None
    test_id = test_page.test_id_of(specimen.id)
    return Found(job_id=test_page.test(test_id).job_id, test_id=test_id, specimen=specimen)


@router.put("/jobs/{job_id}", dependencies=[right("receive")])
def amend_job(actor: SignedIn, job_id: int, request: amending.JobAmended) -> JobView:
    """Another due date, priority, lot or client's word."""
    return amending.amend_job(actor, job_id, request)


@router.post("/jobs/{job_id}/cancel", dependencies=[right("receive")])
def cancel_job(actor: SignedIn, job_id: int, request: amending.WhyRequest) -> JobView:
    """The job is not done any more."""
    return amending.cancel(actor, job_id, request)


@router.post("/jobs/{job_id}/reinstate", dependencies=[right("receive")])
def reinstate_job(actor: SignedIn, job_id: int, request: amending.WhyRequest) -> JobView:
    """A cancelled job goes on."""
    return amending.reinstate(actor, job_id, request)


@router.post("/jobs/{job_id}/tests", dependencies=[right("receive")], status_code=201)
def add_test(actor: SignedIn, job_id: int, request: amending.TestAdded) -> JobView:
    """One more test of a job."""
    return amending.add_to_job(actor, job_id, request)


@router.put("/tests/{test_id}", dependencies=[right("receive")])
def amend_test(actor: SignedIn, test_id: int, request: amending.TestAmended) -> JobView:
    """Change requested parameters, or the number of specimens."""
    return amending.amend_test(actor, test_id, request)


@router.get("/jobs/{job_id}/custody")
def show_custody(actor: SignedIn, job_id: int) -> custody.CustodyView:
    """Where a sample is, what remains of it, and what became of it."""
    return custody.custody(job_id)


@router.post("/jobs/{job_id}/custody", dependencies=[right("receive")])
def note_custody(
    actor: SignedIn, job_id: int, request: custody.CustodyRequest
) -> custody.CustodyView:
    """Record what becomes of a sample, or who was notified of its failure."""
    return custody.note_custody(actor, job_id, request)


@router.post("/tests/{test_id}/retest", dependencies=[right("release")])
def allow_retest(actor: SignedIn, test_id: int, request: amending.WhyRequest) -> JobView:
    """The same test once more, on what remains; both results are reported."""
    return amending.retest(actor, test_id, request)


@router.post("/tests/{test_id}/cancel", dependencies=[right("receive")])
def drop_test(actor: SignedIn, test_id: int, request: amending.WhyRequest) -> JobView:
    """Drop a test."""
    return amending.drop(actor, test_id, request)


@router.post("/tests/{test_id}/hold", dependencies=[right("receive")])
def hold_test(actor: SignedIn, test_id: int, request: amending.WhyRequest) -> JobView:
    """A test waits."""
    return amending.hold(actor, test_id, request)


@router.post("/tests/{test_id}/resume", dependencies=[right("receive")])
def resume_test(actor: SignedIn, test_id: int, request: amending.WhyRequest) -> JobView:
    """A test that waited goes on."""
    return amending.resume(actor, test_id, request)
