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
                title="Lower the bars until they touch {label}",
                why="Their own weight is not part of the load.",
                button="Lower bars",
                tells="lower",
                moves=True,
                caution="Never reach under the bars or the pallet.",
            ),
            Action(
                code="force-zeroed",
                title="Zero the force",
                why="The weight of the bars is taken off.",
                button="Zero force",
                tells="zero-force",
            ),
            Action(
                code="touched",
                title="Lower the bars until the plate just touches",
                why="2 to 5 kgf, no more. A plate that does not touch reads nothing.",
                button="Lower to contact",
                tells="touch",
                reads=reads_of(checks, "touches"),
            ),
            Action(
                code="zero",
                title="Zero all displacements",
                why="Every sensor counts from here.",
                button="Zero displacements",
                tells="zero",
                reads=reads_of(checks, "displacements-zeroed", "limit"),
            ),
            Action(
                code="start",
                title=f"Confirm: {'; '.join(holds.values())}",
                why=_what_follows(parameters),
                button="Start {label}",
                confirms=holds,
                records=True,
                hold=True,
                caution="A loaded pallet breaks with splinters: guard in place, nobody near. Local "
                "rules come before this page.",
            ),
            Action(
                code="raised",
                title="Raise the bars off {label}",
                why="A broken pallet springs back when it is unloaded: stay clear.",
                button="Raise bars",
                phase="after",
                tells="raise",
                safety=True,
            ),
            Action(
                code="removed",
                title="Remove {label} from the supports",
                why="The bars do not come down again until it is out.",
                button="Confirm removed",
                phase="after",
                confirms={"removed": "Pallet removed from the supports"},
                tells="unload",
                unloads=True,
                caution="Splinters: gloves on.",
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
        return f"The load then rises until the pallet fails or its middle has sagged {limit} mm."
    return "The schedule then runs by itself: datum, full load, relaxation, read on time."
