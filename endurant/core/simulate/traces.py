"""Believable traces for every method that reads one, seeded, with the faults that happen.

The same seed gives the same specimen. A fault changes the trace as the bench would, and
where a person would see it (a slip, a break at the grip) the entry carries what they say.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Literal

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
    beside: dict[str, Any] = field(default_factory=dict)
    strain_over_mm: float | None = None


def yarns(level_n: float, spacing_mm: float) -> Callable[[Samples, np.random.Generator], Samples]:
    """A tear: slack, a rise, then yarn after yarn."""

    def shape(x: Samples, rng: np.random.Generator) -> Samples:
        torn = np.maximum(x - 12, 0) / spacing_mm
        yarn = torn.astype(np.intp)
        strength = level_n * (1 + 0.06 * rng.standard_normal(int(yarn.max()) + 2))
        phase = torn - yarn
        tearing = strength[yarn] * (0.72 + 0.28 * phase)
        return np.where(x < 12, strength[0] * np.clip((x - 2) / 10, 0, 1), tearing)

    return shape


def rising(most_n: float, at_mm: float, power: float, left: float = 0.05) -> Any:
    """A force that rises to its maximum, and falls to a part of it when the specimen breaks."""

    def shape(x: Samples, rng: np.random.Generator) -> Samples:
        top = at_mm * (1 + 0.04 * rng.standard_normal())
        most = most_n * (1 + 0.03 * rng.standard_normal())
        up = most * np.clip(x / top, 0, 1) ** power
        return np.where(x <= top, up, left * most)

    return shape


def fraying(most_n: float, at_mm: float, power: float, over_mm: float) -> Any:
    """A force that rises, falls as yarn after yarn gives way past its maximum, and breaks."""
    whole = rising(most_n, at_mm, power, left=1.0)

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
    """A seal: a rise, an uneven plateau, and the end of the seal."""

    def shape(x: Samples, rng: np.random.Generator) -> Samples:
        level = level_n * (1 + 0.03 * rng.standard_normal())
        wave = 1 + 0.05 * np.sin(x * 1.7 + rng.uniform(0, 6))
        ends = np.clip(x / 4, 0, 1) * np.clip((length_mm - x) / 6, 0, 1)
        return level * wave * ends

    return shape


_BAR = {"dimensions": {"width_mm": [10.02, 9.98, 10.0], "thickness_mm": [4.01, 4.0, 3.99]}}
_WIDE = {"dimensions": {"width_mm": [200.0, 199.8, 200.2]}}
_RUBBER = {"dimensions": {"width_mm": [6.0], "thickness_mm": [2.01, 2.0, 2.02]}}

PULLS: dict[str, SimulatedPull] = {
    "iso-13937-2": SimulatedPull(150, 100, yarns(24, 3.0)),
    "astm-d2261": SimulatedPull(150, 50, yarns(95, 3.6)),
    "astm-d624": SimulatedPull(90, 50, yarns(18, 2.2), _RUBBER),
    "iso-34-1": SimulatedPull(90, 100, yarns(18, 2.2), _RUBBER),
    "iso-13934-1": SimulatedPull(60, 100, rising(1450, 38, 1.5)),
    "iso-13934-2": SimulatedPull(45, 50, rising(420, 31, 1.7)),
    "astm-d4595": SimulatedPull(20, 10, fraying(12_400, 13, 1.1, 3), _WIDE),
    "astm-d6637": SimulatedPull(
        20, 10, fraying(1300, 11, 0.9, 2), {"ribs_tested": 1.0, "ribs_per_metre": 43.5}
    ),
    "iso-527": SimulatedPull(18, 10, yielding(1450, 1240, 900, 15), _BAR, 50),
    "astm-d638": SimulatedPull(18, 10, yielding(1450, 1240, 900, 15), _BAR, 50),
    "iso-527-3": SimulatedPull(
        320,
        300,
        yielding(6, 14, 20, 300),
        {"dimensions": {"width_mm": [15.0], "thickness_mm": [0.04, 0.041, 0.04]}},
    ),
    "astm-d882": SimulatedPull(
        320,
        300,
        yielding(6, 14, 20, 300),
        {"dimensions": {"width_mm": [15.0], "thickness_mm": [0.04, 0.041, 0.04]}},
    ),
    "astm-e8": SimulatedPull(
        12,
        5,
        yielding(160_000, 20_000, 26_000, 10),
        {"dimensions": {"width_mm": [12.5], "thickness_mm": [3.0]}},
        50,
    ),
    "astm-d412": SimulatedPull(110, 500, stretching(0.9, 100), _RUBBER, 25),
    "iso-37": SimulatedPull(110, 500, stretching(0.9, 100), _RUBBER, 25),
    "astm-f88": SimulatedPull(
        40,
        300,
        peeling(38, 36),
        {"dimensions": {"width_mm": [25.0]}, "failure_mode": "adhesive-peel"},
    ),
    "astm-f1306": SimulatedPull(
        9, 25, rising(9.4, 5.2, 1.3, 0.02), {"dimensions": {"thickness_mm": [0.112]}}
    ),
    "iso-12048": SimulatedPull(18, 10, rising(2500, 12, 1.2, 0.7)),
    "iso-3037": SimulatedPull(4, 12.5, rising(580, 1.6, 1.1, 0.5)),
}
"""How a specimen of each method that is pulled or pushed behaves."""

PARAMETERS: dict[str, dict[str, Any]] = {
    "astm-d624": {"die": "T"},
    "iso-34-1": {"die": "T"},
    "iso-527": {"gauge_length_mm": 50.0, "speed_mm_min": 10.0},
    "astm-d638": {"gauge_length_mm": 50.0, "speed_mm_min": 10.0},
    "astm-d882": {
        "gauge_length_mm": 100.0,
        "speed_mm_min": 300.0,
        "modulus_window": [0.005, 0.02],
    },
    "iso-527-3": {
        "gauge_length_mm": 100.0,
        "speed_mm_min": 300.0,
        "modulus_window": [0.005, 0.02],
    },
    "astm-e8": {"gauge_length_mm": 50.0, "speed_mm_min": 5.0},
    "astm-d6637": {"gauge_length_mm": 100.0},
    "iso-13934-1": {"speed_mm_min": 100.0},
    "astm-f88": {"technique": "A"},
    "hysteresis": {"cycles": 3, "slack_force_n": 0.1, "speed_mm_min": 100.0},
    "relaxation": {"hold_strain_percent": 20.0},
    "iso-8611": {"test": "strength", "span_mm": 1000.0},
    "iso-13938-1": {"diaphragm_pressure_kpa": 24.5},
}
"""Parameters that a document of simulated specimens needs."""

TRACE_METHODS = (
    *PULLS,
    "iso-13936-1",
    "iso-13936-2",
    "hysteresis",
    "relaxation",
    "iso-13938-1",
    "iso-2758",
    "iso-2759",
    "iso-8611",
)
"""Every method that reads a trace."""

_OBSERVED = {"slip": "jaw-slip", "grip-break": "broke-at-grip"}
_TENSION = (
    "iso-13934-1",
    "iso-13934-2",
    "astm-d4595",
    "astm-d6637",
    "iso-527",
    "astm-d638",
    "iso-527-3",
    "astm-d882",
    "astm-e8",
    "astm-d412",
    "iso-37",
    "astm-f88",
)
_TIMED = (*PULLS, "iso-13936-1", "iso-13936-2")

FOUND_AS: dict[SpecimenFault, dict[str, str]] = {
    "wrong-speed": dict.fromkeys(_TIMED, "rate-out-of-tolerance"),
    "preload": dict.fromkeys(_TENSION, "preloaded-at-start"),
    "slip": dict.fromkeys(
        ("iso-13937-2", "astm-d2261", *_TENSION, "iso-13936-1", "iso-13936-2"), "jaw-slip"
    )
    | {"astm-f1306": "slipped-in-clamp", "iso-13938-1": "jaw-slip", "iso-2758": "jaw-slip"},
    "grip-break": dict.fromkeys(_TENSION, "broke-at-grip")
    | {"iso-13934-1": "jaw-break-kept", "iso-13934-2": "jaw-break-kept"}
    | {"astm-f1306": "broke-at-clamp", "iso-13938-1": "jaw-burst", "iso-2758": "jaw-burst"},
    "early-stop": {
        "astm-d412": "strain-not-reached",
        "iso-37": "strain-not-reached",
        "relaxation": "trace-too-short",
        "hysteresis": "fewer-cycles",
        "iso-13936-1": "unsewn-too-short",
        "iso-13936-2": "unsewn-too-short",
    },
}
"""The flag by which the analysis finds a fault, for each method where it can."""


def simulate(
    method: str, seed: int, samples: int = 2000, fault: SpecimenFault = "none"
) -> dict[str, Any]:
    """The entry of one simulated specimen, without its label; raises KeyError."""
    rng = np.random.default_rng([seed, *method.encode()])
    makers: dict[str, Callable[..., dict[str, Any]]] = {
        "iso-13936-1": _seam,
        "iso-13936-2": _seam,
        "hysteresis": _cycles,
        "relaxation": _hold,
        "iso-13938-1": _burst,
        "iso-2758": _burst,
        "iso-2759": _burst,
        "iso-8611": _pallet,
    }
    if method in makers:
        entry = makers[method](rng, samples, fault)
    else:
        entry = _pull(PULLS[method], rng, samples, fault)
    code = FOUND_AS.get(fault, {}).get(method)
    if code is not None and fault in _OBSERVED:
        kept = code == "jaw-break-kept"
        entry |= {"break_distance_mm": 3.0} if kept else {"observations": [code]}
    return entry


def simulated_document(
    method: str, specimens: int, samples: int = 2000, fault: SpecimenFault = "none", seed: int = 1
) -> dict[str, Any]:
    """A test document of simulated specimens."""
    return {
        "method": method,
        "parameters": PARAMETERS.get(method, {}) | {"specimens_wanted": specimens},
        "specimens": [
            {"label": f"S{n}"} | simulate(method, seed + n, samples, fault)
            for n in range(1, specimens + 1)
        ],
    }


def _disturbed(force: Samples, rng: np.random.Generator, fault: SpecimenFault) -> Samples:
    """Noise as it always is, louder or with spikes where that is the fault."""
    most = float(force.max())
    share = LOUD_SHARE if fault == "noise" else NOISE_SHARE
    disturbed = force + share * most * rng.standard_normal(force.size)
    if fault == "spikes":
        places = rng.integers(force.size // 4, 3 * force.size // 4, SPIKES)
        disturbed[places] += SPIKE_SHARE * most
    return disturbed


def _pull(
    pull: SimulatedPull, rng: np.random.Generator, samples: int, fault: SpecimenFault
) -> dict[str, Any]:
    x = np.linspace(0, pull.length_mm, samples)
    if fault == "early-stop":
        x = x[: max(samples // 8, 2)]
    toe_mm = TOE_STRAIN * (pull.strain_over_mm or 100) if fault == "toe" else 0.0
    bent = np.where(x < 2 * toe_mm, x**2 / (4 * toe_mm or 1), x - toe_mm) if toe_mm else x
    clean = pull.shape(bent, rng)
    force = _disturbed(clean, rng, fault)
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
    return {"trace": trace} | pull.beside


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
            "force_n": _disturbed(force, rng, fault).tolist(),
        }
    }


def _burst(rng: np.random.Generator, samples: int, fault: SpecimenFault) -> dict[str, Any]:
    """Pressure and height up to a burst after 20 s or so."""
    burst_s = 20 + 0.6 * rng.standard_normal()
    time_s = np.linspace(0, burst_s * 1.02, samples)
    part = np.clip(time_s / burst_s, 0, 1)
    pressure = np.where(time_s <= burst_s, 410 * part**1.6, 30.0)
    return {
        "trace": {
            "time_s": time_s.tolist(),
            "pressure_kpa": _disturbed(pressure, rng, fault).tolist(),
            "height_mm": (28 * np.sqrt(part)).tolist(),
        }
    }


def _pallet(rng: np.random.Generator, samples: int, fault: SpecimenFault) -> dict[str, Any]:
    """A pallet that is bent until it breaks."""
    sag = np.linspace(0, 70, samples)
    top = 44 + 2 * rng.standard_normal()
    force = np.where(sag <= top, 11_300 * (sag / top) ** 0.9, 4000.0)
    return {
        "trace": {
            "time_s": (sag / 2 * 60).tolist(),
            "force_n": _disturbed(force, rng, fault).tolist(),
            "displacement_mm": sag.tolist(),
        }
    }
