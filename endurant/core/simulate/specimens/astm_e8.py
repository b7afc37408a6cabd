"""Bars of metal."""

from __future__ import annotations

from endurant.core.simulate.shapes import TENSILE, SimulatedMethod, SimulatedPull, yielding

SIMULATED = {
    "astm-e8": SimulatedMethod(
        SimulatedPull(
            12,
            5,
            yielding(160_000, 20_000, 26_000, 10),
            {"dimensions": {"width_mm": [12.5], "thickness_mm": [3.0]}},
            50,
        ),
        parameters={"gauge_length_mm": 50.0, "speed_mm_min": 5.0},
        found_as=TENSILE,
    )
}
