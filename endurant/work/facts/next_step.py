"""How far a job has come, and the one thing to do next."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from endurant.core.messages import worded
from endurant.core.methods import find_method
from endurant.store.tables import Job, Specimen
from endurant.work.facts.called_specimens import missing_replacements
from endurant.work.facts.models import (
    JobStage,
    NextCode,
    NextScreen,
    SpecimenState,
    TestView,
)
from endurant.work.facts.status import count_in_state, is_cut

NEXT: dict[NextCode, tuple[str, NextScreen]] = {
    "read-report": (worded("next.open-report"), "report"),
    "judge": (worded("next.review-and-release"), "judge"),
    "cut": (worded("next.place-and-cut-specimens"), "cutting"),
    "test": (worded("next.start-testing"), "bench"),
    "bring-in": (worded("next.import-readings"), "readings"),
    "start-conditioning": (worded("next.start-conditioning"), "conditioning"),
    "cut-remaining": (worded("next.place-and-cut-added-specimens"), "cutting"),
    "cut-additional": (worded("next.cut-replacement"), "cutting"),
    "request-additional": (worded("next.add-replacement"), "readings"),
    "wait": ("Conditioning", "conditioning"),
    "read-cancelled": ("Cancelled", "job"),
    "check-computation": (worded("next.check-the-computation"), "job"),
}
"""What each next step is called, and the screen to do it on."""


def next_of(code: str) -> tuple[str, NextScreen]:
    """Words and screen of a step as a card holds it."""
    return next(said for known, said in NEXT.items() if known == code)


def stage_of_job(
    job: Job, called: Sequence[Specimen], tests: Sequence[TestView], now: datetime
) -> JobStage:
    """How far the job has come, from received to released."""
    if job.released_at is not None:
        return "released"
    if job.cancelled_at is not None:
        return "cancelled"
    if tests and all(test.to_go == 0 for test in tests):
        return "tested"
    if job.cut_at is None and any(is_cut(test) for test in job.tests):
        return "received"
    waiting = count_in_state(called, now, "cut", "conditioning", "to-cut")
    return "cut" if called and waiting == len(called) else "conditioned"


def next_step(
    job: Job,
    stage: JobStage,
    called: Sequence[Specimen],
    tests: Sequence[TestView],
    now: datetime,
) -> NextCode:
    """The one thing to do next."""
    if stage == "released":
        return "read-report"
    if stage == "cancelled":
        return "read-cancelled"
    if stage == "tested":
        return "judge"
    if stage == "received":
        return "cut"
    to_do: tuple[SpecimenState, ...] = ("ready", "to-look-at", "running")
    at_bench = [specimen for specimen in called if find_method(specimen.test.method).runs_live]
    if count_in_state(at_bench, now, *to_do):
        return "test"
    by_document = any(test.to_go and not test.specimens for test in tests)
    if by_document or count_in_state(called, now, *to_do):
        return "bring-in"
    if count_in_state(called, now, "cut"):
        return "start-conditioning"
    if count_in_state(called, now, "to-cut"):
        return "cut-remaining"
    short = [test for test in job.tests if missing_replacements(test)]
    if short:
        return "cut-additional" if any(is_cut(test) for test in short) else "request-additional"
    return "wait"
