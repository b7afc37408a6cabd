"""The clocks that specimens at the bench have running: preheat, soak, charge, settling."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from datetime import datetime, timedelta

from sqlalchemy import exists, func, select
from sqlalchemy.orm import Session

from endurant.core.bench.actions import Clock as BenchClock
from endurant.core.bench.state import State
from endurant.core.clocks import Clock
from endurant.core.messages import worded
from endurant.core.methods import find_method
from endurant.core.methods.guide import SeriesGuide
from endurant.core.refusals import Refusal
from endurant.store.tables import BenchEvent, Run, Specimen
from endurant.work.facts.bench_events import events_in, state_after
from endurant.work.facts.test_settings import title_of

LOOKED_BACK = timedelta(hours=30)
SHOWN_AFTER = timedelta(minutes=30)
"""A clock that ran out is shown so long; then the specimen was left, and its bench says so."""
MAX_SPECIMENS = 60
COUNT = "count"
LOOKS_OF_A_PACE = 2
WHEN_MISSED = {
    "at-least": worded("clock.too-short-and-the-report-says-so"),
    "at-most": worded("clock.too-late-and-the-report-says-so"),
    "exactly": worded("clock.off-its-time-and-the-report-says-so"),
}


def bench_clocks(session: Session, now: datetime) -> list[Clock]:
    """The clocks of specimens that somebody is at, in no order."""
    done = exists().where(Run.specimen_id == BenchEvent.specimen_id, Run.state == "settled")
    ids = session.scalars(
        select(BenchEvent.specimen_id)
        .where(BenchEvent.at > now - LOOKED_BACK, ~done)
        .group_by(BenchEvent.specimen_id)
        .order_by(func.max(BenchEvent.id).desc())
        .limit(MAX_SPECIMENS)
    ).all()
    if not ids:
        return []
    events: dict[int, list[BenchEvent]] = defaultdict(list)
    for row in session.scalars(
        select(BenchEvent)
        .where(BenchEvent.specimen_id.in_(ids))
        .order_by(BenchEvent.specimen_id, BenchEvent.number)
    ):
        events[row.specimen_id].append(row)
    clocks = []
    for specimen in session.scalars(select(Specimen).where(Specimen.id.in_(ids))):
        try:
            state = state_after(specimen, events_in(events[specimen.id]))
        except Refusal:
            continue  # what cannot be replayed is said at its bench, and stops no other clock
        clocks += [_tape(specimen, running) for running in state.clocks]
        again = _next_look(specimen, state, events[specimen.id])
        clocks += [again] if again is not None else []
    return [clock for clock in clocks if clock.ends_at > now - SHOWN_AFTER]


def _next_look(specimen: Specimen, state: State, events: Sequence[BenchEvent]) -> Clock | None:
    """When the next look at a count is due, by the pace between the last two; None before that."""
    method = find_method(specimen.test.method)
    series = method.guide.live
    if not isinstance(series, SeriesGuide) or state.phase == "complete":
        return None
    looks = [event for event in events if COUNT in event.facts and event.undoes is None]
    if len(looks) < LOOKS_OF_A_PACE:
        return None
    items = [event.facts for event in looks]
    turn = series.turn(specimen.test.parameters, items)
    asks = () if turn is None else turn.asks
    due = next((each.preset for each in asks if each.name == COUNT), None)
    counts = [float(item[COUNT]) for item in items[-LOOKS_OF_A_PACE:]]
    if not isinstance(due, int | float) or counts[1] <= counts[0]:
        return None
    pace = (looks[-1].at - looks[-2].at) / (counts[1] - counts[0])
    return Clock(
        kind="every",
        text=worded("clock.look-at", due=due, label=specimen.label),
        whose=f"{specimen.test.job.number} {method.title}",
        starts_at=looks[-1].at,
        ends_at=looks[-1].at + pace * (due - counts[1]),
        when_missed=worded("clock.the-count-at-which-it-changed-is-known"),
        leads_to=f"/bench/{specimen.test.job.id}?specimen={specimen.id}",
    )


def _tape(specimen: Specimen, running: BenchClock) -> Clock:
    timer, job = running.timer, specimen.test.job
    return Clock(
        kind=timer.kind,
        text=f"{timer.title}, {specimen.label}",
        whose=f"{job.number} {title_of(specimen.test)}",
        starts_at=running.since,
        ends_at=running.since + timedelta(seconds=timer.seconds),
        when_missed=WHEN_MISSED[timer.kind],
        leads_to=f"/bench/{job.id}?specimen={specimen.id}",
    )
