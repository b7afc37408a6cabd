"""Simulated loggers in simulated rooms."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from typing import Literal, get_args

from endurant.core.simulate.room import SimulatedRoom
from endurant.devices.line import Message, encode
from endurant.devices.standin import RUBBISH, refusal

LOG_EVERY_S = 300
KEPT_S = 40 * 86_400
MAX_SENT = 12_000
WARMER_C = 4.0

LoggerFault = Literal["none", "warm", "silent", "rubbish"]


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
            yield self._simulate_fault(message.text("fault"))
        elif message.word == "LOG" and self.fault == "rubbish":
            yield RUBBISH
        elif message.word == "LOG" and self.fault != "silent":
            yield from self._log(message.number("after"))
        elif message.word != "LOG":
            yield refusal("unknown-word", f"{message.word[:20]} is no command of this logger")

    def _log(self, after_s: float) -> Iterator[bytes]:
        now = self.now()
        first = int(max(after_s, now - KEPT_S) // self.every_s) + 1
        last = min(int(now // self.every_s), first + MAX_SENT)
        for number in range(first, last + 1):
            moment = number * self.every_s
            fault = self._fault_at(moment)
            if fault in ("silent", "rubbish"):
                continue
            read = self.room.read(moment, WARMER_C if fault == "warm" else 0.0)
            fields = {"n": f"{number}", "t": f"{moment:.0f}", "c": f"{read.temperature_c:.2f}"}
            if read.humidity_percent is not None:
                fields["h"] = f"{read.humidity_percent:.1f}"
            yield encode(Message("R", fields))
        yield encode(Message("END", {"n": f"{max(last, first - 1)}"}))

    def _fault_at(self, moment: float) -> LoggerFault:
        return next((fault for since, fault in reversed(self.faults) if since <= moment), "none")

    def _simulate_fault(self, fault: str) -> bytes:
        if fault not in get_args(LoggerFault):
            return refusal("fault", f"expected one of {', '.join(get_args(LoggerFault))}")
        self.fault = fault  # type: ignore[assignment]
        self.faults.append((self.now(), self.fault))
        return encode(Message("OK", {"fault": fault}))
