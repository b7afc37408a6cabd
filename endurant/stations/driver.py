"""What every device can do, whatever it speaks. A real one is one more class like these."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from endurant.core.refusals import Unavailable


class LineLost(Unavailable):
    """The device does not answer, or what it sends is damaged. It may come back."""


class TestUnknown(Unavailable):
    """The device answers, but no longer holds the test that it is asked for."""

    __test__ = False


class DeviceRefused(Unavailable):
    """The device says no, in its own words."""


@dataclass(frozen=True)
class FrameStatus:
    """What a frame reports of itself at this moment."""

    serial: str
    state: str
    force_n: float
    extension_mm: float
    gauge_length_mm: float
    speed_mm_min: float
    zeroed: bool
    capacity_n: float
    pace: float


@dataclass(frozen=True)
class RunOrder:
    """What a frame is asked to do: which test, which specimen, how fast, how far."""

    device_run: str
    specimen_code: str
    speed_mm_min: float
    end_mm: float


@dataclass(frozen=True)
class Batch:
    """Samples as they came: `first` is the number of the first, shape (n, 3)."""

    first: int
    samples: NDArray[np.float64]


@dataclass(frozen=True)
class Ended:
    """The device ended the test after so many samples, and says why."""

    samples: int
    reason: str


@dataclass(frozen=True)
class LoggedReading:
    """One reading of a logger, in °C and %RH (None where it has no such sensor)."""

    at: datetime
    temperature_c: float
    humidity_percent: float | None


class LoggerDriver(Protocol):
    """A thermo-hygrometer that keeps what it read. Every call may raise LineLost."""

    def readings_after(self, after: datetime) -> list[LoggedReading]:
        """What it read after this moment, oldest first, as far as it still holds it."""

    def pretend(self, fault: str) -> None:
        """Stand-ins only: how the room shall behave from now on."""


class GaugeDriver(Protocol):
    """A caliper, thickness gauge or balance. Every call may raise LineLost."""

    def read(self, near: float | None) -> float:
        """Its reading now, in mm or in g; `near` is for stand-ins only, which make one up."""

    def pretend(self, fault: str) -> None:
        """Stand-ins only: how it shall behave."""


class FrameDriver(Protocol):
    """A universal frame with a load cell. Every call may raise LineLost."""

    def status(self) -> FrameStatus:
        """What it reports of itself."""

    def prepare(self, gauge_length_mm: float, speed_mm_min: float) -> FrameStatus:
        """Bring the jaws to the gauge length and set the speed."""

    def zero(self) -> FrameStatus:
        """Zero force and extension."""

    def begin(self, order: RunOrder) -> None:
        """Start; asking twice for the same `device_run` starts once."""

    def follow(self, device_run: str, first: int) -> Iterator[Batch | Ended]:
        """Samples from number `first` on, then live until the end.

        Raises TestUnknown when the device does not hold this test.
        """

    def stop(self, device_run: str) -> None:
        """Stop the crosshead; the samples so far stay."""

    def pretend(self, fault: str) -> None:
        """Stand-ins only: how the next specimen shall behave."""
