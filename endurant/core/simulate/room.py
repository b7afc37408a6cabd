"""The air of a simulated enclosure: it swings slowly about its set point, and never tires.

What is read at a moment depends on the moment and the seed alone, so that whoever asks later
is told the same.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from math import pi, sin

SWING_S = 5400.0
SLOW_SWING_S = 86_400.0


@dataclass(frozen=True)
class RoomReading:
    """Temperature in °C, and humidity in %RH where the room has one."""

    temperature_c: float
    humidity_percent: float | None


@dataclass(frozen=True)
class SimulatedRoom:
    """A room with its set point and how far it swings, in °C and %RH."""

    temperature_c: float
    humidity_percent: float | None
    swing_c: float = 0.5
    swing_percent: float = 1.2
    seed: int = 1

    def read(self, epoch_s: float, offset_c: float = 0.0) -> RoomReading:
        """What a logger there reads at this moment; `offset_c` warms the room, and dries it."""
        phase = 2 * pi * (self.seed % 97) / 97
        slow = sin(2 * pi * epoch_s / SLOW_SWING_S + phase)
        quick = sin(2 * pi * epoch_s / SWING_S + 2 * phase)
        swing = 0.55 * slow + 0.3 * quick
        temperature = self.temperature_c + self.swing_c * (swing + self._noise(epoch_s, "t"))
        if self.humidity_percent is None:
            return RoomReading(round(temperature + offset_c, 2), None)
        humidity = self.humidity_percent - self.swing_percent * (swing - self._noise(epoch_s, "h"))
        humidity = min(max(humidity - 2.2 * offset_c, 0.0), 100.0)
        return RoomReading(round(temperature + offset_c, 2), round(humidity, 1))

    def _noise(self, epoch_s: float, what: str) -> float:
        """From -0.15 to 0.15, the same for the same moment."""
        digest = hashlib.sha256(f"{self.seed} {what} {epoch_s:.0f}".encode()).digest()
        return 0.3 * (int.from_bytes(digest[:4]) / 2**32 - 0.5)
