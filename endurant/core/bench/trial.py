"""The rules of suspicion tried on simulated specimens: what is found, and what is false."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np

from endurant.core.bench.suspicions import Code, suspicions
from endurant.core.bench.trace import expected_of
from endurant.core.methods import find_method
from endurant.core.simulate.traces import PARAMETERS, PULLS, SpecimenFault, simulate
from endurant.core.trace import Samples

Fault = SpecimenFault | Literal["extensometer-slip"]
LOOKED_FOR: Mapping[Fault, Code] = {
    "slip": "slip",
    "preload": "preload",
    "noise": "noise",
    "spikes": "spike",
    "early-stop": "early-end",
    "wrong-speed": "speed",
    "grip-break": "low-break",
    "toe": "toe",
    "extensometer-slip": "extensometer-slip",
}
"""The faults that a rule looks for, each with the suspicion that finds it."""
BREAKS_AT, LEFT_SHARE = 0.7, 0.03
SLIPS_BACK = 0.15
OTHERS = 5


@dataclass(frozen=True)
class Tried:
    """How one method did: shares of specimens, from 0 to 1; None where a fault cannot happen."""

    method: str
    false: float
    shares: Mapping[str, float | None]


def tried(method_id: str, specimens: int) -> Tried:
    """So many specimens without a fault, and as many with each; seeded by their number."""
    method, pull = find_method(method_id), PULLS[method_id]
    parameters = PARAMETERS.get(method_id, {}) | {"speed_mm_min": pull.speed_mm_min}
    expected = expected_of(method, parameters)
    others_n = [
        max(simulate(method_id, 10_000 + seed)["trace"]["force_n"]) for seed in range(OTHERS)
    ]

    def codes(seed: int, fault: Fault) -> set[str]:
        trace = _with_fault(method_id, seed, fault)
        return {
            suspicion.code
            for suspicion in suspicions(
                trace["extension_mm"],
                trace["force_n"],
                trace["time_s"],
                expected,
                trace.get("strain"),
                others_n,
            )
        }

    def can_happen(fault: Fault) -> bool:
        if fault == "extensometer-slip":
            return pull.strain_over_mm is not None
        if fault == "toe":
            return expected.straight_over_mm is not None
        return fault != "grip-break" or expected.breaks

    seeds = range(1, specimens + 1)
    return Tried(
        method=method_id,
        false=sum(bool(codes(seed, "none")) for seed in seeds) / specimens,
        shares={
            fault: sum(code in codes(seed, fault) for seed in seeds) / specimens
            if can_happen(fault)
            else None
            for fault, code in LOOKED_FOR.items()
        },
    )


def _with_fault(method_id: str, seed: int, fault: Fault) -> dict[str, Samples]:
    """The columns of a simulated specimen; what the simulation leaves to the eye is cut in here."""
    made: SpecimenFault = "none" if fault == "extensometer-slip" else fault
    columns = {
        name: np.asarray(column)
        for name, column in simulate(method_id, seed, fault=made)["trace"].items()
    }
    if fault == "grip-break":
        force = columns["force_n"]
        place = int(np.argmax(force >= BREAKS_AT * force.max()))
        columns["force_n"] = np.where(
            np.arange(force.size) <= place, force, LEFT_SHARE * force[place]
        )
    if fault == "extensometer-slip" and "strain" in columns:
        strain = columns["strain"]
        after = np.arange(strain.size) > strain.size // 2
        columns["strain"] = strain - SLIPS_BACK * strain.max() * after
    return columns


def table(specimens: int) -> str:
    """The shares for every method that is pulled or pushed, as lines to be printed."""
    faults = list(LOOKED_FOR)
    lines = ["| method | false | " + " | ".join(faults) + " |", "|" + " --- |" * (len(faults) + 2)]
    for method_id in PULLS:
        row = tried(method_id, specimens)
        shares = [_share(row.shares[fault]) for fault in faults]
        lines.append(f"| {method_id} | {100 * row.false:.1f} | " + " | ".join(shares) + " |")
    return "\n".join(lines)


def _share(share: float | None) -> str:
    return "–" if share is None else f"{100 * share:.0f}"
