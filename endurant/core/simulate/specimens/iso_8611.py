"""Pallets that are bent."""

from __future__ import annotations

from typing import Any

import numpy as np

from endurant.core.simulate.shapes import SimulatedMethod, SpecimenFault, disturbed


def _pallet(rng: np.random.Generator, samples: int, fault: SpecimenFault) -> dict[str, Any]:
    """A pallet that is bent until it breaks."""
    sag = np.linspace(0, 70, samples)
    top = 44 + 2 * rng.standard_normal()
    force = np.where(sag <= top, 11_300 * (sag / top) ** 0.9, 4000.0)
    return {
        "trace": {
            "time_s": (sag / 2 * 60).tolist(),
            "force_n": disturbed(force, rng, fault).tolist(),
            "displacement_mm": sag.tolist(),
        }
    }


SIMULATED = {
    "iso-8611": SimulatedMethod(make=_pallet, parameters={"test": "strength", "span_mm": 1000.0})
}
