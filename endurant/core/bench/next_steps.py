"""The next step of a specimen, and the steps that may be done beside it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from endurant.core.bench.actions import GO, Action, Step
from endurant.core.bench.engine import ran_through
from endurant.core.bench.state import State, has_begun, holds_up, is_past, turn_of
from endurant.core.bench.status import Status, tick
from endurant.core.messages import worded


def next_step(state: State, status: Status | None, parameters: Mapping[str, Any]) -> Step:
    """Return the one thing to do next; a device that ticks an item has that act done."""
    if state.phase == "recording":
        return Step(
            "stop",
            state.watch or worded("step.watch-the-run"),
            worded("step.the-run-ends-by-itself-stop-it-if"),
            worded("step.stop-run"),
            kind="watch",
        )
    for act in state.in_phase():
        ticked = act.reads and all(tick(name, status, parameters).ticked for name in act.reads)
        if not ticked and not act.optional and (act.reads or act.code not in state.done):
            return _step(act, state, status)
    return Step(
        "keep",
        worded("step.check", label=state.label),
        worded("step.accept-the-specimen-if-the-test-ran"),
        worded("step.accept", label=state.label),
        kind="look",
    )


def optional_steps(state: State) -> list[Step]:
    """What may be done now beside the next step: optional actions whose turn has not passed."""
    steps = []
    for act in state.in_phase():
        if act.optional and act.code not in state.done and not is_past(act, state):
            if not act.ends_series or has_begun(state, act):
                steps.append(_step(act, state))
        elif holds_up(act) and act.code not in state.done:
            break
    return steps


def beside(state: State) -> list[Step]:
    """All that may be done beside the next step; a device that pauses can be stopped there."""
    if state.phase != "paused":
        return optional_steps(state)
    return [
        *optional_steps(state),
        Step(
            "stop",
            worded("step.stop-the-run-here"),
            worded("step.the-recorded-data-stays-and-the-specimen"),
            worded("step.stop-run"),
            kind="watch",
        ),
    ]


def _step(act: Action, state: State, status: Status | None = None) -> Step:
    turn = turn_of(state, act)
    if turn is not None and turn.goes is not None and state.going != act.code:
        go = turn.goes
        return Step(
            act=f"{GO}{act.code}",
            title=go.title.format(label=state.label),
            why=go.why,
            button=go.button,
            confirms=tuple(act.confirms),
            hold=bool(act.confirms),
            caution=_caution_for(go.caution or act.caution, act),
            unattended_min=go.seconds / 60,
        )
    said = turn or act
    ended = (act.ends, act.code) if act.turns is not None else (act.ends,)
    return Step(
        act=act.code,
        title=said.title.format(label=state.label),
        why=said.why.format(label=state.label),
        button=said.button.format(label=state.label),
        kind="end" if act.ends_series else "do",
        confirms=() if turn is not None and turn.goes else tuple(act.confirms),
        asks=said.asks,
        hold=act.hold,
        caution=act.caution if turn is None or turn.goes else _caution_for(act.caution, act),
        held_until=_held_until(state, ended) if not ran_through(state, act, status) else None,
        hands_on_min=act.hands_on_min,
        unattended_min=act.unattended_min,
    )


def _held_until(state: State, ended: Sequence[str]) -> datetime | None:
    clocks = (clock for clock in state.clocks if clock.timer.code in ended)
    return next((clock.held_until() for clock in clocks), None)


def _caution_for(caution: str, act: Action) -> str:
    """The caution of a turn, with what its button confirms: nothing is ticked unseen."""
    if not act.confirms:
        return caution
    return worded(
        "step.you-confirm", caution=caution, values="; ".join(act.confirms.values())
    ).strip()


def unticked(state: State, status: Status | None, parameters: Mapping[str, Any]) -> list[str]:
    """Return what the device has to tick before it may record, and does not: names of `reads`."""
    return [
        name
        for act in state.actions
        if act.phase == "before" and state.asks_for(act)
        for name in act.reads
        if not tick(name, status, parameters).ticked
    ]
