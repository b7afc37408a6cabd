"""A pallet under a compression rig: a schedule of loads, or a push up to a limit."""

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
from endurant.core.methods.method import Method
from endurant.core.rounding import in_numbers


class RigProcedure:
    """One pallet on its supports."""

    device: RecorderKind | None = "compression-rig"

    def actions(self, method: Method, parameters: Mapping[str, Any]) -> tuple[Action, ...]:
        """Bars down, zero the force, plate to the pallet, zero displacements, run."""
        checks = checks_of(self, method, parameters)
        holds = holds_of(checks)
        return (
            *by_hand(checks),
            Action(
                code="lowered",
                title=worded("step.lower-the-bars-until-they-touch"),
                why=worded("step.their-own-weight-is-not-part-of-the-load"),
                button=worded("step.lower-bars"),
                tells="lower",
                moves=True,
                caution=worded("step.never-reach-under-the-bars-or-the-pallet"),
            ),
            Action(
                code="force-zeroed",
                title=worded("step.zero-the-force"),
                why=worded("step.the-weight-of-the-bars-is-taken-off"),
                button=worded("step.zero-force"),
                tells="zero-force",
            ),
            Action(
                code="touched",
                title=worded("step.lower-the-bars-until-the-plate-just"),
                why=worded("step.2-to-5-kgf-no-more-a-plate-that-does-not"),
                button=worded("step.lower-to-contact"),
                tells="touch",
                reads=reads_of(checks, "touches"),
            ),
            Action(
                code="zero",
                title=worded("step.zero-all-displacements"),
                why=worded("step.every-sensor-counts-from-here"),
                button=worded("step.zero-displacements"),
                tells="zero",
                reads=reads_of(checks, "displacements-zeroed", "limit"),
            ),
            Action(
                code="start",
                title=worded("step.confirm", values="; ".join(holds.values())),
                why=_what_follows(parameters),
                button=worded("step.start"),
                confirms=holds,
                records=True,
                hold=True,
                caution=worded("step.a-loaded-pallet-breaks-with-splinters"),
            ),
            Action(
                code="raised",
                title=worded("step.raise-the-bars-off"),
                why=worded("step.a-broken-pallet-springs-back-when-it-is"),
                button=worded("step.raise-bars"),
                phase="after",
                tells="raise",
                safety=True,
            ),
            Action(
                code="removed",
                title=worded("step.remove-from-the-supports"),
                why=worded("step.the-bars-do-not-come-down-again-until-it"),
                button=worded("step.confirm-removed"),
                phase="after",
                confirms={"removed": worded("step.pallet-removed-from-the-supports")},
                tells="unload",
                unloads=True,
                caution=worded("step.splinters-gloves-on"),
            ),
        )

    def readings(self, method: Method, state: State) -> dict[str, Any]:
        """Return what was recorded by hand beside the sensors."""
        return reading_facts(method, state.facts)

    def drawing(self, method: Method, parameters: Mapping[str, Any]) -> Drawing:
        """Return force over the sag of the middle, or the sag over time while the schedule runs."""
        middle = Axis("middle_mm", "Middle", "mm")
        if parameters.get("test") == "strength":
            return Drawing(middle, Axis("force_n", "Force", "N"), limit_of(parameters) or 60)
        return Drawing(Axis("time_s", "Time", "s"), middle, sum(_holds(parameters)) + 60)

    def setup(self, method: Method, parameters: Mapping[str, Any]) -> dict[str, float | str]:
        """Loads and holds, or speed and limit; the limit has the sign of downwards."""
        full_n = float(parameters.get("full_load_n") or 0)
        datum_s, full_s, relaxed_s = _holds(parameters)
        down_is = str(parameters.get("down_is") or "plus")
        limit_mm = limit_of(parameters)
        return {
            "test_kind": str(parameters.get("test") or "stiffness"),
            "speed_mm_min": float(parameters.get("speed_mm_min") or 2),
            "limit_mm": -limit_mm if down_is == "minus" else limit_mm,
            "datum_n": full_n * float(parameters.get("datum_fraction") or 0.1),
            "full_n": full_n,
            "datum_s": datum_s,
            "full_s": full_s,
            "relaxed_s": relaxed_s,
            "down_is": down_is,
        }


def limit_of(parameters: Mapping[str, Any]) -> float:
    """Return the sag at which a push ends, in mm; 0 without a span."""
    span_mm = float(parameters.get("span_mm") or 0)
    return span_mm * float(parameters.get("limit_fraction") or 0.06)


def _holds(parameters: Mapping[str, Any]) -> tuple[float, float, float]:
    datum, full, relaxed = (
        float(parameters.get(name) or 0) for name in ("datum_s", "full_s", "relaxed_s")
    )
    return datum, full, relaxed


def _what_follows(parameters: Mapping[str, Any]) -> str:
    if parameters.get("test") == "strength":
        limit = in_numbers(limit_of(parameters))
        return worded("step.the-load-then-rises-until-the-pallet", limit=limit)
    return worded("step.the-schedule-then-runs-by-itself-datum")
