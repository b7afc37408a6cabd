"""A pack under vacuum in a jar: covered with water, the dwell counted, looked at, let in."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from endurant.core.bench.actions import Action, Timer
from endurant.core.bench.procedure import (
    Drawing,
    asks_for,
    by_hand,
    checks_of,
    holds_of,
    reading_facts,
)
from endurant.core.bench.state import State
from endurant.core.devices import RecorderKind
from endurant.core.messages import worded
from endurant.core.methods.method import Method
from endurant.core.rounding import in_numbers

CLOCK = "dwell"


class LeakProcedure:
    """One pack in the jar."""

    device: RecorderKind | None = None

    def actions(self, method: Method, parameters: Mapping[str, Any]) -> tuple[Action, ...]:
        """Under the grid, lid on, vacuum for its time, a look, and air before it is opened."""
        checks = checks_of(self, method, parameters)
        vacuum = in_numbers(float(parameters.get("vacuum_kpa") or 0))
        dwell_s = float(parameters.get("dwell_s") or 0)
        holds = holds_of(checks)
        return (
            *by_hand(checks),
            Action(
                code="vacuum",
                title=worded(
                    "step.confirm-draw-kpa",
                    values="; ".join(holds.values()) or "lid on",
                    vacuum=vacuum,
                ),
                why=worded("step.the-vacuum-then-stands-for-s", dwell_s=in_numbers(dwell_s)),
                button=worded("step.draw-kpa", vacuum=vacuum),
                confirms=holds,
                hold=True,
                caution=worded("step.a-jar-under-vacuum-can-burst-shield-in"),
                tells="evacuate",
                starts=Timer(
                    CLOCK,
                    worded("step.under-vacuum"),
                    "at-least",
                    dwell_s,
                    within_s=0.5,
                    holds=True,
                ),
            ),
            Action(
                code="looked",
                title=worded("step.record-where-bubbles-come-from"),
                why=worded("step.a-steady-stream-is-a-leak-a-few-bubbles"),
                button="Record",
                asks=asks_for(method, ("bubbles", "place")),
                ends=CLOCK,
            ),
            Action(
                code="aired",
                title=worded("step.let-air-in-then-open-the-lid"),
                why=worded("step.never-the-other-way-round"),
                button=worded("step.let-air-in"),
                tells="air",
                safety=True,
            ),
        )

    def readings(self, method: Method, state: State) -> dict[str, Any]:
        """Return what was seen."""
        return reading_facts(method, state.facts)

    def drawing(self, method: Method, parameters: Mapping[str, Any]) -> Drawing | None:
        """Nothing is recorded."""
        return None

    def setup(self, method: Method, parameters: Mapping[str, Any]) -> dict[str, float | str]:
        """Return the vacuum and its time."""
        names = ("vacuum_kpa", "dwell_s")
        return {name: float(parameters[name]) for name in names if parameters.get(name)}
