"""A pallet bent between two supports, sample by sample; seeded by its code.

It sags a little less than in proportion to its load, creeps with the logarithm of time, and keeps
a part of its sag. Sensors at the sides see a share of what the middle does.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from math import log10

import numpy as np

SENSORS = {"platen": 1.03, "left": 0.34, "right": 0.31, "front": 0.86, "back": 0.9, "middle": 1.0}
"""What each sensor sees of the sag of the middle, as a share."""
BREAKS_N, SAG_AT_BREAK_MM = 11_300.0, 44.0
POWER = 1.1
CREEP_A_DECADE = 0.03
STAYS = 0.06
RAMP_S = 20.0
NOISE_MM, NOISE_N = 0.01, 4.0
WRONG_WAY_MM = 2.0
LEFT_AFTER_BREAK = 0.35


@dataclass(frozen=True)
class PalletOrder:
    """What the rig is told: a schedule of loads, or a speed up to a limit.

    `holds_s` are those of datum, full load and relaxation; `down_is` is 1 or -1.
    """

    test: str
    speed_mm_min: float
    limit_mm: float
    datum_n: float
    full_n: float
    holds_s: tuple[float, float, float]
    down_is: float

    def about_s(self) -> float:
        """About how long it takes."""
        if self.test == "stiffness":
            return sum(self.holds_s) + 3 * RAMP_S
        return 1.3 * SAG_AT_BREAK_MM / self.speed_mm_min * 60


class Pallet:
    """One pallet under the bars."""

    channels: tuple[str, ...] = ("time_s", "force_n", "level", *(f"{name}_mm" for name in SENSORS))

    def __init__(self, code: str, order: PalletOrder, rate_hz: float, upside_down: bool) -> None:
        seed = int.from_bytes(hashlib.sha256(code.encode()).digest()[:8], "big")
        self._rng = np.random.default_rng(seed)
        self._order, self._rate_hz = order, rate_hz
        self._sign = order.down_is * (-1 if upside_down else 1)
        self._breaks_n = BREAKS_N * (1 + 0.04 * self._rng.standard_normal())
        self._sag_mm = SAG_AT_BREAK_MM * (1 + 0.03 * self._rng.standard_normal())
        self._why = ""

    def row(self, number: int) -> tuple[float, ...] | None:
        """Time, force, the number of the level that is held (0 between them), displacements."""
        if self._why:
            return None
        time_s = number / self._rate_hz
        follow = self._scheduled if self._order.test == "stiffness" else self._pushed
        state = follow(time_s)
        if state is None:
            return None
        force_n, level, sag_mm = state
        seen = [
            round(self._sign * share * sag_mm + NOISE_MM * self._rng.standard_normal(), 4)
            for share in SENSORS.values()
        ]
        if self._order.down_is * seen[-1] < -WRONG_WAY_MM:
            self._why = "wrong-sign"
        felt_n = max(force_n + NOISE_N * float(self._rng.standard_normal()), 0.0)
        return round(time_s, 4), round(felt_n, 2), float(level), *seen

    def _sag(self, force_n: float) -> float:
        return float(self._sag_mm * (max(force_n, 0.0) / self._breaks_n) ** POWER)

    def _scheduled(self, time_s: float) -> tuple[float, int, float] | None:
        datum_n, full_n = self._order.datum_n, self._order.full_n
        loads = ((0.0, datum_n), (datum_n, full_n), (full_n, datum_n))
        crept_mm, begin_s = 0.0, 0.0
        for level, ((before_n, load_n), hold_s) in enumerate(
            zip(loads, self._order.holds_s, strict=True), start=1
        ):
            on_s = time_s - begin_s
            kept_mm = STAYS * self._sag(full_n) if level == 3 else 0.0
            if on_s < RAMP_S:
                force_n = before_n + (load_n - before_n) * on_s / RAMP_S
                return force_n, 0, self._sag(force_n) + crept_mm + kept_mm
            if on_s < RAMP_S + hold_s:
                sag_mm = self._sag(load_n)
                creep = CREEP_A_DECADE * sag_mm * log10(1 + on_s - RAMP_S)
                left_mm = crept_mm + kept_mm if level == 3 else 0.0
                return load_n, level, sag_mm + (creep if level < 3 else left_mm)
            if level == 2:
                crept_mm = 0.5 * CREEP_A_DECADE * self._sag(load_n) * log10(1 + hold_s)
            begin_s += RAMP_S + hold_s
        self._why = "end-of-schedule"
        return None

    def _pushed(self, time_s: float) -> tuple[float, int, float] | None:
        sag_mm = time_s * self._order.speed_mm_min / 60
        if sag_mm > abs(self._order.limit_mm):
            self._why = "limit"
            return None
        force_n = self._breaks_n * (min(sag_mm / self._sag_mm, 1.0)) ** (1 / POWER)
        if sag_mm > self._sag_mm:
            force_n *= LEFT_AFTER_BREAK
            if sag_mm > self._sag_mm + 1:
                self._why = "broke"
        return force_n, 0, sag_mm

    def go_on(self) -> None:
        """A rig does not pause."""

    def ended(self) -> str:
        """Return why it ended."""
        return self._why
