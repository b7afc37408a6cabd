"""The ready check as the bench shows it: what a device reports and what a person confirmed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from endurant.core.bench.actions import Action
from endurant.core.bench.events import Event, in_force
from endurant.core.bench.procedure import checks_of
from endurant.core.bench.procedures import procedure_of
from endurant.core.bench.state import State
from endurant.core.bench.status import Status, tick
from endurant.core.methods.method import Method
from endurant.core.rounding import in_numbers
from endurant.work.views.bench.models import (
    CheckView,
)


def _done_by_device(state: State, code: str) -> bool:
    """True for an action that a device did: it cannot be taken back."""
    return any(act.code == code and (act.tells or act.records) for act in state.actions)


def check_views(
    method: Method,
    state: State,
    status: Status | None,
    aims: tuple[Mapping[str, Any], Mapping[str, Any]],
    events: Sequence[Event],
) -> list[CheckView]:
    """The list of the ready check: `aims` are those of the test, and those at its station."""
    by_hand = {
        event.kind: event.number
        for event in in_force(events)
        if event.by and not _done_by_device(state, event.kind)
    }
    confirmed = {code for act in state.actions if act.code in state.done for code in act.confirms}
    checks = []
    answers = {
        code: message
        for act in state.actions
        for code in act.confirms
        if (message := _answered(act, state))
    }
    for check in checks_of(procedure_of(method), method, aims[0]):
        ticked, message = (
            check.code in confirmed,
            answers.get(check.code, "confirmed by the operator"),
        )
        if check.reads is not None:
            read = tick(check.reads, status, aims[1])
            ticked, message = read.ticked, read.text
        checks.append(
            CheckView(
                code=check.code,
                title=check.title,
                reason=check.reason,
                reads=check.reads,
                hold=check.hold,
                ticked=ticked,
                text=message if ticked or check.reads else "",
                event=by_hand.get(check.code) if ticked else None,
            )
        )
    return checks


def _answered(act: Action, state: State) -> str:
    """The numbers that answer an item."""
    return ", ".join(
        f"{answer_in_words(state.facts[ask.name])} {ask.unit}".strip()
        for ask in act.asks
        if ask.name in state.facts
    )


def answer_in_words(value: object) -> str:
    """A value as a person reads it: a list of values with spaces, a number rounded for reading."""
    if isinstance(value, list):
        return " ".join(map(answer_in_words, value))
    return in_numbers(value) if isinstance(value, float) else str(value)
