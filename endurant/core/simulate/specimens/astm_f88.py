"""Seals of flexible packaging."""

from __future__ import annotations

from endurant.core.simulate.shapes import TENSILE, SimulatedMethod, SimulatedPull, peeling

SIMULATED = {
    "astm-f88": SimulatedMethod(
        SimulatedPull(
            40,
            300,
            peeling(38, 36),
            {"dimensions": {"width_mm": [25.0]}, "failure_mode": "adhesive-peel"},
        ),
        parameters={"technique": "A"},
        found_as=TENSILE,
    )
}
