"""How far a job has come, and the one thing to do next."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from endurant.core.methods import find_method
from endurant.store.tables import Job, Specimen
from endurant.work.facts.called_specimens import missing_replacements
from endurant.work.facts.models import (
    JobStage,
    NextCode,
    NextPlace,
    SpecimenState,
    TestView,
)
from endurant.work.facts.status import count_in_state, is_cut

NEXT: dict[NextCode, tuple[str, NextPlace]] = {
    "read-report": ("Open report", "report"),
    "judge": ("Review and release", "judge"),
    "cut": ("Place and cut specimens", "cutting"),
    "test": ("Start testing", "bench"),
    "bring-in": ("Import readings", "readings"),
    "hang": ("Start conditioning", "conditioning"),
    "cut-the-rest": ("Place and cut added specimens", "cutting"),
    "cut-one-more": ("Cut replacement", "cutting"),
    "ask-one-more": ("Add replacement", "readings"),
    "wait": ("Conditioning", "conditioning"),
    "look-at-cancelled": ("Cancelled", "job"),
    "look-at-trouble": ("Check the computation", "job"),
}
"""What each next step is called, and the screen to do it on."""


def next_of(code: str) -> tuple[str, NextPlace]:
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
        return "look-at-cancelled"
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
        return "hang"
    if count_in_state(called, now, "to-cut"):
        return "cut-the-rest"
    short = [test for test in job.tests if missing_replacements(test)]
    if short:
        return "cut-one-more" if any(is_cut(test) for test in short) else "ask-one-more"
    return "wait"
