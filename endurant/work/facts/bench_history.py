"""What the bench wrote down of a test that its report says: set-up, sequence, pauses, the pilot."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.bench.events import Event
from endurant.core.labelled import labels_in_words
from endurant.core.messages import worded
from endurant.core.methods import find_method
from endurant.core.moves import read_moves, title_of
from endurant.core.rounding import in_numbers
from endurant.store.tables import BenchEvent, Job, Test
from endurant.work.facts.run_facts import CheckFacts, RunSettings

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
        event = Event(row.number, row.kind, row.at, "", row.facts, undoes=row.undoes)
        happened.setdefault(row.specimen_id, []).append(event)
    return happened


def at_bench(
    test: Test,
    happened: Happened,
    checks: Sequence[CheckFacts],
    settings: Mapping[str, RunSettings],
) -> list[str]:
    """The sentences; none for a test that no bench ran.

    `checks` are those of its runs, `settings` what each specimen was tested under, by its label.
    """
    return [
        *_sequence(test),
        *_set_up(test, checks),
        *_pilots(test, happened),
        *_pauses(test, happened),
        *_taken_over(test, happened),
        *_refurbished(test, happened),
        *_barrel(test, happened),
        *_read_off(settings.values()),
        *_supplies(settings.values()),
        *_rooms(settings),
        *_out_of_enclosure(settings),
    ]


def _sequence(test: Test) -> list[str]:
    text = test.parameters.get("moves")
    if not text:
        return []
    called = f" {title_of(str(text))}" if title_of(str(text)) else ""
    moves = "; ".join(move.in_words() for move in read_moves(str(text)))
    return [worded("history.run-as-the-sequence-mm-per-minute", called=called, moves=moves)]


def _set_up(test: Test, checks: Sequence[CheckFacts]) -> list[str]:
    guide = find_method(test.method).guide
    known = {check.code for check in guide.ready_checks if check.set_up}
    titles = dict.fromkeys(check.title for check in checks if check.code in known)
    return [worded("history.confirmed-before-testing", titles="; ".join(titles))] if titles else []


def _pilots(test: Test, happened: Happened) -> list[str]:
    labels = [
        specimen.label
        for specimen in test.specimens
        if any(event.kind == "pilot" for event in happened.get(specimen.id, []))
    ]
    return (
        [worded("history.pulled-as-pilot-counts-in-no-mean", labels=labels_in_words(labels))]
        if labels
        else []
    )


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
    upper = in_numbers(round(max(longest.values())))
    return [
        worded(
            "history.paused-under-way-for-s-at-most",
            longest=labels_in_words(list(longest)),
            upper=upper,
        )
    ]


def _taken_over(test: Test, happened: Happened) -> list[str]:
    return [
        f"{specimen.label}: {event.facts['why']}"
        for specimen in test.specimens
        for event in happened.get(specimen.id, [])
        if event.kind == "prepare" and event.facts.get("why")
    ]


def _barrel(test: Test, happened: Happened) -> list[str]:
    """What the sensors of a barrel read as it was charged and as the load was laid on."""
    message = []
    for code, when in (("charging", "charging"), ("purged", worded("history.the-purge"))):
        read = [
            float(event.facts["device"][name])
            for specimen in test.specimens
            for event in happened.get(specimen.id, [])
            if event.kind == code and "device" in event.facts
            for name in ("upper_c", "lower_c")
            if name in event.facts["device"]
        ]
        if read:
            message.append(
                worded(
                    "history.to-c-at",
                    read=in_numbers(min(read)),
                    read_2=in_numbers(max(read)),
                    when=when,
                )
            )
    return [worded("history.barrel", message=", ".join(message))] if message else []


def _read_off(settings: Iterable[RunSettings]) -> list[str]:
    gauges = dict.fromkeys(
        f"{gauge.name} {gauge.serial}" for each in settings for gauge in each.gauges
    )
    return [worded("history.read-off", gauges=", ".join(gauges))] if gauges else []


def _supplies(settings: Iterable[RunSettings]) -> list[str]:
    """Which lots were used, and what they had done by the last specimen."""
    lots: dict[tuple[str, str], int] = {}
    for each in settings:
        for lot in each.supplies:
            key = (lot.kind, lot.lot)
            lots[key] = max(lots.get(key, 0), lot.count)
    wording = [
        worded("history.lot-done", kind=kind, lot=lot, count=count)
        for (kind, lot), count in lots.items()
    ]
    return [worded("history.used", used=", ".join(wording))] if wording else []


def _rooms(settings: Mapping[str, RunSettings]) -> list[str]:
    """The air at the station while it was tested, and the specimens for which it departed."""
    known = [each.room for each in settings.values() if each.room is not None]
    read = [room for room in known if room.temperature_c is not None]
    message = []
    if read:
        warm = [room.temperature_c for room in read if room.temperature_c is not None]
        damp = [room.humidity_percent for room in read if room.humidity_percent is not None]
        air = worded("history.to-c", warm=in_numbers(min(warm)), warm_2=in_numbers(max(warm)))
        if damp:
            air += worded("history.to-rh", damp=in_numbers(min(damp)), damp_2=in_numbers(max(damp)))
        rooms = " and ".join(dict.fromkeys(room.room for room in known))
        message.append(worded("history.during-the-test", rooms=rooms, air=air))
    departed: dict[str, list[str]] = {}
    for label, each in settings.items():
        if each.room is not None and each.room.departs:
            departed.setdefault(f"{each.room.room}: {each.room.departs}", []).append(label)
    return [
        *message,
        *(f"{labels_in_words(labels)}: {wording}" for wording, labels in departed.items()),
    ]


def _refurbished(test: Test, happened: Happened) -> list[str]:
    """What was done to specimens between their states, in the words of whoever did it."""
    wording: dict[str, list[str]] = {}
    for specimen in test.specimens:
        for event in happened.get(specimen.id, []):
            if event.kind == "refurbished":
                wording.setdefault(str(event.facts.get("refurbishing")), []).append(specimen.label)
    return [
        worded("history.refurbished", labels=labels_in_words(labels), message=message)
        for message, labels in wording.items()
    ]


def _out_of_enclosure(settings: Mapping[str, RunSettings]) -> list[str]:
    """How long specimens lay out of their enclosure at most, and which of them too long."""
    out = {label: each.out for label, each in settings.items() if each.out is not None}
    if not any(facts.minutes for facts in out.values()):
        return []
    longest = in_numbers(max(facts.minutes for facts in out.values()))
    message = [worded("history.from-the-enclosure-to-the-test-min-at", longest=longest)]
    late = [label for label, facts in out.items() if facts.too_long]
    if late:
        upper = in_numbers(next(iter(out.values())).most_minutes)
        message.append(
            worded(
                "history.longer-than-the-min-of-the-lab-settings",
                late=labels_in_words(late),
                upper=upper,
            )
        )
    return message
