"""Strips that are stretched and held."""

from __future__ import annotations

from typing import Any

import numpy as np

from endurant.core.simulate.shapes import SimulatedMethod, SpecimenFault, disturbed


def _hold(rng: np.random.Generator, samples: int, fault: SpecimenFault) -> dict[str, Any]:
    """A stretch that is reached in 6 s and held."""
    last_s = 60.0 if fault == "early-stop" else 1100.0
    time_s = np.concatenate(
        (np.linspace(0, 6, samples // 10), np.geomspace(6.05, last_s, samples - samples // 10))
    )
    x = 20 * np.clip(time_s / 6, 0, 1)
    force = 42 * (x / 20) - 2.2 * np.log10(1 + np.maximum(time_s - 6, 0) / 0.4)
    return {
        "trace": {
            "time_s": time_s.tolist(),
            "extension_mm": x.tolist(),
            "force_n": disturbed(force, rng, fault).tolist(),
        }
    }


SIMULATED = {
    "relaxation": SimulatedMethod(
        make=_hold,
        parameters={"hold_strain_percent": 20.0},
        found_as={"early-stop": "trace-too-short"},
    )
}
