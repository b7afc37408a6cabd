"""Shapes of force over travel, the faults of a specimen, and what a simulated method is made of."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal, Protocol

import numpy as np

from endurant.core.trace import Samples

SpecimenFault = Literal[
    "none",
    "slip",
    "preload",
    "grip-break",
    "toe",
    "noise",
    "spikes",
    "early-stop",
    "wrong-speed",
]

NOISE_SHARE = 0.0004
LOUD_SHARE = 0.004
SPIKES = 5
SPIKE_SHARE = 0.05
PRELOAD_SHARE = 0.03
TOE_STRAIN = 0.0002


@dataclass(frozen=True)
class SimulatedPull:
    """Force (N) over extension (mm) of one specimen, drawn at `speed_mm_min`.

    `length_mm` is the travel up to the end; `shape` gives force at each travel.
    """

    length_mm: float
    speed_mm_min: float
    shape: Callable[[Samples, np.random.Generator], Samples]
    beside: Mapping[str, Any] = field(default_factory=dict)
    strain_over_mm: float | None = None


def yarns(level_n: float, spacing_mm: float) -> Callable[[Samples, np.random.Generator], Samples]:
    """Return a tear: slack, a rise, then yarn after yarn."""

    def shape(x: Samples, rng: np.random.Generator) -> Samples:
        torn = np.maximum(x - 12, 0) / spacing_mm
        yarn = torn.astype(np.intp)
        strength = level_n * (1 + 0.06 * rng.standard_normal(int(yarn.max()) + 2))
        phase = torn - yarn
        tearing = strength[yarn] * (0.72 + 0.28 * phase)
        return np.where(x < 12, strength[0] * np.clip((x - 2) / 10, 0, 1), tearing)

    return shape


def rising(max_n: float, at_mm: float, power: float, left: float = 0.05) -> Any:
    """A force that rises to its maximum, and falls to a part of it when the specimen breaks."""

    def shape(x: Samples, rng: np.random.Generator) -> Samples:
        top = at_mm * (1 + 0.04 * rng.standard_normal())
        upper = max_n * (1 + 0.03 * rng.standard_normal())
        up = upper * np.clip(x / top, 0, 1) ** power
        return np.where(x <= top, up, left * upper)

    return shape


def fraying(max_n: float, at_mm: float, power: float, over_mm: float) -> Any:
    """A force that rises, falls as yarn after yarn gives way past its maximum, and breaks."""
    whole = rising(max_n, at_mm, power, left=1.0)

    def shape(x: Samples, rng: np.random.Generator) -> Samples:
        force: Samples = whole(x, rng)
        past = (x - x[int(np.argmax(force))]) / over_mm
        return np.where(past <= 1, force * (1 - 0.3 * np.clip(past, 0, 1)), 0.05 * force)

    return shape


def yielding(slope: float, yield_n: float, draw_n: float, break_mm: float) -> Any:
    """Stiff at first, a yield, a plateau that is drawn, and a break."""

    def shape(x: Samples, rng: np.random.Generator) -> Samples:
        size = 1 + 0.02 * rng.standard_normal()
        first = yield_n * np.tanh(slope * x / yield_n)
        past = np.clip((x - 3 * yield_n / slope) / (4 * yield_n / slope), 0, 1)
        curve = first + (draw_n - yield_n) * past**2 * (3 - 2 * past)
        return size * np.where(x <= break_mm, curve, 0.02 * yield_n)

    return shape


def stretching(stiff_n_mm: float, break_mm: float) -> Any:
    """Rubber: soft, then stiffer towards its break."""

    def shape(x: Samples, rng: np.random.Generator) -> Samples:
        size = 1 + 0.02 * rng.standard_normal()
        part = x / break_mm
        curve = stiff_n_mm * break_mm * (0.55 * np.sqrt(part) + 0.1 * part + 0.6 * part**4)
        return size * np.where(x <= break_mm, curve, 0.0)

    return shape


def peeling(level_n: float, length_mm: float) -> Any:
    """Return a seal: a rise, an uneven plateau, and the end of the seal."""

    def shape(x: Samples, rng: np.random.Generator) -> Samples:
        level = level_n * (1 + 0.03 * rng.standard_normal())
        wave = 1 + 0.05 * np.sin(x * 1.7 + rng.uniform(0, 6))
        ends = np.clip(x / 4, 0, 1) * np.clip((length_mm - x) / 6, 0, 1)
        return level * wave * ends

    return shape


class Maker(Protocol):
    """Makes the entry of one specimen, without its label."""

    def __call__(
        self, rng: np.random.Generator, samples: int, fault: SpecimenFault
    ) -> dict[str, Any]:
        """The entry with about so many samples, and the fault in it."""


@dataclass(frozen=True)
class SimulatedMethod:
    """How specimens of one method behave: as a pull, or as `make` says.

    `parameters` are those that a document of simulated specimens needs; `found_as` names the flag
    by which the analysis finds each fault, where it can.
    """

    pull: SimulatedPull | None = None
    make: Maker | None = None
    parameters: Mapping[str, Any] = field(default_factory=dict)
    found_as: Mapping[SpecimenFault, str] = field(default_factory=dict)

    def entry(self, rng: np.random.Generator, samples: int, fault: SpecimenFault) -> dict[str, Any]:
        """Return the entry of one specimen, with what a person would have seen of the fault."""
        if self.make is not None:
            entry = self.make(rng, samples, fault)
        elif self.pull is not None:
            entry = pulled(self.pull, rng, samples, fault)
        else:
            raise KeyError("a simulated method has a pull or says how it is made")
        code = self.found_as.get(fault)
        if code is not None and fault in SEEN:
            kept = code == "jaw-break-kept"
            entry |= {"break_distance_mm": 3.0} if kept else {"observations": [code]}
        return entry


SEEN: frozenset[SpecimenFault] = frozenset({"slip", "grip-break"})
"""Faults that a person sees on the specimen."""
RATE: Mapping[SpecimenFault, str] = {"wrong-speed": "rate-out-of-tolerance"}
TORN: Mapping[SpecimenFault, str] = {**RATE, "slip": "jaw-slip"}
TENSILE: Mapping[SpecimenFault, str] = {
    **TORN,
    "preload": "preloaded-at-start",
    "grip-break": "broke-at-grip",
}
BAR: Mapping[str, Any] = {
    "dimensions": {"width_mm": [10.02, 9.98, 10.0], "thickness_mm": [4.01, 4.0, 3.99]}
}
RUBBER: Mapping[str, Any] = {"dimensions": {"width_mm": [6.0], "thickness_mm": [2.01, 2.0, 2.02]}}


def disturbed(force: Samples, rng: np.random.Generator, fault: SpecimenFault) -> Samples:
    """Noise as it always is, louder or with spikes where that is the fault."""
    upper = float(force.max())
    share = LOUD_SHARE if fault == "noise" else NOISE_SHARE
    disturbed = force + share * upper * rng.standard_normal(force.size)
    if fault == "spikes":
        places = rng.integers(force.size // 4, 3 * force.size // 4, SPIKES)
        disturbed[places] += SPIKE_SHARE * upper
    return disturbed


def pulled(
    pull: SimulatedPull, rng: np.random.Generator, samples: int, fault: SpecimenFault
) -> dict[str, Any]:
    """Return the entry of a specimen that is pulled or pushed."""
    x = np.linspace(0, pull.length_mm, samples)
    if fault == "early-stop":
        x = x[: max(samples // 8, 2)]
    toe_mm = TOE_STRAIN * (pull.strain_over_mm or 100) if fault == "toe" else 0.0
    bent = np.where(x < 2 * toe_mm, x**2 / (4 * toe_mm or 1), x - toe_mm) if toe_mm else x
    clean = pull.shape(bent, rng)
    force = disturbed(clean, rng, fault)
    if fault == "preload":
        force = force + PRELOAD_SHARE * float(clean.max())
    if fault == "slip":
        half = x.size // 2
        force[half : half + max(x.size // 50, 1)] *= 0.7
    speed = pull.speed_mm_min * (60 if fault == "wrong-speed" else 1)
    trace: dict[str, Any] = {
        "time_s": (x / speed * 60).tolist(),
        "extension_mm": x.tolist(),
        "force_n": force.tolist(),
    }
    if pull.strain_over_mm is not None:
        trace["strain"] = (x / pull.strain_over_mm).tolist()
    return {"trace": trace, **pull.beside}
