"""A burst over a diaphragm: pressure and height over time."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from endurant.core.bench.actions import Action
from endurant.core.bench.procedure import (
    Axis,
    Drawing,
    by_hand,
    checks_of,
    holds_of,
    reading_facts,
    reads_of,
)
from endurant.core.bench.state import State
from endurant.core.devices import RecorderKind
from endurant.core.methods.guide import RigGuide
from endurant.core.methods.method import Method
from endurant.core.rounding import in_numbers


class BurstProcedure:
    """One place of the material, burst once."""

    device: RecorderKind | None = "burst-rig"

    def actions(self, method: Method, parameters: Mapping[str, Any]) -> tuple[Action, ...]:
        """Clamp, seat and zero, pump until it bursts; unclamp only after the drain is open."""
        checks = checks_of(self, method, parameters)
        holds = holds_of(checks)
        rate = parameters.get("pump_rate_ml_min")
        pumps = f" at {in_numbers(float(rate))} mL/min" if rate else ""
        return (
            *_bare(method),
            *by_hand(checks),
            Action(
                code="shut",
                title="Shut the drain",
                why="An open drain builds no pressure.",
                button="Shut drain",
                tells="shut-drain",
                reads=reads_of(checks, "drain-shut"),
            ),
            Action(
                code="clamp",
                title="Clamp {label}",
                why="Lay it in without tension. At too little air pressure it slips under the "
                "ring.",
                button="Close clamp",
                tells="clamp",
                reads=reads_of(checks, "clamped"),
                moves=True,
            ),
            Action(
                code="zero",
                title="Lower the height sensor and zero",
                why="A height of 100 mm or more means that the sensor is not seated. If the "
                "height is negative, zero again.",
                button="Zero height and pressure",
                tells="zero",
                reads=reads_of(checks, "seated"),
            ),
            Action(
                code="start",
                title=f"Confirm: {'; '.join(holds.values()) or 'everything is clear'}",
                why=f"The pump then runs{pumps} until the specimen bursts.",
                button="Start {label}",
                confirms=holds,
                records=True,
                hold=True,
                caution="Pressure behind the diaphragm: face clear, guard closed. Local rules come "
                "before this page.",
            ),
            Action(
                code="drained",
                title="Open the drain",
                why="The clamp stays shut until the pressure is gone.",
                button="Open drain",
                phase="after",
                tells="drain",
                safety=True,
            ),
            Action(
                code="opened",
                title="Open the clamp, remove {label} and see where it burst",
                why="A burst at the ring is void, whatever its pressure.",
                button="Open clamp",
                phase="after",
                tells="unclamp",
                unloads=True,
            ),
        )

    def readings(self, method: Method, state: State) -> dict[str, Any]:
        """Return what was recorded by hand beside the trace."""
        return reading_facts(method, state.facts)

    def drawing(self, method: Method, parameters: Mapping[str, Any]) -> Drawing:
        """Pressure over time."""
        return Drawing(Axis("time_s", "Time", "s"), Axis("pressure_kpa", "Pressure", "kPa"), 25)

    def setup(self, method: Method, parameters: Mapping[str, Any]) -> dict[str, float | str]:
        """Return the area under the ring, the rate of the pump, and how long it may run."""
        live = method.guide.live
        longest_s = live.longest_s if isinstance(live, RigGuide) else RigGuide().longest_s
        names = {"area_cm2": "test_area_cm2", "pump_rate_ml_min": "pump_rate_ml_min"}
        given = {name: float(parameters[own]) for name, own in names.items() if parameters.get(own)}
        return {"longest_s": longest_s, **given}


def _bare(method: Method) -> tuple[Action, ...]:
    """A run with no specimen, which gives the pressure of the diaphragm over its height."""
    if "diaphragm" not in method.parameters.model_fields:
        return ()
    return (
        Action(
            code="bare",
            title="Run the bare diaphragm",
            why="With no specimen in the clamp. Its pressure at each height is taken off the "
            "bursting pressure.",
            button="Run bare diaphragm",
            optional=True,
            tells="bare",
            moves=True,
            caution="Nothing in the clamp, guard closed.",
        ),
    )
