"""Reviews as steps of the plan: a tested job waits for a person who took no part in it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.planning.codec import text_of
from endurant.core.planning.rows import WantedTest
from endurant.store.tables import Job, JobCard, Person
from endurant.work.use_cases.planning.minutes import REVIEW_MIN
from endurant.work.use_cases.review.second_person import people_with_a_hand

MAX_REVIEWS = 200
STEP = "review"
TO_REVIEW = "judge"
RELEASING_ROLES = ("reviewer", "manager")


@dataclass(frozen=True)
class Reviews:
    """The reviews that wait, as tests of a plan; and by whom each may be done."""

    rows: Sequence[WantedTest]
    job_of: Mapping[str, int]
    number_of: Mapping[str, str]
    may: Mapping[int, Sequence[str]]
    """The reviews that each person may do, by the id of the person."""


def waiting_reviews(session: Session) -> Reviews:
    """Every job that waits for its review, the most urgent first."""
    jobs = session.scalars(
        select(Job)
        .join(JobCard, JobCard.job_id == Job.id)
        .where(JobCard.released.is_(False), JobCard.next_code == TO_REVIEW)
        .order_by(JobCard.due_at, Job.id)
        .limit(MAX_REVIEWS)
    ).all()
    people = releasing_people(session)
    involved = people_with_a_hand(session, [job.id for job in jobs]) if jobs else {}
    rows: list[WantedTest] = [
        {
            "id": _id_of(job),
            "title": f"{job.number} {job.product}",
            "method": _id_of(job),
            "due": text_of(job.due_at.replace(second=0, microsecond=0)),
            "priority": 1 + max(job.priority or 0, 0),
            "steps": [{"id": STEP, "hands_on_minutes": REVIEW_MIN}],
        }
        for job in jobs
    ]
    return Reviews(
        rows=rows,
        job_of={_id_of(job): job.id for job in jobs},
        number_of={_id_of(job): job.number for job in jobs},
        may={
            person.id: [
                _id_of(job) for job in jobs if person.id not in involved.get(job.id, frozenset())
            ]
            for person in people
        },
    )


def releasing_people(session: Session) -> list[Person]:
    """Everybody who may release a report."""
    able = select(Person).where(Person.active.is_(True), Person.role.in_(RELEASING_ROLES))
    return list(session.scalars(able.order_by(Person.id)))


def _id_of(job: Job) -> str:
    """What a plan calls the review of a job; no test has such an id."""
    return f"{STEP} {job.number}"
