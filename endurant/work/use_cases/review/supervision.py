"""What trainees tested under a supervisor: said in the report, and confirmed before its release."""

from __future__ import annotations

from collections.abc import Iterator

from endurant.core.labelled import labels_in_words
from endurant.core.messages import Message
from endurant.core.refusals import Conflict, Forbidden
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.tables import Job, Run, Specimen, Test
from endurant.work.base.actors import Actor
from endurant.work.base.transactions import transaction
from endurant.work.facts.models import JobView
from endurant.work.facts.results import runs_of
from endurant.work.facts.run_facts import RunSettings, SupervisorFacts
from endurant.work.facts.status import refuse_released
from endurant.work.views.job_page import job_view


def supervised_runs(test: Test) -> Iterator[tuple[Specimen, Run, SupervisorFacts]]:
    """The runs that a trainee made, each with the supervisor it was made under."""
    for specimen, run in runs_of(test):
        under = RunSettings.model_validate(run.settings).under
        if under is not None:
            yield specimen, run, under


def supervision_text(test: Test) -> list[str]:
    """The sentences of the report: who tested under whom, and who confirmed it."""
    said: dict[str, list[str]] = {}
    for specimen, run, under in supervised_runs(test):
        confirmed = "not confirmed yet"
        if run.confirmed_at is not None and run.confirmed_by is not None:
            confirmed = f"confirmed by {run.confirmed_by.name} on {run.confirmed_at:%d %b %Y}"
        text = f"tested by the trainee {run.by.name} under {under.name}, {confirmed}"
        said.setdefault(text, []).append(specimen.label)
    return [f"{labels_in_words(labels)}: {text}" for text, labels in said.items()]


def unconfirmed(job: Job) -> list[str]:
    """What keeps a report from being released, in words."""
    waiting: dict[str, list[str]] = {}
    for test in job.tests:
        for specimen, run, under in supervised_runs(test):
            if run.confirmed_at is None:
                text = f"tested by {run.by.name}, {under.name} has not confirmed it yet"
                waiting.setdefault(text, []).append(specimen.label)
    return [f"{labels_in_words(labels)}: {text}" for text, labels in waiting.items()]


def waits_for(job: Job, actor: Actor) -> bool:
    """True when this person has something to confirm."""
    return any(
        run.confirmed_at is None and under.id == actor.id
        for test in job.tests
        for _, run, under in supervised_runs(test)
    )


def confirm(actor: Actor, job_id: int) -> JobView:
    """The supervisor confirms what trainees tested under them.

    Raises Conflict when nothing waits, Forbidden when it waits for somebody else.
    """
    actor.must("test")
    with transaction() as session:
        job = refuse_released(session, job_id)
        mine: list[str] = []
        others: set[str] = set()
        for test in job.tests:
            for specimen, run, under in supervised_runs(test):
                if run.confirmed_at is not None:
                    continue
                if under.id != actor.id:
                    others.add(under.name)
                    continue
                run.confirmed_at, run.confirmed_by_id = clock.now(), actor.id
                mine.append(specimen.label)
        if not mine and others:
            raise Forbidden("supervision.other-supervisor", supervisors=sorted(others))
        if not mine:
            raise Conflict("supervision.nothing-waiting", job=job.number)
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="confirm",
            entity="job",
            entity_id=job.id,
            job_id=job.id,
            message=Message(
                "audit.confirm", {"actor": actor.name, "labels": labels_in_words(mine)}
            ),
        )
        return job_view(session, job)
