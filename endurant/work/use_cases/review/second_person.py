"""Who may not release a report: everyone who had a hand in the job that it reports.

Any entry of the record that names a job keeps its author from releasing it, except the few kinds
of `NO_HAND`. A kind that is new bars too, until somebody puts it there.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from endurant.store.tables import AuditEntry, BenchEvent, Job, Person, Run, Specimen, Test
from endurant.work.base.actors import Actor
from endurant.work.facts.laboratory import laboratory

CONFIRMS = "confirm"
"""A supervisor confirms what a trainee tested; whether she may release it the lab decides."""
NO_HAND: Mapping[str, str] = {
    "release": "releasing is what the second eyes do",
    "open-correction": "a correction is opened by who releases it again",
    "withdraw-report": "a report is withdrawn by who released it, or by another reviewer",
    "custody-kept": "what becomes of a sample enters no figure",
    "custody-split": "what becomes of a sample enters no figure",
    "custody-returned": "what becomes of a sample enters no figure",
    "custody-disposed": "what becomes of a sample enters no figure",
    "custody-told": "who was told enters no figure",
    "custody-collected": "who was handed the report enters no figure",
    "attach": "a file beside the job enters no figure",
    "remove-attachment": "a file beside the job enters no figure",
    "open-nonconformity": "what went wrong is written down, not measured",
    "change-nonconformity": "what went wrong is written down, not measured",
    "close-nonconformity": "what went wrong is written down, not measured",
    "pin": "when something is tested is planned, not how",
}
"""The kinds of entries that bar nobody, each with why."""
SAYS: Mapping[str, str] = {
    "start-run": "tested specimens",
    "bench-act": "tested specimens",
    "bench-note": "tested specimens",
    "take-back": "tested specimens",
    "stop-run": "tested specimens",
    "bring-in": "imported readings",
    "keep": "accepted specimens",
    "void": "voided specimens",
    "withdraw-void": "undid a void",
    "change-limits": "changed limits",
    "set-up": "changed the set-up",
    "receive": "received the sample",
    "begin-study": "received the sample",
    "amend": "changed the job",
    "amend-test": "changed parameters",
    "add-test": "added a test",
    "drop-test": "dropped a test",
    "retest": "allowed a retest",
    "measure": "measured specimens",
    "weigh": "weighed specimens",
    "weigh-blanks": "weighed blanks",
    "choose-area-rule": "chose the area rule",
    "prepare": "changed the preparation",
    "hang": "conditioned specimens",
    "take-out": "conditioned specimens",
    "cut": "cut specimens",
    CONFIRMS: "confirmed tests of a trainee",
}
"""What a person did, by the kind of entry; of any other it is said that she worked on the job."""


def barred(session: Session, job: Job, actor: Actor) -> str | None:
    """Why this person does not release this job; None when their eyes are a second pair."""
    actions = set(
        session.scalars(
            select(AuditEntry.action)
            .where(AuditEntry.job_id == job.id, AuditEntry.person_id == actor.id)
            .distinct()
        )
    )
    lab = laboratory(session)
    if lab.supervisor_releases == "yes":
        actions.discard(CONFIRMS)
    done = {SAYS.get(action, "worked on the job") for action in actions - NO_HAND.keys()}
    if actor.id in tester_ids(session, job):
        done.add(SAYS["start-run"])
    if not done:
        return None
    return (
        f"{actor.name} {', '.join(sorted(done))} ({job.number}). "
        "A report is released by a person who took no part in the job"
    )


def tester_ids(session: Session, job: Job) -> set[int]:
    """Everyone with an event on one of its specimens, those of dropped tests among them."""
    own = select(Specimen.id).join(Test).where(Test.job_id == job.id)
    runs = session.scalars(select(Run.by_id).where(Run.specimen_id.in_(own)))
    actions = session.scalars(select(BenchEvent.by_id).where(BenchEvent.specimen_id.in_(own)))
    entries = session.scalars(
        select(AuditEntry.person_id).where(
            AuditEntry.job_id == job.id,
            or_(AuditEntry.entity.in_(("specimen", "run")), AuditEntry.action == "bring-in"),
        )
    )
    return {person for person in (*runs, *actions, *entries) if person is not None}


def people_with_a_hand(session: Session, job_ids: Collection[int]) -> dict[int, set[int]]:
    """Who took part in each of many jobs, by id of the job: those whom `barred` keeps from it."""
    entries = select(AuditEntry.job_id, AuditEntry.person_id).where(
        AuditEntry.job_id.in_(job_ids), AuditEntry.action.notin_(NO_HAND)
    )
    if laboratory(session).supervisor_releases == "yes":
        entries = entries.where(AuditEntry.action != CONFIRMS)
    of_specimen = select(Test.job_id, Specimen.id).join(Specimen).where(Test.job_id.in_(job_ids))
    own = of_specimen.subquery()
    runs = select(own.c.job_id, Run.by_id).join(Run, Run.specimen_id == own.c.id)
    actions = select(own.c.job_id, BenchEvent.by_id).join(
        BenchEvent, BenchEvent.specimen_id == own.c.id
    )
    involved: dict[int, set[int]] = {}
    for found in (entries, runs, actions):
        for job_id, person_id in session.execute(found.distinct()):
            involved.setdefault(job_id, set()).add(person_id)
    return involved


def tester_names(session: Session, job: Job) -> list[str]:
    """Their names, as the report gives them."""
    own = select(Person.name).where(Person.id.in_(tester_ids(session, job)))
    return list(session.scalars(own.order_by(Person.name)))
