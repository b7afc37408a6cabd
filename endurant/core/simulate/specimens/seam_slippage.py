"""Unsewn and sewn halves of a seam."""

from __future__ import annotations

from typing import Any

import numpy as np

from endurant.core.simulate.shapes import TORN, SimulatedMethod, SpecimenFault


def _seam(rng: np.random.Generator, samples: int, fault: SpecimenFault) -> dict[str, Any]:
    """An unsewn and a sewn pull; the seam opens by 8 mm or so at 215 N."""
    speed = 50 * (60 if fault == "wrong-speed" else 1)

    def pulled(reach_mm: float, stop: float) -> dict[str, Any]:
        x = np.linspace(0, reach_mm * stop, samples)
        force = 215 * np.clip(x / reach_mm, 0, 1) ** 1.4
        return {
            "time_s": (x / speed * 60).tolist(),
            "extension_mm": x.tolist(),
            "force_n": (force + 0.05 * rng.standard_normal(samples)).tolist(),
        }

    opened = 8 + 0.6 * rng.standard_normal()
    return {
        "trace_unsewn": pulled(21.5, 0.3 if fault == "early-stop" else 1.0),
        "trace_sewn": pulled(21.5 + opened, 1.0),
    }


_FOUND = {**TORN, "early-stop": "unsewn-too-short"}

SIMULATED = {
    "iso-13936-1": SimulatedMethod(make=_seam, found_as=_FOUND),
    "iso-13936-2": SimulatedMethod(make=_seam, found_as=_FOUND),
}
