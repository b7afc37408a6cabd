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
                title=f"Confirm: {'; '.join(holds.values()) or 'lid on'}. Draw {vacuum} kPa",
                why=f"The vacuum then stands for {in_numbers(dwell_s)} s.",
                button=f"Draw {vacuum} kPa",
                confirms=holds,
                hold=True,
                caution="A jar under vacuum can burst: shield in place, eye protection on.",
                tells="evacuate",
                starts=Timer(CLOCK, "Under vacuum", "at-least", dwell_s, within_s=0.5, holds=True),
            ),
            Action(
                code="looked",
                title="Record where bubbles come from",
                why="A steady stream is a leak. A few bubbles that cling to the outside are not.",
                button="Record",
                asks=asks_for(method, ("bubbles", "place")),
                ends=CLOCK,
            ),
            Action(
                code="aired",
                title="Let air in, then open the lid",
                why="Never the other way round.",
                button="Let air in",
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
