"""Edgewise crush of corrugated board."""

from __future__ import annotations

from endurant.core.simulate.shapes import RATE, SimulatedMethod, SimulatedPull, rising

SIMULATED = {
    "iso-3037": SimulatedMethod(SimulatedPull(4, 12.5, rising(580, 1.6, 1.1, 0.5)), found_as=RATE)
}
