"""Jobs, their tests and limits."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import Field

from endurant.api.session import SignedIn
from endurant.work import jobs, setting_up, voids
from endurant.work.asked import Asked
from endurant.work.views import JobLine, JobView, SpecimenView, TestView, View

router = APIRouter(tags=["jobs"])


class LimitsAsked(Asked):
    """New limits for a test, and the test as it was seen."""

    limits: list[jobs.LimitAsked] = Field(max_length=40)
    revision: int
    reason: str | None = Field(None, max_length=300)


class OneMoreAsked(Asked):
    """The direction that lacks one; empty where there is none."""

    direction: str = Field("", max_length=16)


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
    return jobs.change_limits(actor, test_id, asked.limits, asked.revision, asked.reason)


@router.put("/tests/{test_id}/set-up")
def set_up(actor: SignedIn, test_id: int, asked: setting_up.SetUpAsked) -> TestView:
    """Settle what exists only at the bench."""
    return setting_up.set_up(actor, test_id, asked)


@router.post("/tests/{test_id}/one-more", status_code=201)
def ask_for_one_more(actor: SignedIn, test_id: int, asked: OneMoreAsked) -> TestView:
    """One more specimen of a sample that comes ready, for a void without a spare."""
    return voids.ask_for_one_more(actor, test_id, asked.direction)


@router.get("/specimens/by-code/{code}")
def find_by_code(actor: SignedIn, code: str) -> Found | None:
    """The specimen with a scanned or typed code, or null."""
    specimen = jobs.find_specimen(code)
    if specimen is None:
        return None
    test_id = jobs.test_id_of(specimen.id)
    return Found(job_id=jobs.test(test_id).job_id, test_id=test_id, specimen=specimen)
