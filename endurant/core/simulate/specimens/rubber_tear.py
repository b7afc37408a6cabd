"""Tears of rubber."""

from __future__ import annotations

from endurant.core.simulate.shapes import RATE, RUBBER, SimulatedMethod, SimulatedPull, yarns

SIMULATED = {
    "astm-d624": SimulatedMethod(
        SimulatedPull(90, 50, yarns(18, 2.2), RUBBER), parameters={"die": "T"}, found_as=RATE
    ),
    "iso-34-1": SimulatedMethod(
        SimulatedPull(90, 100, yarns(18, 2.2), RUBBER), parameters={"die": "T"}, found_as=RATE
    ),
}
