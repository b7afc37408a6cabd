"""How far a specimen and a job have come, read off the record."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session
from sqlalchemy.orm.attributes import set_committed_value

from endurant.core.methods import find_method
from endurant.core.methods.guide import Blank
from endurant.core.refusals import Conflict, NotFound
from endurant.store.custody import CustodyEvent
from endurant.store.tables import ConditioningPeriod, Job, Run, Specimen, Test, Void
from endurant.work.facts.conditioning_progress import chain_state
from endurant.work.facts.models import SpecimenState


def job_or_refuse(session: Session, job_id: int, *, lock: bool = False) -> Job:
    """The job; raises NotFound."""
    job = session.get(Job, job_id, with_for_update=lock or None)
    if job is None:
        raise NotFound("job.unknown", job_id=job_id)
    return job


def test_or_refuse(session: Session, test_id: int) -> Test:
    """The test; raises NotFound."""
    test = session.get(Test, test_id)
    if test is None:
        raise NotFound("test.unknown", test_id=test_id)
    return test


def specimen_or_refuse(session: Session, specimen_id: int) -> Specimen:
    """The specimen; raises NotFound."""
    specimen = session.get(Specimen, specimen_id)
    if specimen is None:
        raise NotFound("specimen.unknown", specimen_id=specimen_id)
    return specimen


def specimen_with_job(session: Session, specimen_id: int, *, lock: bool = False) -> Specimen:
    """The specimen, with all of its job read in one go; raises NotFound.

    With `lock` the job stays as it is until commit, and nothing of it was read before; raises
    Conflict when it was released or cancelled.
    """
    own = select(Test.job_id).join(Specimen, Specimen.test_id == Test.id)
    job_id = session.scalar(own.where(Specimen.id == specimen_id))
    if job_id is None:
        raise NotFound("specimen.unknown", specimen_id=specimen_id)
    job = refuse_released(session, job_id) if lock else job_or_refuse(session, job_id)
    for test in job.tests:
        set_committed_value(test, "job", job)
        for specimen in test.specimens:
            if specimen.id == specimen_id:
                set_committed_value(specimen, "test", test)
                return specimen
    return specimen_or_refuse(session, specimen_id)  # a test that was dropped keeps what it has


def refuse_released(session: Session, job_id: int) -> Job:
    """The job, locked until commit so that it cannot be released meanwhile.

    Raises Conflict when it has been released, for what a report says does not change, and when
    it was cancelled.
    """
    job = job_or_refuse(session, job_id, lock=True)
    if job.released_at is not None:
        number = job.reports[-1].number if job.reports else job.number
        raise Conflict("job.released", job=job.number, number=number, released_at=job.released_at)
    if job.cancelled_at is not None:
        raise Conflict(
            "job.cancelled",
            job=job.number,
            cancelled_at=job.cancelled_at,
            reason=job.cancelled_reason,
        )
    return job


def refuse_stale(what: str, revision: int, seen: int) -> None:
    """Raises Conflict when someone changed the thing after it was looked at."""
    if revision != seen:
        raise Conflict("stale", changed=what)


def open_void(specimen: Specimen) -> Void | None:
    """The void that stands, if one does."""
    return next((void for void in specimen.voids if void.open_for is not None), None)


def last_run(specimen: Specimen) -> Run | None:
    """The newest run of the specimen; one that gave no samples is as if it had never been."""
    return next((run for run in reversed(specimen.runs) if run.state != "abandoned"), None)


def open_period(specimen: Specimen) -> ConditioningPeriod | None:
    """The conditioning period that is not over."""
    return next((period for period in specimen.periods if period.open_for is not None), None)


def state_of(specimen: Specimen, now: datetime) -> SpecimenState:
    """Where the specimen is on its way from the sheet to its figure."""
    if open_void(specimen) is not None:
        return "void"
    run = last_run(specimen)
    if run is not None:
        states: dict[str, SpecimenState] = {
            "running": "running",
            "recorded": "running",
            "ended": "to-look-at",
            "settled": "tested",
        }
        return states[run.state]
    if is_to_cut(specimen):
        return "to-cut"
    progress = chain_state(specimen, now).progress
    if progress == "ready":
        return "ready"
    return "cut" if progress == "to-place" else "conditioning"


GONE = {"returned": "sample.returned", "disposed": "sample.disposed"}
"""The refusal to cut from a sample that has left the laboratory, by what became of it."""


def refuse_gone(session: Session, job: Job) -> None:
    """Raises Conflict for a sample that was given back or disposed of: nothing is cut from it."""
    kind = session.scalar(
        select(CustodyEvent.kind)
        .where(CustodyEvent.job_id == job.id, CustodyEvent.kind.in_(GONE))
        .limit(1)
    )
    if kind is not None:
        raise Conflict(GONE[kind], job=job.number)


def is_to_cut(specimen: Specimen) -> bool:
    """It is still a part of the sheet.

    A document that names its own specimens may bring some that were cut elsewhere.
    """
    if not is_cut(specimen.test):
        return False
    uncut = specimen.test.job.cut_at is None or bool(specimen.laid_later)
    if find_method(specimen.test.method).planned == "by-document":
        return uncut and specimen.x_mm is not None
    return uncut or specimen.x_mm is None


def is_cut(test: Test) -> bool:
    """Its specimens are cut from the sheet of the job."""
    return blank_of(test) is not None


def blank_of(test: Test) -> Blank | None:
    """The blank of its specimens, under its parameters; none where the sample came ready."""
    if test.job.form != "sheet":
        return None
    return find_method(test.method).blank_for(test.parameters)


def directions_of(test: Test) -> list[str]:
    """The directions that its specimens were planned in; an empty one where there is none."""
    return list(dict.fromkeys(specimen.direction for specimen in test.specimens))


def required_count(test: Test) -> int:
    """How many specimens must count in all; one reading at least where none are planned.

    Where a rule calls them, those that were tested: what else is due it says itself.
    """
    method = find_method(test.method)
    tested = sum(last_run(specimen) is not None for specimen in test.specimens)
    if method.guide.calls is not None:
        return tested
    if method.planned == "by-document":
        return max(tested, 1)
    return required_per_direction(test) * len(directions_of(test))


def to_go(test: Test, direction: str, valid: Collection[str]) -> int:
    """How many valid specimens of a direction are still missing."""
    counted = sum(
        specimen.direction == direction and specimen.label in valid for specimen in test.specimens
    )
    if find_method(test.method).planned == "by-document":
        return 0
    return max(required_per_direction(test) - counted, 0)


def required_per_direction(test: Test) -> int:
    """How many specimens must count in each direction."""
    return int(test.parameters["specimens_wanted"])


def count_in_state(specimens: Sequence[Specimen], now: datetime, *states: SpecimenState) -> int:
    """How many of the specimens are in one of the states."""
    return sum(state_of(specimen, now) in states for specimen in specimens)
