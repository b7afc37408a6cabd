"""What simulated devices share: how they answer, and how one that records keeps its test.

A recorder numbers every sample and keeps the current test, so that whoever lost the line can
ask for what was missed. Time runs `pace` times as fast as at a real device; the samples carry
the device's own time.
"""

from __future__ import annotations

import time
from abc import ABC, abstractmethod
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from math import ceil
from typing import ClassVar, Literal, Protocol

from endurant.core.devices import RecorderKind, device_kind
from endurant.devices.line import Message, encode

RUBBISH = b"R t=;;; \xff\xfe nonsense *0000\n"
MAX_CELLS_IN_A_LINE = 180

LineFault = Literal["none", "unplug", "rubbish"]
"""What may happen to the line in the middle of a test; other faults are those of a specimen."""


class Device(Protocol):
    """What a stand-in answers to a message that names it, as lines ready to be sent."""

    def answer(self, message: Message) -> Iterator[bytes]:
        """The lines of the answer; none is silence."""


def refusal(code: str, reason: str) -> bytes:
    """The line that says no."""
    return encode(Message("ERR", {"code": code, "says": reason.replace(" ", "_")}))


class Specimen(Protocol):
    """How one specimen behaves under one device."""

    channels: tuple[str, ...]

    def row(self, number: int) -> tuple[float, ...] | str | None:
        """A sample by its number; `pause` where the device pauses, None at the end."""

    def go_on(self) -> None:
        """The device was told to go on after its pause."""

    def ended(self) -> str:
        """Why it ended."""


@dataclass
class SimulatedTest:
    """One test in the memory of a recorder."""

    name: str
    specimen: Specimen
    rate_hz: float
    began: float
    pace: float
    fault: LineFault = "none"
    samples: list[tuple[float, ...]] = field(default_factory=list)
    events: list[tuple[int, str]] = field(default_factory=list)
    paused_at: float | None = None
    ended: str | None = None
    fault_done: bool = False
    about: int = 1000

    def advance(self, now: float) -> None:
        """Make every sample up to this moment of the wall clock."""
        while self.ended is None and self.paused_at is None:
            number = len(self.samples)
            if number / self.rate_hz > (now - self.began) * self.pace:
                return
            row = self.specimen.row(number)
            if row is None:
                self.ended = self.specimen.ended()
            elif isinstance(row, str):
                self.paused_at = now
                self.events.append((number, "paused"))
            else:
                self.samples.append(row)

    def go_on(self, now: float) -> None:
        """After a pause; the time of the samples goes on where it stood."""
        if self.paused_at is not None:
            self.began += now - self.paused_at
            self.paused_at = None
            self.specimen.go_on()

    def halfway(self) -> bool:
        """Past the middle of what is expected, where planned faults strike."""
        return len(self.samples) > self.about / 2


