"""Jobs as their list and their page show them."""

from __future__ import annotations

import logging
from typing import Any

from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from endurant.core.judging.verdicts import report_verdict
from endurant.core.messages import worded
from endurant.store import clock
from endurant.store.tables import Job
from endurant.work.facts.called_specimens import called_specimens
from endurant.work.facts.models import (
    JobLine,
    NextCode,
    TestView,
)
from endurant.work.facts.next_step import NEXT, next_step, stage_of_job
from endurant.work.facts.status import (
    required_count,
)
from endurant.work.facts.test_status import test_view

_log = logging.getLogger(__name__)

REMAINDER_ENDING = "-R"
"""The code of what is left of a sample: the number of its job with this behind it."""


def card_line(session: Session, job: Job) -> JobLine:
    """A job as its card keeps it; one that cannot be shown says so, and hides no other."""
    try:
        return job_line(session, job)
    except DBAPIError:
        raise
    except Exception:
        _log.exception("job %s cannot be shown", job.number)
        return JobLine(
            **_facts(job),
            stage="received",
            tested=0,
            required=0,
            verdict="not judged",
            **_next("check-computation"),
            problem=worded("job-line.this-job-cannot-be-computed-the-log-of"),
        )


def job_line(session: Session, job: Job) -> JobLine:
    """A job as the list shows it; of a released one the report says what came of it."""
    if job.released_at is not None and job.reports:
        requested = sum(required_count(test) for test in job.tests)
        return JobLine(
            **_facts(job),
            stage="released",
            tested=requested,
            required=requested,
            verdict=job.reports[-1].verdict,
            **_next("read-report"),
        )
    return JobLine(**line_fields(job, [test_view(session, test) for test in job.tests]))


def _next(code: NextCode) -> dict[str, Any]:
    text, place = NEXT[code]
    return {"next_code": code, "next_text": text, "next_screen": place}


def arrived_in_words(job: Job) -> str:
    """The size of a sample as it is read: 1480 x 1000 mm, 12 pieces, 800 g of granules."""
    arrived = job.arrived or {}
    if job.form == "sheet":
        return f"{job.width_mm or 0:g} x {job.length_mm or 0:g} mm"
    if "mass_g" in arrived:
        text = worded("job-line.g-of-granules", mass_g=arrived["mass_g"])
        if arrived.get("bag"):
            text += worded("job-line.bag", bag=arrived["bag"])
        share = arrived.get("regrind_percent")
        return text if share is None else f"{text}, {share:g} % regrind"
    text = f"{arrived.get('count', 0)} {arrived.get('piece_kind') or job.form}"
    if size_mm := arrived.get("size_mm"):
        text += worded("job-line.of-mm", size_mm=" x ".join(f"{side:g}" for side in size_mm))
    if mass_kg := arrived.get("gross_mass_kg"):
        text += f", {mass_kg:g} kg"
    return (
        worded("job-line.faces", text=text, faces=arrived["faces"])
        if arrived.get("faces")
        else text
    )


def _facts(job: Job) -> dict[str, Any]:
    return {
        "id": job.id,
        "number": job.number,
        "client": job.client,
        "product": job.product,
        "variant": job.variant,
        "study_id": job.study_id,
        "priority": job.priority or 0,
        "lot": job.lot,
        "due_at": job.due_at,
    }


def line_fields(job: Job, tests: list[TestView]) -> dict[str, Any]:
    """The fields of a job's line, given the status of its tests."""
    now = clock.now()
    called = [called_specimen for test in job.tests for called_specimen in called_specimens(test)]
    rows = [row for test in tests for row in test.rows]
    stage = stage_of_job(job, called, tests, now)
    code = next_step(job, stage, called, tests, now)
    return (
        _facts(job)
        | _next(code)
        | {
            "stage": stage,
            "tested": sum(test.required - test.to_go for test in tests),
            "required": sum(test.required for test in tests),
            "verdict": report_verdict([row.verdict for row in rows if row.criterion is not None]),
            "problem": next((test.problem for test in tests if test.problem), None),
        }
    )
