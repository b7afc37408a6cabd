"""Strips and grabs of fabric."""

from __future__ import annotations

from endurant.core.simulate.shapes import TENSILE, SimulatedMethod, SimulatedPull, rising

_FOUND = {**TENSILE, "grip-break": "jaw-break-kept"}

SIMULATED = {
    "iso-13934-1": SimulatedMethod(
        SimulatedPull(60, 100, rising(1450, 38, 1.5)),
        parameters={"speed_mm_min": 100.0},
        found_as=_FOUND,
    ),
    "iso-13934-2": SimulatedMethod(SimulatedPull(45, 50, rising(420, 31, 1.7)), found_as=_FOUND),
}
