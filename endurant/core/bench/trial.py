"""The rules of suspicion tried on simulated specimens: what is found, and what is false."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np

from endurant.core.bench.sequence_suspicions import expected_sequence, sequence_suspicions
from endurant.core.bench.suspicions import Code, suspicions
from endurant.core.bench.trace import expected_of
from endurant.core.methods import find_method
from endurant.core.moves import Move, read_moves
from endurant.core.simulate.moved import moved
from endurant.core.simulate.shapes import SpecimenFault
from endurant.core.simulate.traces import parameters_for, pulled_methods, simulate
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
FEWEST_BEFORE = 10


@dataclass(frozen=True)
class Tried:
    """How one method did: shares of specimens, from 0 to 1; None where a fault cannot happen."""

    method: str
    false: float
    shares: Mapping[str, float | None]


def tried(method_id: str, specimens: int) -> Tried:
    """Return so many specimens without a fault, and as many with each; seeded by their number."""
    method, pull = find_method(method_id), pulled_methods()[method_id]
    parameters = parameters_for(method_id) | {"speed_mm_min": pull.speed_mm_min}
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


SEQUENCES: Mapping[str, tuple[str, str, float]] = {
    "loading and return": ("hysteresis", "cycle 3 x 0 mm to 20 mm at 100", 100.0),
    "stretch and hold": ("relaxation", "to 30 % at 50\nhold 120 s", 100.0),
    "two speeds to the break": ("astm-d638", "to 0.25 % at 1\nto break at 50", 115.0),
}
"""Sequences that are tried: method, moves, and how far apart the jaws are in mm."""
SEQUENCE_FAULTS: Mapping[Fault, Code] = {
    fault: code
    for fault, code in LOOKED_FOR.items()
    if fault not in ("grip-break", "toe", "extensometer-slip")
}
RATE_HZ, FARTHEST_MM = 50.0, 400.0
NOISE_TIMES, SPIKE_TIMES, PRELOAD_TIMES, EARLY, FASTER = 0.004, 0.05, 0.03, 0.45, 1.5


def tried_sequence(name: str, specimens: int) -> Tried:
    """Return the same for a sequence of moves."""
    method, text, gauge_mm = SEQUENCES[name]
    moves = read_moves(text)
    expected = expected_sequence(moves, gauge_mm, jagged=False)

    def codes(seed: int, fault: Fault) -> set[str]:
        columns = _moved_with_fault(method, moves, gauge_mm, seed, fault)
        return {suspicion.code for suspicion in sequence_suspicions(*columns, expected)}

    seeds = range(1, specimens + 1)
    shares = {
        fault: sum(code in codes(seed, fault) for seed in seeds) / specimens
        for fault, code in SEQUENCE_FAULTS.items()
    }
    return Tried(
        method=name,
        false=sum(bool(codes(seed, "none")) for seed in seeds) / specimens,
        shares={fault: shares.get(fault) for fault in LOOKED_FOR},
    )


def _moved_with_fault(
    method: str, moves: tuple[Move, ...], gauge_mm: float, seed: int, fault: Fault
) -> tuple[Samples, Samples, Samples]:
    """Travel, force and time of a specimen taken through moves; other faults are cut in here."""
    run = moved(
        method,
        f"{method}-{seed}",
        moves,
        gauge_mm=gauge_mm,
        end_mm=FARTHEST_MM,
        rate_hz=RATE_HZ,
        slips=fault == "slip",
    )
    rows: list[tuple[float, ...]] = []
    while isinstance(row := run.row(len(rows)), tuple):
        rows.append(row)
    time_s, x, force = np.array(rows).T[:3]
    rng = np.random.default_rng(seed)
    upper = float(force.max())
    if fault == "preload":
        force = force + PRELOAD_TIMES * upper
    if fault == "noise":
        force = force + NOISE_TIMES * upper * rng.standard_normal(force.size)
    if fault == "spikes":
        force[rng.integers(FEWEST_BEFORE, force.size - FEWEST_BEFORE, 5)] += SPIKE_TIMES * upper
    if fault == "wrong-speed":
        time_s = time_s / FASTER
    last = int(EARLY * force.size) if fault == "early-stop" else force.size
    return x[:last], force[:last], time_s[:last]


def table(specimens: int) -> str:
    """Return the shares for all that is pulled, pushed or moved, as lines to be printed."""
    faults = list(LOOKED_FOR)
    lines = ["| method | false | " + " | ".join(faults) + " |", "|" + " --- |" * (len(faults) + 2)]
    rows = [tried(method_id, specimens) for method_id in pulled_methods()]
    rows += [tried_sequence(name, specimens) for name in SEQUENCES]
    for row in rows:
        shares = [_share(row.shares[fault]) for fault in faults]
        lines.append(f"| {row.method} | {100 * row.false:.1f} | " + " | ".join(shares) + " |")
    return "\n".join(lines)


def _share(share: float | None) -> str:
    return "–" if share is None else f"{100 * share:.0f}"
