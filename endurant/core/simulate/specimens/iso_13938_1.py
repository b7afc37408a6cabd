"""Fabric that is burst."""

from __future__ import annotations

from typing import Any

import numpy as np

from endurant.core.simulate.shapes import SimulatedMethod, SpecimenFault, disturbed


def burst(rng: np.random.Generator, samples: int, fault: SpecimenFault) -> dict[str, Any]:
    """Pressure and height up to a burst after 20 s or so."""
    burst_s = 20 + 0.6 * rng.standard_normal()
    time_s = np.linspace(0, burst_s * 1.02, samples)
    part = np.clip(time_s / burst_s, 0, 1)
    pressure = np.where(time_s <= burst_s, 410 * part**1.6, 30.0)
    return {
        "trace": {
            "time_s": time_s.tolist(),
            "pressure_kpa": disturbed(pressure, rng, fault).tolist(),
            "height_mm": (28 * np.sqrt(part)).tolist(),
        }
    }


CLAMPED: dict[SpecimenFault, str] = {"slip": "jaw-slip", "grip-break": "jaw-burst"}
SIMULATED = {
    "iso-13938-1": SimulatedMethod(
        make=burst, parameters={"diaphragm_pressure_kpa": 24.5}, found_as=CLAMPED
    )
}
