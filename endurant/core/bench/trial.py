"""The rules of suspicion tried on simulated specimens: what is found, and what is false."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from endurant.core.bench.suspicions import Code, suspicions
from endurant.core.bench.trace import expected_of
from endurant.core.methods import find_method
from endurant.core.simulate.traces import PULLS, SpecimenFault, simulate

LOOKED_FOR: Mapping[SpecimenFault, Code] = {
    "slip": "slip",
    "preload": "preload",
    "noise": "noise",
    "spikes": "spike",
    "early-stop": "early-end",
    "wrong-speed": "speed",
}
"""The faults that a rule looks for, each with the suspicion that finds it."""


@dataclass(frozen=True)
class Tried:
    """How one method did: shares of specimens, from 0 to 1."""

    method: str
    false: float
    found: Mapping[str, float]


def tried(method_id: str, specimens: int) -> Tried:
    """So many specimens without a fault, and as many with each; seeded by their number."""
    method, pull = find_method(method_id), PULLS[method_id]
    expected = expected_of(method, {"speed_mm_min": pull.speed_mm_min})

    def codes(seed: int, fault: SpecimenFault) -> set[str]:
        trace = simulate(method_id, seed, fault=fault)["trace"]
        x, force, time_s = (
            np.asarray(trace[name]) for name in ("extension_mm", "force_n", "time_s")
        )
        return {suspicion.code for suspicion in suspicions(x, force, time_s, expected)}

    seeds = range(1, specimens + 1)
    return Tried(
        method=method_id,
        false=sum(bool(codes(seed, "none")) for seed in seeds) / specimens,
        found={
            fault: sum(code in codes(seed, fault) for seed in seeds) / specimens
            for fault, code in LOOKED_FOR.items()
        },
    )


def table(specimens: int) -> str:
    """The shares for every method that is pulled or pushed, as lines to be printed."""
    faults = list(LOOKED_FOR)
    lines = ["| method | false | " + " | ".join(faults) + " |", "|" + " --- |" * (len(faults) + 2)]
    for method_id in PULLS:
        row = tried(method_id, specimens)
        shares = [f"{100 * row.found[fault]:.0f}" for fault in faults]
        lines.append(f"| {method_id} | {100 * row.false:.1f} | " + " | ".join(shares) + " |")
    return "\n".join(lines)