class SimulatedRecorder(ABC):
    """A device that records, whoever is connected."""

    rate_hz = 50.0
    while_paused: frozenset[str] = frozenset()
    """What it does while a test of it pauses."""
    kind: ClassVar[RecorderKind]

    def __init__(self, serial: str, pace: float) -> None:
        self.serial = serial
        self.pace = pace
        self.next_fault = "none"
        self.planned_faults: dict[str, str] = {}
        self.test: SimulatedTest | None = None

    @abstractmethod
    def facts(self) -> dict[str, str]:
        """What it reports of itself beside its state."""

    @abstractmethod
    def do(self, act: str, message: Message) -> str:
        """Do what it is told; words where it refuses."""

    @abstractmethod
    def meet(self, message: Message, fault: str) -> tuple[Specimen, int]:
        """The specimen of an order, and about how many samples it will give."""

    def answer(self, message: Message) -> Message:
        """The answer to anything but FOLLOW."""
        self.advance()
        if message.word == "STATUS":
            return self.status()
        if message.word == "RUN":
            return self._run(message)
        if message.word == "STOP":
            return self._stop(message.text("test"))
        if message.word == "PRETEND":
            return self._simulate_fault(message.text("fault"))
        if message.word == "DO":
            return self._do(message.text("act"), message)
        return no("unknown-word", f"{message.word[:20]} is no command of this device")

    def status(self) -> Message:
        """What it reports of itself."""
        return Message(
            "OK",
            {"serial": self.serial, "state": self.state(), "pace": f"{self.pace:g}"} | self.facts(),
        )

    def state(self) -> str:
        """Running while a test is on."""
        if not self.running() or self.test is None:
            return "idle"
        return "running" if self.test.paused_at is None else "paused"

    def running(self) -> bool:
        """True while a test is on, paused or not."""
        return self.test is not None and self.test.ended is None

    def advance(self) -> None:
        """Let time pass."""
        if self.test is not None and self.running():
            self.test.advance(time.monotonic())

    def lines_from(
        self, test: SimulatedTest, sent: int, events_sent: int
    ) -> tuple[list[bytes], int, int]:
        """The lines for samples and events that were not sent yet, with how many are now."""
        lines: list[bytes] = []
        while sent < len(test.samples) or events_sent < len(test.events):
            upto = len(test.samples)
            if events_sent < len(test.events):
                upto = min(upto, max(test.events[events_sent][0], sent))
            in_a_line = max(MAX_CELLS_IN_A_LINE // len(test.specimen.channels), 1)
            for first in range(sent, upto, in_a_line):
                rows = test.samples[first : min(first + in_a_line, upto)]
                cells = ";".join(",".join(f"{cell:.10g}" for cell in row) for row in rows)
                lines.append(encode(Message("S", {"n": str(first), "v": cells})))
            sent = upto
            if events_sent < len(test.events) and test.events[events_sent][0] <= sent:
                lines.append(encode(Message("EVENT", {"kind": test.events[events_sent][1]})))
                events_sent += 1
        return lines, sent, events_sent

    def _do(self, act: str, message: Message) -> Message:
        if act == "go-on" and self.test is not None:
            self.test.go_on(time.monotonic())
            return self.status()
        if self.running() and not (self.state() == "paused" and act in self.while_paused):
            return no("busy", "a test is running")
        refused = self.do(act, message)
        return no("refused", refused) if refused else self.status()

    def _run(self, message: Message) -> Message:
        name = message.text("test")
        if self.test is None or self.test.name != name:
            if self.running():
                return no("busy", "another test is running")
            code = message.text("specimen")
            fault = self.next_fault
            if fault == "none":
                fault = self.planned_faults.get(code, "none")
            self.next_fault = "none"
            specimen, about = self.meet(message, fault)
            self.test = SimulatedTest(
                name=name,
                specimen=specimen,
                rate_hz=self.rate_hz,
                began=time.monotonic(),
                pace=self.pace,
                fault=_of_line(fault),
                about=about,
            )
        return Message("OK", {"channels": ",".join(self.test.specimen.channels)})

    def _stop(self, name: str) -> Message:
        if self.test is None or self.test.name != name:
            return no("unknown-test", "this test is not in memory")
        self.test.ended = self.test.ended or "stopped-by-hand"
        return self.status()

    def _simulate_fault(self, fault: str) -> Message:
        known = device_kind(self.kind).fault_codes()
        if fault not in known:
            return no("fault", f"expected one of {', '.join(known)}")
        self.next_fault = fault
        return self.status()


def _of_line(fault: str) -> LineFault:
    if fault == "unplug":
        return "unplug"
    return "rubbish" if fault == "rubbish" else "none"


def no(code: str, reason: str) -> Message:
    """The answer that says no."""
    return Message("ERR", {"code": code, "says": reason.replace(" ", "_")})


def samples_in(seconds: float, rate_hz: float) -> int:
    """How many samples a stretch of time holds."""
    return ceil(seconds * rate_hz)


Recorders = Mapping[str, SimulatedRecorder]
