"""Rows in memory: a job with one test and its specimens, as the database would give them."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

from endurant.core.methods import find_method
from endurant.store.tables import ConditioningPeriod, Enclosure, Job, Run, Specimen, Test, Void
from endurant.work.facts.test_settings import requested_parameters

NOW = datetime(2026, 3, 2, 9, 0, tzinfo=UTC)


def a_job(method: str = "iso-13934-1", *, form: str = "pieces", **parameters: Any) -> Job:
    """A job of one test that nobody cut: three planned specimens and a spare each way."""
    job = Job(
        id=1,
        number="J-0401",
        client="Quay Awnings",
        product="Canvas",
        lot="7",
        form=form,
        damp=False,
        avoided=[],
        received_at=NOW - timedelta(days=2),
        due_at=NOW + timedelta(days=2),
    )
    test = Test(
        id=1,
        job_id=1,
        method=method,
        parameters=requested_parameters(find_method(method), {"specimens_wanted": 3, **parameters}),
        limits=[],
        state="original",
        label_school="side-and-number",
    )
    job.tests = [test]
    for letter, direction in (("W", "warp"), ("F", "weft")):
        for number in range(1, 5):
            add_specimen(test, f"{letter}{number}", direction, spare=number == 4)
    return job


def add_specimen(test: Test, label: str, direction: str, *, spare: bool = False) -> Specimen:
    """One more specimen of a test."""
    specimen = Specimen(
        id=len(test.specimens) + 1,
        code=f"J-0401-1-{label}",
        label=label,
        direction=direction,
        long_side="warp",
        position=len(test.specimens) + 1,
        spare=spare,
    )
    test.specimens.append(specimen)
    return specimen


def specimen(job: Job, label: str) -> Specimen:
    """A specimen of the job's test by its label."""
    return next(each for each in job.tests[0].specimens if each.label == label)


def void(row: Specimen) -> None:
    """Void a specimen."""
    row.voids.append(Void(id=row.id, open_for=row.id, code="set-aside", remark="nicked", at=NOW))


def run(row: Specimen, state: str) -> Run:
    """A run of a specimen in one state, without readings."""
    made = Run(id=row.id, state=state, settings={}, checks=[], source_notes=[], started_at=NOW)
    row.runs.append(made)
    return made


def place_in(
    row: Specimen, hours_ago: float, atmosphere: str = "textile-20-65"
) -> ConditioningPeriod:
    """Place a specimen in a room without a log, so many hours ago."""
    room = Enclosure(id=1, name="Textile room", atmosphere=atmosphere)
    placed_at = NOW - timedelta(hours=hours_ago)
    period = ConditioningPeriod(
        id=row.id,
        specimen_id=row.id,
        enclosure_id=1,
        enclosure=room,
        placed_at=placed_at,
        open_for=row.id,
    )
    row.periods.append(period)
    return period
