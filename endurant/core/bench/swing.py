"""A blow of a pendulum: struck, read off the scale, and looked at."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
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
from endurant.core.methods.guide import Ask, SwingGuide
from endurant.core.methods.method import Method
from endurant.core.rounding import in_numbers

CLOCK, SOAK = "on-the-way", "soaking"
ROOM_C, WITHIN_C = 23.0, 2.0
MIN_SHARE, MAX_SHARE = 0.1, 0.8


@dataclass(frozen=True)
class Scale:
    """The scale of a pendulum: what its end reads, and between which shares a reading counts."""

    reading: str
    full: float
    unit: str
    lower: float
    upper: float


def scale_of(method: Method, parameters: Mapping[str, Any]) -> Scale | None:
    """The scale that a blow is read off; None where the size of the pendulum is not known."""
    live = method.guide.live
    if not isinstance(live, SwingGuide):
        return None
    if live.reading.endswith("percent"):
        return Scale(live.reading, 100.0, "%", 0.2, MAX_SHARE)
    full = parameters.get("pendulum_j") or parameters.get("capacity_j")
    if not full:
        return None
    bars = live.transfer is not None
    return Scale(live.reading, float(full), "J", MIN_SHARE if bars else 0.2, MAX_SHARE)


class SwingProcedure:
    """One specimen, one blow. The scale is read by the technician, or off a pendulum that tells."""

    device: RecorderKind | None = None

    def actions(self, method: Method, parameters: Mapping[str, Any]) -> tuple[Action, ...]:
        """Confirm, take it out of its chamber where it was in one, strike, read."""
        live = method.guide.live
        if not isinstance(live, SwingGuide):
            raise TypeError(f"{method.id} is not struck by a pendulum")
        checks = checks_of(self, method, parameters)
        holds = holds_of(checks)
        return (
            *(_temperature(parameters) if live.transfer is not None else ()),
            *by_hand(checks),
            *(_out_of_chamber(parameters, *live.transfer) if live.transfer is not None else ()),
            Action(
                code="struck",
                title=worded("step.confirm", values="; ".join(holds.values())),
                why=worded("step.then-release-the-pendulum-in-one-movement"),
                button=worded("step.confirm-struck"),
                confirms=holds,
                hold=True,
                caution=worded("step.a-raised-pendulum-crushes-what-it-meets"),
                ends=CLOCK,
            ),
            Action(
                code="read",
                title=worded("step.read-the-scale-and-examine"),
                why=worded("step.the-pointer-stays-where-the-swing-left-it"),
                button=worded("step.record-reading"),
                asks=(
                    *asks_for(method, (live.reading,)),
                    *asks_for(method, live.also),
                ),
            ),
        )

    def readings(self, method: Method, state: State) -> dict[str, Any]:
        """Return what was read and seen, the time in the chamber and the time on the way."""
        facts = reading_facts(method, state.facts)
        soaked_s = state.facts.get("soaked_s")
        if soaked_s is not None:
            facts["soaked_min"] = round(soaked_s / 60, 2)
        return facts

    def drawing(self, method: Method, parameters: Mapping[str, Any]) -> Drawing | None:
        """Nothing is recorded."""
        return None

    def setup(self, method: Method, parameters: Mapping[str, Any]) -> dict[str, float | str]:
        """Return which pendulum is fitted, where the test says so."""
        return {
            name: float(parameters[name])
            for name in ("pendulum_j", "capacity_j", "capacity_n")
            if parameters.get(name)
        }


def is_cold_or_hot(facts: Mapping[str, Any]) -> bool:
    """The bar is struck at another temperature than that of the room."""
    at_c = facts.get("temperature_c")
    return at_c is not None and abs(float(at_c) - ROOM_C) > WITHIN_C


def _temperature(parameters: Mapping[str, Any]) -> tuple[Action, ...]:
    """The temperature of the bar, and its time in the chamber where that is not the room's."""
    temperatures = parameters.get("temperatures_c") or []
    if not temperatures:
        return ()
    soak_min = float(parameters.get("soak_min") or 0)
    listed = ", ".join(in_numbers(float(each)).replace("-", "\u2212") for each in temperatures)
    return (
        Action(
            code="temperature",
            title=worded("step.temperature-of"),
            why=worded("step.requested-c", listed=listed),
            button=worded("step.record-temperature"),
            asks=(
                Ask(
                    "temperature_c",
                    "temperature",
                    "°C",
                    low=float(min(temperatures)) - WITHIN_C,
                    high=float(max(temperatures)) + WITHIN_C,
                ),
            ),
        ),
        Action(
            code="chambered",
            title=worded("step.place-in-the-chamber"),
            why=worded(
                "step.it-stays-there-for-at-least-min-with-the", soak_min=in_numbers(soak_min)
            ),
            button=worded("step.confirm-placed-in-chamber"),
            when=is_cold_or_hot,
            starts=Timer(
                SOAK,
                worded("step.in-the-chamber"),
                "at-least",
                60 * soak_min,
                within_s=0.0,
                fact="soaked_s",
                holds=True,
            ),
            unattended_min=soak_min,
            caution=worded("step.cold-and-hot-surfaces-burn-skin-insulated"),
        ),
    )


def _out_of_chamber(parameters: Mapping[str, Any], upper: str, reading: str) -> tuple[Action, ...]:
    """The way from the chamber to the strike; required of every bar that is not at room."""
    if not parameters.get("temperatures_c"):
        return ()
    seconds = float(parameters.get(upper) or 5)
    return (
        Action(
            code="taken-out",
            title=worded("step.take-out-of-its-chamber"),
            why=worded("step.it-warms-from-now-on-strike-it-within-s", seconds=in_numbers(seconds)),
            button=worded("step.confirm-taken-out"),
            when=is_cold_or_hot,
            ends=SOAK,
            starts=Timer(
                CLOCK,
                worded("step.from-chamber-to-strike"),
                "at-most",
                seconds,
                within_s=0.0,
                fact=reading,
            ),
        ),
    )
