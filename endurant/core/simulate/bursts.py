"""A material bulged by a diaphragm until it bursts, as a rig records it."""

from __future__ import annotations

import hashlib

import numpy as np

PEAK_KPA, BURST_S, HEIGHT_MM = 410.0, 20.0, 28.0
AFTER_S = 0.4
TOO_SLOW_TIMES = 2.2
USUAL_RATE_ML_MIN = 200.0
NOISE_KPA = 0.15


class Bursting:
    """Pressure (kPa) and height (mm) over time, sample by sample, to the burst and a bit beyond."""

    channels: tuple[str, ...] = ("time_s", "pressure_kpa", "height_mm")

    def __init__(self, seed: int, rate_hz: float, longest_s: float, slower: float = 1.0) -> None:
        rng = np.random.default_rng(seed)
        burst_s = slower * BURST_S * (1 + 0.03 * rng.standard_normal())
        peak_kpa = PEAK_KPA * (1 + 0.03 * rng.standard_normal())
        self._why = "burst" if burst_s < longest_s else "time-over"
        last_s = min(burst_s + AFTER_S, longest_s)
        time_s = np.arange(0, last_s, 1 / rate_hz)
        part = np.clip(time_s / burst_s, 0, 1)
        pressure = np.where(time_s <= burst_s, peak_kpa * part**1.6, 0.07 * peak_kpa)
        noise = NOISE_KPA * rng.standard_normal(time_s.size)
        self._rows = np.column_stack([time_s, pressure + noise, HEIGHT_MM * np.sqrt(part)])

    @property
    def about(self) -> int:
        """How many samples there are."""
        return int(self._rows.shape[0])

    def row(self, number: int) -> tuple[float, ...] | None:
        """Return a sample, or None at the end."""
        return tuple(self._rows[number].tolist()) if number < self.about else None

    def go_on(self) -> None:
        """A rig does not pause."""

    def ended(self) -> str:
        """It burst, or the time was over."""
        return self._why


def burst_of(
    code: str,
    rate_hz: float,
    longest_s: float,
    *,
    too_slow: bool = False,
    rate_ml_min: float = USUAL_RATE_ML_MIN,
) -> Bursting:
    """The same code always gives the same place of the material; a slow pump takes longer."""
    seed = int.from_bytes(hashlib.sha256(code.encode()).digest()[:8], "big")
    slower = (TOO_SLOW_TIMES if too_slow else 1.0) * USUAL_RATE_ML_MIN / rate_ml_min
    return Bursting(seed, rate_hz, longest_s, slower)
