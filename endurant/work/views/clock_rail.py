"""The clocks that run: conditioning periods, and windows that close."""

from __future__ import annotations

from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from endurant.core.clocks import Clock
from endurant.core.messages import worded
from endurant.store import clock
from endurant.store.tables import Enclosure
from endurant.work.base.clock_set import last_clock_set
from endurant.work.base.transactions import transaction
from endurant.work.facts.conditioning_models import (
    ClockSetView,
    ClocksView,
    ClockView,
    ConditioningGroup,
    WaitingGroup,
)
from endurant.work.read_models.board import on_board
from endurant.work.read_models.job_cards import refresh_turned
from endurant.work.views.conditioning import (
    all_waiting,
    groups_counted,
    open_enclosures,
    stored_groups,
)
from endurant.work.views.running_clocks import bench_clocks


def clocks() -> ClocksView:
    """Every running clock: conditioning periods, and windows that close."""
    with transaction() as session:
        refresh_turned(session, clock.now())
        view = on_board("clocks", session, lambda: _view(session, clock.now()))
    return view.model_copy(update={"now": clock.now()})


def _view(session: Session, now: datetime) -> ClocksView:
    enclosures = list(session.scalars(open_enclosures()))
    placed, waiting = stored_groups(session, open_only=True)
    awaited = [group for group in placed if group.awaited and group.atmosphere is not None]
    shown = groups_counted(session, enclosures, awaited, now)
    with_window = [group for group in waiting if group.latest_at is not None]
    windows = all_waiting(enclosures, with_window, now)
    together = {
        (enclosure.id, group.job_id, group.placed_at, group.runs_out_at): (enclosure, group)
        for enclosure in enclosures
        for group in shown[enclosure.id]
    }
    tapes = [_period(enclosure, group, now) for enclosure, group in together.values()]
    tapes += [_window(group, now) for group in windows]
    tapes += bench_clocks(session, now)
    tapes.sort(key=lambda tape: (tape.ends_at <= now, tape.ends_at))
    was_set = last_clock_set(session, now)
    return ClocksView(
        now=now,
        clocks=[ClockView.model_validate(tape) for tape in tapes],
        clock_set=None if was_set is None else ClockSetView.model_validate(was_set),
    )


def _period(enclosure: Enclosure, group: ConditioningGroup, now: datetime) -> Clock:
    missing = timedelta(minutes=group.least_minutes - group.minutes)
    if group.ready:
        message = "Served"
    else:
        message = (
            enclosure.name
            if group.runs_out_at
            else worded("clock.clock-paused", name=enclosure.name)
        )
    return Clock(
        kind="at-least",
        text=message,
        whose=f"{group.job_number} {group.product}",
        starts_at=group.placed_at,
        ends_at=group.runs_out_at or now + missing,
        when_missed=worded("clock.tested-too-early-the-report-carries-a"),
        leads_to=f"/bench/{group.job_id}" if group.ready else "/conditioning",
    )


def _window(group: WaitingGroup, now: datetime) -> Clock:
    return Clock(
        kind="at-most",
        text=worded("clock.into", atmosphere_title=group.atmosphere_title)
        if group.atmosphere_title
        else worded("clock.to-be-tested"),
        whose=f"{group.job_number} {group.product}",
        starts_at=now,
        ends_at=group.latest_at or now,
        when_missed=worded("clock.the-window-is-overrun-and-the-report-says"),
        leads_to="/conditioning",
    )
