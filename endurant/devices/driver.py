"""What every device can do, whatever it speaks. A real one is one more class like these."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from endurant.core.bench.status import Status
from endurant.core.refusals import Unavailable


class LineLost(Unavailable):
    """The device does not answer, or what it sends is damaged. It may come back."""


class TestUnknown(Unavailable):
    """The device answers, but no longer holds the test that it is asked for."""

    __test__ = False


class DeviceRefused(Unavailable):
    """The device says no, in its own words."""


@dataclass(frozen=True)
class Order:
    """What a recorder is asked to do: which test, which specimen, and what it is set to."""

    device_run: str
    specimen: str
    method: str
    setup: Mapping[str, float | str] = field(default_factory=dict)


@dataclass(frozen=True)
class Batch:
    """Samples as they came: `first` is the number of the first, shape (n, channels).

    One without samples is a sign of life: the device is there and has nothing new.
    """

    first: int
    samples: NDArray[np.float64]


@dataclass(frozen=True)
class Follows:
    """The device takes a test up again, and says which channels it sends of it."""

    channels: tuple[str, ...]


@dataclass(frozen=True)
class DeviceEvent:
    """Something that the device tells of the test it records, such as that it paused."""

    kind: str


@dataclass(frozen=True)
class Ended:
    """The device ended the test after so many samples, and says why."""

    samples: int
    reason: str


Sent = Follows | Batch | DeviceEvent | Ended
"""What a recorder sends of a test."""


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

    def simulate(self, fault: str) -> None:
        """Stand-ins only: how the room shall behave from now on."""


class GaugeDriver(Protocol):
    """A caliper, thickness gauge or balance. Every call may raise LineLost."""

    def read(self, near: float | None) -> float:
        """Its reading now, in mm or in g; `near` is for stand-ins only, which make one up."""

    def simulate(self, fault: str) -> None:
        """Stand-ins only: how it shall behave."""


class Recorder(Protocol):
    """A device that records a test: a frame, a bursting rig. Every call may raise LineLost."""

    def status(self) -> Status:
        """What it reports of itself."""

    def do(self, act: str, **setup: float | str) -> Status:
        """Prepare, zero, drain …; raises DeviceRefused with its own words."""

    def begin(self, order: Order) -> tuple[str, ...]:
        """Start; asking twice for the same `device_run` starts once. The channels it records."""

    def follow(
        self, device_run: str, first: int
    ) -> Iterator[Follows | Batch | DeviceEvent | Ended]:
        """Samples from number `first` on, then live until the end.

        Raises TestUnknown when the device does not hold this test.
        """

    def stop(self, device_run: str) -> None:
        """Stop; the samples so far stay."""

    def simulate(self, fault: str) -> None:
        """Stand-ins only: how the next specimen shall behave."""


class Indicator(Protocol):
    """A device that shows readings and records none. Every call may raise LineLost."""

    def status(self) -> Status:
        """What it reports of itself."""

    def do(self, act: str, **setup: float | str) -> Status:
        """Heat, charge, fan off …; raises DeviceRefused with its own words."""

    def read(
        self, specimen: str, method: str, request: Mapping[str, float | str]
    ) -> Mapping[str, float | bool | str]:
        """What it reads of a specimen now, by the names of the readings."""

    def simulate(self, fault: str) -> None:
        """Stand-ins only: how it shall behave from now on."""
