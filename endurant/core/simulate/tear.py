"""A trouser tear as a frame feels it: legs straighten, then yarn after yarn breaks."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from functools import lru_cache
from math import cos, log, pi, sin, sqrt
from typing import Literal

TearFault = Literal["none", "jaw-slip"]

LEG_STIFFNESS_N_PER_MM = 1.6
SLACK_MM = 2.0
NOISE_N = 0.02
_VALLEYS = 1_000_000
_NOISE = 7_000_000


@dataclass(frozen=True)
class TearSpecimen:
    """One specimen of a cloth.

    `tear_force_n` is the level of its peaks, `yarn_spacing_mm` their distance in crosshead
    travel; `seed` fixes every yarn. A slip lets go of a leg at `slip_at_mm` of travel.
    """

    seed: int
    tear_force_n: float = 24.0
    yarn_spacing_mm: float = 3.0
    yarn_spread: float = 0.06
    fault: TearFault = "none"
    slip_at_mm: float = 85.0
    slip_mm: float = 14.0

    def force_n(self, extension_mm: float, sample: int) -> float:
        """Force at this crosshead travel; `sample` numbers the reading and seeds its noise."""
        travel = extension_mm
        fading = 1.0
        if self.fault == "jaw-slip" and extension_mm > self.slip_at_mm:
            travel = max(extension_mm - self.slip_mm, self.slip_at_mm)
            if extension_mm < self.slip_at_mm + self.slip_mm:
                fading = 0.28
        noise = NOISE_N * _normal(self.seed, _NOISE + sample)
        return round(fading * self._pull(travel) + noise, 4)

    def _pull(self, travel_mm: float) -> float:
        rise = max(travel_mm - SLACK_MM, 0.0) * LEG_STIFFNESS_N_PER_MM
        torn = travel_mm - SLACK_MM - self.tear_force_n / LEG_STIFFNESS_N_PER_MM
        if torn < 0:
            return min(rise, self._yarn_force(0))
        yarn, phase = divmod(torn / self.yarn_spacing_mm, 1.0)
        top = self._yarn_force(int(yarn))
        bottom = 0.72 * self._yarn_force(int(yarn) + _VALLEYS)
        return bottom + (top - bottom) * float(phase**0.8)

    def _yarn_force(self, yarn: int) -> float:
        return self.tear_force_n * _yarn_strength(self.seed, yarn, self.yarn_spread)


@lru_cache(maxsize=4096)
def _yarn_strength(seed: int, yarn: int, spread: float) -> float:
    """Strength of one yarn, as a part of the level of the cloth; it drifts a little."""
    drift = 1 + 0.03 * sin(0.11 * (yarn % _VALLEYS) + seed % 7)
    return drift * (1 + spread * _normal(seed, yarn))


def specimen_from_label(label: str, fault: TearFault = "none") -> TearSpecimen:
    """Return the specimen of a label; the direction letter sets its level, and it never changes."""
    seed = int.from_bytes(hashlib.sha256(label.encode()).digest()[:4], "big")
    level = 24.4 if "-W" in label else 19.6
    return TearSpecimen(seed, level * (1 + 0.025 * _normal(seed, 99)), fault=fault)


def sample_tear(
    specimen: TearSpecimen, end_mm: float, speed_mm_min: float = 100, rate_hz: float = 50
) -> dict[str, list[float]]:
    """Return a whole trace: columns time_s, extension_mm and force_n up to `end_mm` of travel."""
    count = int(end_mm / speed_mm_min * 60 * rate_hz) + 1
    time_s = [round(sample / rate_hz, 4) for sample in range(count)]
    extension_mm = [round(second * speed_mm_min / 60, 4) for second in time_s]
    force_n = [specimen.force_n(extension, sample) for sample, extension in enumerate(extension_mm)]
    return {"time_s": time_s, "extension_mm": extension_mm, "force_n": force_n}


def _normal(seed: int, key: int) -> float:
    """A standard normal of seed and key alone: samples can be asked for in any order, and again."""
    digest = hashlib.blake2b(f"{seed}:{key}".encode(), digest_size=8).digest()
    specimen = (int.from_bytes(digest[:4], "big") + 1) / (2**32 + 1)
    two = int.from_bytes(digest[4:], "big") / 2**32
    return sqrt(-2 * log(specimen)) * cos(2 * pi * two)
