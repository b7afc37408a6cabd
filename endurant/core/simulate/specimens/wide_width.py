"""Wide strips of geotextile and ribs of geogrid."""

from __future__ import annotations

from endurant.core.simulate.shapes import TENSILE, SimulatedMethod, SimulatedPull, fraying

SIMULATED = {
    "astm-d4595": SimulatedMethod(
        SimulatedPull(
            20,
            10,
            fraying(12_400, 13, 1.1, 3),
            {"dimensions": {"width_mm": [200.0, 199.8, 200.2]}},
        ),
        found_as=TENSILE,
    ),
    "astm-d6637": SimulatedMethod(
        SimulatedPull(
            20, 10, fraying(1300, 11, 0.9, 2), {"ribs_tested": 1.0, "ribs_per_metre": 43.5}
        ),
        parameters={"gauge_length_mm": 100.0},
        found_as=TENSILE,
    ),
}
