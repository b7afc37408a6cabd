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
from endurant.core.messages import worded
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
        pumps = worded("step.at-ml-min", rate=in_numbers(float(rate))) if rate else ""
        return (
            *_bare(method),
            *by_hand(checks),
            Action(
                code="shut",
                title=worded("step.shut-the-drain"),
                why=worded("step.an-open-drain-builds-no-pressure"),
                button=worded("step.shut-drain"),
                tells="shut-drain",
                reads=reads_of(checks, "drain-shut"),
            ),
            Action(
                code="clamp",
                title=worded("step.clamp"),
                why=worded("step.lay-it-in-without-tension-at-too-little"),
                button=worded("step.close-clamp"),
                tells="clamp",
                reads=reads_of(checks, "clamped"),
                moves=True,
            ),
            Action(
                code="zero",
                title=worded("step.lower-the-height-sensor-and-zero"),
                why=worded("step.a-height-of-100-mm-or-more-means-that-the"),
                button=worded("step.zero-height-and-pressure"),
                tells="zero",
                reads=reads_of(checks, "seated"),
            ),
            Action(
                code="start",
                title=worded(
                    "step.confirm", values="; ".join(holds.values()) or "everything is clear"
                ),
                why=worded("step.the-pump-then-runs-until-the-specimen", pumps=pumps),
                button=worded("step.start"),
                confirms=holds,
                records=True,
                hold=True,
                caution=worded("step.pressure-behind-the-diaphragm-face-clear"),
            ),
            Action(
                code="drained",
                title=worded("step.open-the-drain"),
                why=worded("step.the-clamp-stays-shut-until-the-pressure"),
                button=worded("step.open-drain"),
                phase="after",
                tells="drain",
                safety=True,
            ),
            Action(
                code="opened",
                title=worded("step.open-the-clamp-remove-and-see-where-it"),
                why=worded("step.a-burst-at-the-ring-is-void-whatever-its"),
                button=worded("step.open-clamp"),
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
            title=worded("step.run-the-bare-diaphragm"),
            why=worded("step.with-no-specimen-in-the-clamp-its"),
            button=worded("step.run-bare-diaphragm"),
            optional=True,
            tells="bare",
            moves=True,
            caution=worded("step.nothing-in-the-clamp-guard-closed"),
        ),
    )
