"""Simulated loggers, calipers, thickness gauges and balances, told apart by serial number."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Mapping
from random import Random
from typing import Literal, Protocol, get_args

from endurant.core.simulate.room import SimulatedRoom
from endurant.stations.line import Message, Rubbish, encode

LOG_EVERY_S = 300
KEPT_S = 40 * 86_400
MOST_SENT = 12_000
RUBBISH = b"R t=;;; \xff\xfe nonsense *0000\n"
WARMER_C = 4.0

LoggerFault = Literal["none", "warm", "silent", "rubbish"]
GaugeFault = Literal["none", "inches", "rubbish", "silent"]


class Device(Protocol):
    """What a stand-in answers to a message that names it, as lines ready to be sent."""

    def answer(self, message: Message) -> Iterator[bytes]:
        """The lines of the answer; none is silence."""


class SimulatedLogger:
    """A thermo-hygrometer in a simulated room. It reads every few minutes and remembers.

    Warmed, it reads too warm from that moment on; silent, it neither reads nor answers.
    """

    def __init__(
        self,
        room: SimulatedRoom,
        every_s: float = LOG_EVERY_S,
        now: Callable[[], float] = time.time,
    ) -> None:
        self.room = room
        self.every_s = every_s
        self.now = now
        self.fault: LoggerFault = "none"
        self.faults: list[tuple[float, LoggerFault]] = []

    def answer(self, message: Message) -> Iterator[bytes]:
        """`LOG after=` for its memory, `PRETEND fault=` for how it shall behave."""
        if message.word == "PRETEND":
            yield self._pretend(message.text("fault"))
        elif message.word == "LOG" and self.fault == "rubbish":
            yield RUBBISH
        elif message.word == "LOG" and self.fault != "silent":
            yield from self._log(message.number("after"))
        elif message.word != "LOG":
            yield _refuse("unknown-word", f"{message.word[:20]} is no command of this logger")

    def _log(self, after_s: float) -> Iterator[bytes]:
        now = self.now()
        first = int(max(after_s, now - KEPT_S) // self.every_s) + 1
        last = min(int(now // self.every_s), first + MOST_SENT)
        for number in range(first, last + 1):
            moment = number * self.every_s
            fault = self._fault_at(moment)
            if fault in ("silent", "rubbish"):
                continue
            told = self.room.read(moment, WARMER_C if fault == "warm" else 0.0)
            fields = {"n": f"{number}", "t": f"{moment:.0f}", "c": f"{told.temperature_c:.2f}"}
            if told.humidity_percent is not None:
                fields["h"] = f"{told.humidity_percent:.1f}"
            yield encode(Message("R", fields))
        yield encode(Message("END", {"n": f"{max(last, first - 1)}"}))

    def _fault_at(self, moment: float) -> LoggerFault:
        return next((fault for since, fault in reversed(self.faults) if since <= moment), "none")

    def _pretend(self, fault: str) -> bytes:
        if fault not in get_args(LoggerFault):
            return _refuse("fault", f"expected one of {', '.join(get_args(LoggerFault))}")
        self.fault = fault  # type: ignore[assignment]
        self.faults.append((self.now(), self.fault))
        return encode(Message("OK", {"fault": fault}))


class SimulatedGauge:
    """A caliper, thickness gauge or balance that reads close to what it is told to be near."""

    def __init__(self, resolution: float, scatter: float, seed: int) -> None:
        self.resolution = resolution
        self.scatter = scatter
        self.fault: GaugeFault = "none"
        self._luck = Random(seed)  # noqa: S311 - scatter of a simulated gauge

    def answer(self, message: Message) -> Iterator[bytes]:
        """`READ near=` for a reading, `PRETEND fault=` for how it shall behave."""
        if message.word == "PRETEND":
            yield self._pretend(message.text("fault"))
        elif message.word == "READ" and self.fault == "rubbish":
            yield RUBBISH
        elif message.word == "READ" and self.fault != "silent":
            yield self._read(message.number("near") if "near" in message.fields else 10.0)
        elif message.word != "READ":
            yield _refuse("unknown-word", f"{message.word[:20]} is no command of this gauge")

    def _read(self, near: float) -> bytes:
        value = near * (1 + self._luck.gauss(0, self.scatter))
        if self.fault == "inches":
            value /= 25.4
        steps = max(round(value / self.resolution), 1)
        return encode(Message("OK", {"value": f"{steps * self.resolution:.4f}"}))

    def _pretend(self, fault: str) -> bytes:
        if fault not in get_args(GaugeFault):
            return _refuse("fault", f"expected one of {', '.join(get_args(GaugeFault))}")
        self.fault = fault  # type: ignore[assignment]
        return encode(Message("OK", {"fault": fault}))


def answer_of(devices: Mapping[str, Device], message: Message) -> list[bytes]:
    """What the device named in a message answers; one that is not there is said."""
    device = devices.get(message.text("device"))
    if device is None:
        return [_refuse("unknown-device", f"no device {message.text('device')[:20]} here")]
    try:
        return list(device.answer(message))
    except Rubbish as rubbish:
        return [_refuse("rubbish", str(rubbish))]


def _refuse(code: str, says: str) -> bytes:
    return encode(Message("ERR", {"code": code, "says": says.replace(" ", "_")}))


def demo_devices() -> dict[str, Device]:
    """The devices of the demo laboratory, by serial number."""
    return {
        "TH-1": SimulatedLogger(SimulatedRoom(20, 65, 0.6, 1.4, 11)),
        "TH-2": SimulatedLogger(SimulatedRoom(23, 50, 0.5, 1.6, 23)),
        "TH-3": SimulatedLogger(SimulatedRoom(105, None, 0.9, 0, 37)),
        "TH-4": SimulatedLogger(SimulatedRoom(45, 17.5, 1.1, 2.0, 41)),
        "TH-5": SimulatedLogger(SimulatedRoom(-30, None, 0.6, 0, 53)),
        "CAL-7": SimulatedGauge(0.01, 0.002, 7),
        "TG-2": SimulatedGauge(0.001, 0.004, 2),
        "BAL-1": SimulatedGauge(0.001, 0.001, 1),
    }
