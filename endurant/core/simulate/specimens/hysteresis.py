"""Strips that are pulled in cycles."""

from __future__ import annotations

from typing import Any

import numpy as np

from endurant.core.simulate.shapes import SimulatedMethod, SpecimenFault


def _cycles(rng: np.random.Generator, samples: int, fault: SpecimenFault) -> dict[str, Any]:
    """Three cycles of a rubbery strip that gives back less than it takes."""
    cycles = 1 if fault == "early-stop" else 3
    phase = np.linspace(0, 2 * np.pi * cycles, samples)
    x = 30 * (1 - np.cos(phase))
    settled = 1 - 0.08 * np.floor(phase / (2 * np.pi))
    up = np.sin(phase) >= 0
    part = x / 60
    force = settled * 12 * np.where(up, part**0.8, np.clip(part - 0.15, 0, None) ** 1.1)
    time_s = np.concatenate(([0.0], np.cumsum(np.abs(np.diff(x))) / 100 * 60))
    return {
        "trace": {
            "time_s": time_s.tolist(),
            "extension_mm": x.tolist(),
            "force_n": (force + 0.01 * rng.standard_normal(samples)).tolist(),
        }
    }


SIMULATED = {
    "hysteresis": SimulatedMethod(
        make=_cycles,
        parameters={"cycles": 3, "slack_force_n": 0.1, "speed_mm_min": 100.0},
        found_as={"early-stop": "fewer-cycles"},
    )
}
