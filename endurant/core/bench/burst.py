"""A burst over a diaphragm: pressure and height over time."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from endurant.core.bench.picture import (
    Axis,
    Columns,
    DeviceKind,
    Drawing,
    by_hand,
    holds_of,
    reads_of,
)
from endurant.core.bench.procedure import Act, State
from endurant.core.methods.guide import RigGuide
from endurant.core.methods.method import Method


class BurstPicture:
    """One place of the material, burst once."""

    device: DeviceKind | None = "burst-rig"

    def acts(self, method: Method, parameters: Mapping[str, Any]) -> tuple[Act, ...]:
        """Clamp, seat and zero, pump until it bursts; unclamp before the drain is open."""
        checks = method.guide.ready_checks
        holds = holds_of(checks)
        return (
            *by_hand(checks),
            Act(
                code="shut",
                title="Shut the drain",
                why="An open drain never builds pressure.",
                button="Shut the drain",
                tells="shut-drain",
                reads=reads_of(checks, "drain-shut"),
            ),
            Act(
                code="clamp",
                title="Clamp {label}",
                why="Without tension; at too little air the material slips under the ring.",
                button="Clamp it",
                tells="clamp",
                reads=reads_of(checks, "clamped"),
            ),
            Act(
                code="zero",
                title="Seat the height sensor, and zero",
                why="A sensor that hangs reads 100 mm or more; a negative start means zero again.",
                button="Zero height and pressure",
                tells="zero",
                reads=reads_of(checks, "seated"),
            ),
            Act(
                code="start",
                title=f"{'; '.join(holds.values()) or 'Everything clear'}?",
                why="Then the pump starts, and goes on until it bursts.",
                button="All is clear, burst {label}",
                confirms=holds,
                records=True,
                hold=True,
                caution="Pressure behind the diaphragm: face clear, guard closed. Local rules go "
                "before this page.",
            ),
            Act(
                code="drained",
                title="Drain",
                why="The clamp stays shut until the pressure is gone.",
                button="Open the drain",
                phase="after",
                tells="drain",
            ),
            Act(
                code="opened",
                title="Open the clamp, and look where it burst",
                why="A burst at the ring is a void, whatever its pressure.",
                button="It is open",
                phase="after",
                tells="unclamp",
            ),
        )

    def readings(self, state: State, columns: Columns | None) -> dict[str, Any]:
        """The trace; what was typed beside it."""
        return dict(state.facts)

    def drawing(self, method: Method, parameters: Mapping[str, Any]) -> Drawing:
        """Pressure over time."""
        return Drawing(Axis("time_s", "Time", "s"), Axis("pressure_kpa", "Pressure", "kPa"), 25)

    def setup(self, method: Method, parameters: Mapping[str, Any]) -> dict[str, float | str]:
        """The area under the ring, and for how long it may pump."""
        live = method.guide.live
        longest_s = live.longest_s if isinstance(live, RigGuide) else RigGuide().longest_s
        area = float(parameters.get("test_area_cm2") or 0)
        return {"longest_s": longest_s, **({"area_cm2": area} if area else {})}
