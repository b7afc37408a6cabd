"""Films that are punctured slowly."""

from __future__ import annotations

from endurant.core.simulate.shapes import RATE, SimulatedMethod, SimulatedPull, rising

SIMULATED = {
    "astm-f1306": SimulatedMethod(
        SimulatedPull(
            9, 25, rising(9.4, 5.2, 1.3, 0.02), {"dimensions": {"thickness_mm": [0.112]}}
        ),
        found_as={**RATE, "slip": "slipped-in-clamp", "grip-break": "broke-at-clamp"},
    )
}
