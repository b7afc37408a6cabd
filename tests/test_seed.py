"""The seeded years: as many jobs as asked for, the same again, in a record that holds."""

from __future__ import annotations

from typing import Any

import pytest
from sqlalchemy import text

from endurant.core.refusals import Invalid
from endurant.demo.seed import RELEASED_SHARE, seed
from endurant.store.engine import engine_for
from endurant.work.upkeep.verify import verify
from endurant.work.views.job_list import JobsRequest, jobs

JOBS = 6


def facts(url: str) -> list[tuple[Any, ...]]:
    """What a seed decides, in whichever order the jobs were written."""
    statement = (
        "SELECT job.client, job.product, specimen.label, run.sha256 FROM run "
        "JOIN specimen ON specimen.id = run.specimen_id JOIN test ON test.id = specimen.test_id "
        "JOIN job ON job.id = test.job_id"
    )
    with engine_for(url).connect() as connection:
        return sorted(tuple(row) for row in connection.execute(text(statement)))


def test_years_of_work_are_seeded_and_hold(database: str) -> None:
    counts = seed(JOBS, 3)
    assert counts[0] == JOBS
    assert counts[1] > counts[2] > 20 * JOBS
    released = jobs(JobsRequest(state="released")).jobs
    assert len(released) == int(RELEASED_SHARE * JOBS)
    assert all(line.verdict in ("meets", "does not meet") for line in released)
    assert all(line.problem is None for line in jobs(JobsRequest()).jobs)
    assert verify().sentences == []
    first = facts(database)
    assert len({row[3] for row in first}) == len(first)
    assert first[0][:3] == ("Alder Row Weavers", "Blind fabric", "F1")


def test_a_number_of_jobs_that_makes_no_sense_is_refused(database: str) -> None:
    with pytest.raises(Invalid, match="demo.job-count"):
        seed(0, 1)
