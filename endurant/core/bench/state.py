"""Where a specimen stands in its test."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from endurant.core.bench.actions import (
    Action,
    Clock,
    Departed,
    Phase,
)
from endurant.core.bench.events import OutOfOrder
from endurant.core.methods.guide import Turn


@dataclass(frozen=True)
class State:
    """Where a specimen stands in its test. `facts` are the values typed or read off a gauge.

    `folded` where the items that concern the set-up are confirmed in one act; `reasons` are those
    given for deviations, by their code; `departed` are the clocks that were not kept.
    """

    label: str
    actions: tuple[Action, ...]
    watch: str = ""
    phase: Phase = "before"
    done: tuple[str, ...] = ()
    facts: Mapping[str, Any] = field(default_factory=dict)
    clocks: tuple[Clock, ...] = ()
    departed: tuple[Departed, ...] = ()
    reasons: Mapping[str, str] = field(default_factory=dict)
    noted: tuple[str, ...] = ()
    people: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    going: str = ""
    last: int = 0
    folded: bool = False

    @property
    def remarks(self) -> tuple[str, ...]:
        """The clocks that were not kept, in sentences."""
        return tuple(each.text for each in self.departed)

    def act(self, code: str) -> Action:
        """An act of this test by its code; raises OutOfOrder for one that it does not have."""
        for act in self.actions:
            if act.code == code:
                return act
        known = ", ".join(act.code for act in self.actions)
        raise OutOfOrder("bench.action-unknown", code=code, known=known)

    def in_phase(self) -> tuple[Action, ...]:
        """Return the actions that belong to where the test is now."""
        return tuple(act for act in self.actions if act.phase == self.phase and self.asks_for(act))

    def asks_for(self, act: Action) -> bool:
        """True for an act that the facts so far ask for."""
        return act.when is None or act.when(self.facts)


def collected(state: State, act: Action) -> list[Any]:
    """Return what a series has given so far."""
    return list(state.facts.get(act.collects, ()))


def turn_of(state: State, act: Action) -> Turn | None:
    """Return what the next turn of a series is; None for other actions, and when there is none."""
    return None if act.turns is None else act.turns(collected(state, act))


def has_begun(state: State, ending: Action) -> bool:
    """The series that this act ends has an item."""
    return any(act.code == ending.ends_series and collected(state, act) for act in state.in_phase())


def is_past(act: Action, state: State) -> bool:
    """Something that comes after it was done already."""
    actions = state.in_phase()
    return any(later.code in state.done for later in actions[actions.index(act) + 1 :])


def holds_up(act: Action) -> bool:
    """What comes after it has to wait until it is done."""
    return not act.reads and not act.optional
