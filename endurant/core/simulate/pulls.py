"""A specimen as a frame pulls or pushes it, sample by sample; seeded by its code.

The tear of woven fabric has its own physics; everything else follows the shapes that
`simulate.specimens` knows a method by.
"""

from __future__ import annotations

import hashlib
from math import inf, nan
from typing import Protocol

import numpy as np

from endurant.core.simulate.shapes import SimulatedPull, rising
from endurant.core.simulate.tear import TearSpecimen, specimen_from_label
from endurant.core.simulate.traces import pull_for
from endurant.core.trace import Samples

TEARS = ("iso-13937-2",)
UNKNOWN = SimulatedPull(40, 100, rising(300, 20, 1.2))
BROKEN_BELOW = 0.2
NOISE_SHARE = 0.0004
PAUSE = "pause"
MAX_SAMPLES = 2_000_000
STRAIN_SLIPS_AT, STRAIN_LEFT = 0.02, 0.6
"""Where an extensometer slips, as a part of the run, and what it reads then, as a part."""


class Pulled(Protocol):
    """What a frame feels of one specimen."""

    channels: tuple[str, ...]
    about: int

    def row(self, number: int) -> tuple[float, ...] | str | None:
        """A sample by its number, `pause` where the extensometer has to come off, None after."""

    def go_on(self) -> None:
        """The extensometer is off."""

    def ended(self) -> str:
        """Return why it ended."""


class Torn:
    """A trouser tear, to the end of its travel."""

    channels: tuple[str, ...] = ("time_s", "extension_mm", "force_n")

    def __init__(
        self, specimen: TearSpecimen, speed_mm_min: float, end_mm: float, rate_hz: float
    ) -> None:
        self.specimen = specimen
        self.speed_mm_min, self.end_mm, self.rate_hz = speed_mm_min, end_mm, rate_hz
        self.about = int(end_mm / speed_mm_min * 60 * rate_hz)

    def row(self, number: int) -> tuple[float, ...] | None:
        """Time, travel and force."""
        time_s = number / self.rate_hz
        extension_mm = round(time_s * self.speed_mm_min / 60, 4)
        if extension_mm > self.end_mm + 1e-9:
            return None
        return round(time_s, 4), extension_mm, self.specimen.force_n(extension_mm, number)

    def go_on(self) -> None:
        """It does not pause."""

    def ended(self) -> str:
        """Return at the end of its travel."""
        return "end-of-travel"


class Stretched:
    """A pull or a push that is known by its shape, to the break or the end of the travel."""

    def __init__(
        self,
        rows: Samples,
        why: str,
        strain_over_mm: float = 0.0,
        off_strain: float = 0.0,
        off_fall: float = 0.0,
        slips_from: float = 0.0,
    ) -> None:
        self._slips_from = slips_from
        self._rows, self._why = rows, why
        self._over_mm, self._off_strain = strain_over_mm, off_strain
        self._off_from = _fallen_from(rows[:, 2], off_fall) if off_fall else rows.shape[0]
        self._is_off = False
        self._has_strain = strain_over_mm > 0
        strain = ("strain",) if self._has_strain else ()
        self.channels: tuple[str, ...] = ("time_s", "extension_mm", "force_n", *strain)
        self.about = int(rows.shape[0])

    def row(self, number: int) -> tuple[float, ...] | str | None:
        """Time, travel, force, and strain while the extensometer is on."""
        if number >= self.about:
            return None
        time_s, extension_mm, force_n = self._rows[number].tolist()
        if not self._has_strain:
            return time_s, extension_mm, force_n
        strain = extension_mm / self._over_mm
        if 0 < self._slips_from < number / self.about:
            strain *= STRAIN_LEFT
        is_due = 0 < self._off_strain <= strain or number >= self._off_from
        if is_due and not self._is_off:
            return PAUSE
        return time_s, extension_mm, force_n, nan if self._is_off else strain

    def go_on(self) -> None:
        """The extensometer is off."""
        self._is_off = True

    def ended(self) -> str:
        """It broke, or the travel was over."""
        return self._why


def _fallen_from(force_n: Samples, fall: float) -> int:
    """The sample at which the force has fallen by this share, while the specimen still holds."""
    top = int(np.argmax(force_n))
    fallen = np.flatnonzero(force_n[top:] < (1 - fall) * force_n[top])
    if not fallen.size or force_n[top + fallen[0]] < BROKEN_BELOW * force_n[top]:
        return int(force_n.size)
    return top + int(fallen[0])


def pull_of(
    method: str,
    code: str,
    speed_mm_min: float,
    end_mm: float,
    until_break: bool,
    rate_hz: float,
    slips: bool = False,
    off_strain: float = 0.0,
    strain_over_mm: float = 0.0,
    off_fall: float = 0.0,
    force_limit_n: float = inf,
    from_n: float = 0.0,
    strain_slips: bool = False,
) -> Pulled:
    """Return the specimen of this code under this method; the same code always gives the same.

    It is pulled from a pretension of `from_n` on; the extensometer may slip on the way.
    """
    if method in TEARS:
        specimen = specimen_from_label(code, "jaw-slip" if slips else "none")
        return Torn(specimen, speed_mm_min, end_mm, rate_hz)
    seed = int.from_bytes(hashlib.sha256(code.encode()).digest()[:8], "big")
    rng = np.random.default_rng([seed, *method.encode()])
    pull = pull_for(method) or UNKNOWN
    travel_mm = min(end_mm, 1.2 * pull.length_mm)
    count = min(int(travel_mm / speed_mm_min * 60 * rate_hz) + 1, MAX_SAMPLES)
    time_s = np.arange(count) / rate_hz
    x = time_s * speed_mm_min / 60
    force = pull.shape(x, rng)
    upper = float(force.max())
    if slips:
        half = count // 2
        force[half : half + max(count // 50, 1)] *= 0.7
    force = force + NOISE_SHARE * upper * rng.standard_normal(count)
    rows = np.column_stack([time_s, x, force])
    if from_n:
        begin = int(np.argmax(force >= from_n))
        rows = rows[begin:] - np.array([time_s[begin], x[begin], 0.0])
        force = rows[:, 2]
    why = "end-of-travel"
    if until_break:
        top = int(np.argmax(force))
        fallen = np.flatnonzero(force[top:] < BROKEN_BELOW * upper)
        if fallen.size:
            rows, why = rows[: top + int(fallen[0]) + 3], "broke"
    beyond = np.flatnonzero(rows[:, 2] > force_limit_n)
    if beyond.size:
        rows, why = rows[: int(beyond[0])], "force-limit"
    return Stretched(
        rows, why, strain_over_mm, off_strain, off_fall, slips_from=STRAIN_SLIPS_AT * strain_slips
    )
