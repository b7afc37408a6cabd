"""A blow of a pendulum: struck, read off the scale, and looked at."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from endurant.core.bench.picture import (
    Columns,
    DeviceKind,
    Drawing,
    asks_for,
    by_hand,
    holds_of,
)
from endurant.core.bench.procedure import Act, State, Timer
from endurant.core.methods.guide import SwingGuide
from endurant.core.methods.method import Method
from endurant.core.quantities import in_numbers

CLOCK = "on-the-way"
LEAST_SHARE, MOST_SHARE = 0.1, 0.8


@dataclass(frozen=True)
class Scale:
    """The scale of a pendulum: what its end reads, and between which shares a reading counts."""

    reading: str
    full: float
    unit: str
    least: float
    most: float


def scale_of(method: Method, parameters: Mapping[str, Any]) -> Scale | None:
    """The scale that a blow is read off; None where the size of the pendulum is not known."""
    live = method.guide.live
    if not isinstance(live, SwingGuide):
        return None
    if live.reading.endswith("percent"):
        return Scale(live.reading, 100.0, "%", 0.2, MOST_SHARE)
    full = parameters.get("pendulum_j") or parameters.get("capacity_j")
    if not full:
        return None
    bars = live.transfer is not None
    return Scale(live.reading, float(full), "J", LEAST_SHARE if bars else 0.2, MOST_SHARE)


class SwingPicture:
    """One specimen, one blow. The scale is read by the technician, or off a pendulum that tells."""

    device: DeviceKind | None = None

    def acts(self, method: Method, parameters: Mapping[str, Any]) -> tuple[Act, ...]:
        """Confirm, take it out of its chamber where it has one, strike, read."""
        live = method.guide.live
        if not isinstance(live, SwingGuide):
            raise TypeError(f"{method.id} is not struck by a pendulum")
        holds = holds_of(method.guide.ready_checks)
        acts = by_hand(method.guide.ready_checks)
        if live.transfer is not None:
            acts.append(_out_of_chamber(parameters, *live.transfer))
        acts += [
            Act(
                code="struck",
                title=f"{'; '.join(holds.values())}?",
                why="Then release the pendulum in one movement, and catch it on its way back.",
                button="All is clear, {label} is struck",
                confirms=holds,
                hold=True,
                caution="A raised pendulum crushes what it meets. Local rules go before this page.",
                ends=CLOCK,
            ),
            Act(
                code="read",
                title="Read the scale, and look at {label}",
                why="The pointer stays where the swing left it.",
                button="Write it down",
                asks=(
                    *asks_for(method, (live.reading,)),
                    *asks_for(method, live.also),
                ),
            ),
        ]
        return tuple(acts)

    def readings(self, state: State, columns: Columns | None) -> dict[str, Any]:
        """What was read and seen, and how long it was on its way."""
        return dict(state.facts)

    def drawing(self, method: Method, parameters: Mapping[str, Any]) -> Drawing | None:
        """Nothing is recorded."""
        return None

    def setup(self, method: Method, parameters: Mapping[str, Any]) -> dict[str, float | str]:
        """Which pendulum hangs, where the test says so."""
        return {
            name: float(parameters[name])
            for name in ("pendulum_j", "capacity_j", "capacity_n")
            if parameters.get(name)
        }


def _out_of_chamber(parameters: Mapping[str, Any], most: str, reading: str) -> Act:
    seconds = float(parameters.get(most) or 5)
    return Act(
        code="taken-out",
        title="Take {label} out of its chamber",
        why=f"From now on it warms: it is struck within {in_numbers(seconds)} s.",
        button="It is out of its chamber",
        optional=True,
        starts=Timer(
            CLOCK, "From chamber to strike", "at-most", seconds, within_s=0.0, fact=reading
        ),
    )
