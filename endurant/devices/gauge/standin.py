"""Simulated calipers, thickness gauges and balances."""

from __future__ import annotations

from collections.abc import Iterator
from random import Random
from typing import Literal, get_args

from endurant.devices.line import Message, encode
from endurant.devices.standin import RUBBISH, refusal

GaugeFault = Literal["none", "inches", "rubbish", "silent", "drifts"]
DRIFT_A_READING = 0.01


class SimulatedGauge:
    """A caliper, thickness gauge or balance that reads close to what it is told to be near."""

    def __init__(self, resolution: float, scatter: float, seed: int) -> None:
        self.resolution = resolution
        self.scatter = scatter
        self.fault: GaugeFault = "none"
        self._drifted = 0.0
        self._luck = Random(seed)  # noqa: S311 - scatter of a simulated gauge

    def answer(self, message: Message) -> Iterator[bytes]:
        """`READ near=` for a reading, `PRETEND fault=` for how it shall behave."""
        if message.word == "PRETEND":
            yield self._simulate_fault(message.text("fault"))
        elif message.word == "READ" and self.fault == "rubbish":
            yield RUBBISH
        elif message.word == "READ" and self.fault != "silent":
            yield self._read(message.number("near") if "near" in message.fields else 10.0)
        elif message.word != "READ":
            yield refusal("unknown-word", f"{message.word[:20]} is no command of this gauge")

    def _read(self, near: float) -> bytes:
        value = near * (1 + self._luck.gauss(0, self.scatter))
        if self.fault == "inches":
            value /= 25.4
        if self.fault == "drifts":
            self._drifted += DRIFT_A_READING
            value *= 1 + self._drifted
        steps = max(round(value / self.resolution), 1)
        return encode(Message("OK", {"value": f"{steps * self.resolution:.4f}"}))

    def _simulate_fault(self, fault: str) -> bytes:
        if fault not in get_args(GaugeFault):
            return refusal("fault", f"expected one of {', '.join(get_args(GaugeFault))}")
        self.fault = fault  # type: ignore[assignment]
        return encode(Message("OK", {"fault": fault}))
