"""Weighed before, treated for a time, weighed after: no device records, the clock counts."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from endurant.core.bench.actions import Action, Timer
from endurant.core.bench.procedure import (
    Drawing,
    asks_for,
    by_hand,
    checks_of,
    reading_facts,
)
from endurant.core.bench.rubbing import rubbing
from endurant.core.bench.state import State
from endurant.core.devices import RecorderKind
from endurant.core.messages import worded
from endurant.core.methods.guide import WeighGuide
from endurant.core.methods.method import Method
from endurant.core.rounding import in_numbers

CLOCK, POUR_OFF = "wet", "pour-off"
SHORT_S, POUR_OFF_SHORT_S, POUR_OFF_S = 30.0, 10.0, 15.0


class WeighProcedure:
    """One specimen on a balance, twice."""

    device: RecorderKind | None = None

    def actions(self, method: Method, parameters: Mapping[str, Any]) -> tuple[Action, ...]:
        """Weigh, wet or rub for the set time, weigh again at once."""
        live = method.guide.live
        if not isinstance(live, WeighGuide):
            raise TypeError(f"{method.id} is not weighed at the bench")
        checks = checks_of(self, method, parameters)
        actions = [*by_hand(checks), _weighed(method, live.before, "before")]
        seconds = float(parameters.get(live.clock) or 0) if live.clock else 0.0
        if seconds:
            actions += _wetted(seconds, pour_off_before_s(seconds))
        elif live.rubs is not None:
            actions += rubbing(live.rubs(parameters))
        return (*actions, _weighed(method, live.after, "after"))

    def readings(self, method: Method, state: State) -> dict[str, Any]:
        """Both masses."""
        return reading_facts(method, state.facts)

    def drawing(self, method: Method, parameters: Mapping[str, Any]) -> Drawing | None:
        """Nothing is recorded; the clock and the masses are the procedure."""
        return None

    def setup(self, method: Method, parameters: Mapping[str, Any]) -> dict[str, float | str]:
        """Nothing is set."""
        return {}


def pour_off_before_s(seconds: float) -> float:
    """Return how long before the end the water is poured off: 10 s for short tests, else 15 s."""
    return POUR_OFF_SHORT_S if seconds <= SHORT_S else POUR_OFF_S


def _weighed(method: Method, name: str, when: str) -> Action:
    return Action(
        code=f"weighed-{when}",
        title=worded("step.weigh-the-test", when=when),
        why=worded("step.weigh-at-once-the-mass-changes-in-air")
        if when == "after"
        else worded("step.balance-tared"),
        button=worded("step.record-mass"),
        asks=asks_for(method, (name,), gauge="balance"),
    )


def _wetted(seconds: float, pour_off_s: float) -> list[Action]:
    return [
        Action(
            code="poured",
            title=worded("step.clamp-under-the-ring-and-pour-the-water"),
            why=worded("step.the-clock-starts-with-the-first-water-s", seconds=in_numbers(seconds)),
            button=worded("step.confirm-poured"),
            starts=Timer(CLOCK, worded("step.time-under-water"), "exactly", seconds, holds=True),
            also_starts=(
                Timer(
                    POUR_OFF,
                    worded("step.time-to-pour-off"),
                    "exactly",
                    seconds - pour_off_s,
                    2.0,
                    holds=True,
                ),
            ),
        ),
        Action(
            code="poured-off",
            title=worded("step.pour-off-the-water"),
            why=worded(
                "step.s-before-the-end-so-that-the-blotter-is", pour_off_s=in_numbers(pour_off_s)
            ),
            button=worded("step.confirm-poured-off"),
            ends=POUR_OFF,
        ),
        Action(
            code="blotted",
            title=worded("step.lay-on-the-blotter-and-roll-twice"),
            why=worded("step.at-the-end-of-the-time-water-left-on-the"),
            button=worded("step.confirm-blotted"),
            ends=CLOCK,
        ),
    ]
