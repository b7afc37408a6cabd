"""What the bench wrote down of a test that its report says: set-up, sequence, pauses, the pilot."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.bench.events import Event
from endurant.core.methods.guide import SET_UP_CHECKS
from endurant.core.moves import read_moves, title_of
from endurant.core.quantities import in_numbers
from endurant.store.tables import BenchEvent, Job, Test
from endurant.work.record.run_facts import CheckFacts
from endurant.work.reporting.labelled import labels_in_words

Happened = dict[int, list[Event]]
"""The events of specimens, by the id of the specimen."""


def events_of_job(session: Session, job: Job) -> Happened:
    """Everything that happened at the bench to the specimens of a job, in one query."""
    ids = [specimen.id for test in job.tests for specimen in test.specimens]
    rows = session.scalars(
        select(BenchEvent)
        .where(BenchEvent.specimen_id.in_(ids))
        .order_by(BenchEvent.specimen_id, BenchEvent.number)
    )
    happened: Happened = {}
    for row in rows:
        event = Event(row.number, row.kind, row.at, "", row.facts, takes_back=row.takes_back)
        happened.setdefault(row.specimen_id, []).append(event)
    return happened


def at_bench(test: Test, happened: Happened, checks: Sequence[CheckFacts]) -> list[str]:
    """The sentences; none for a test that no bench ran. `checks` are those of its runs."""
    return [
        *_sequence(test),
        *_set_up(checks),
        *_pilots(test, happened),
        *_pauses(test, happened),
        *_taken_over(test, happened),
    ]


def _sequence(test: Test) -> list[str]:
    text = test.parameters.get("moves")
    if not text:
        return []
    called = f" {title_of(str(text))}" if title_of(str(text)) else ""
    moves = "; ".join(move.words() for move in read_moves(str(text)))
    return [f"Run as the sequence{called}: {moves} mm per minute"]


def _set_up(checks: Sequence[CheckFacts]) -> list[str]:
    titles = dict.fromkeys(check.title for check in checks if check.code in SET_UP_CHECKS)
    return [f"Confirmed before testing: {'; '.join(titles)}"] if titles else []


def _pilots(test: Test, happened: Happened) -> list[str]:
    labels = [
        specimen.label
        for specimen in test.specimens
        if any(event.kind == "pilot" for event in happened.get(specimen.id, []))
    ]
    return [f"Pulled as pilot, counts in no mean: {labels_in_words(labels)}"] if labels else []


def _pauses(test: Test, happened: Happened) -> list[str]:
    """How long the device stood still before it was let go on."""
    longest: dict[str, float] = {}
    for specimen in test.specimens:
        since = None
        for event in happened.get(specimen.id, []):
            if event.kind == "paused":
                since = event.at
            elif event.kind == "go-on" and since is not None:
                seconds = (event.at - since).total_seconds()
                longest[specimen.label] = max(longest.get(specimen.label, 0.0), seconds)
                since = None
    if not longest:
        return []
    most = in_numbers(round(max(longest.values())))
    return [f"Paused under way: {labels_in_words(list(longest))}, for {most} s at most"]


def _taken_over(test: Test, happened: Happened) -> list[str]:
    return [
        f"{specimen.label}: {event.facts['why']}"
        for specimen in test.specimens
        for event in happened.get(specimen.id, [])
        if event.kind == "prepare" and event.facts.get("why")
    ]
