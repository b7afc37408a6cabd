"""Filled packages that are compressed."""

from __future__ import annotations

from endurant.core.simulate.shapes import RATE, SimulatedMethod, SimulatedPull, rising

SIMULATED = {
    "iso-12048": SimulatedMethod(SimulatedPull(18, 10, rising(2500, 12, 1.2, 0.7)), found_as=RATE)
}
