"""The simulated frame: a crosshead that moves, a load cell that feels, and a memory of its test.

It numbers every sample and keeps the current test, so that whoever lost the line can ask
for what was missed. Time runs `pace` times as fast as at a real frame; the samples carry
the frame's own time. Other devices may answer at its address: a message that names a `device`
is theirs.
"""

from __future__ import annotations

import asyncio
import time
from dataclasses import dataclass, field
from typing import Literal, get_args

from endurant.core.simulate.tear import TearFault, TearSpecimen, specimen_from_label
from endurant.standins.devices import Device, answer_of
from endurant.stations.line import LONGEST_LINE, Message, Rubbish, decode, encode

Fault = Literal["none", "jaw-slip", "unplug", "rubbish"]

RATE_HZ = 50.0
FASTEST_MM_MIN = 1000.0
BEAT_S = 0.04
UNPLUGGED_S = 4.0
CAPACITY_N = 500.0


@dataclass
class SimulatedTest:
    """One test in the memory of the frame."""

    name: str
    specimen: TearSpecimen
    speed_mm_min: float
    end_mm: float
    began: float
    pace: float
    fault: Fault
    samples: list[tuple[float, float, float]] = field(default_factory=list)
    ended: str | None = None
    fault_done: bool = False

    def advance(self, now: float) -> None:
        """Make every sample up to this moment of the wall clock."""
        while self.ended is None and len(self.samples) / RATE_HZ <= (now - self.began) * self.pace:
            number = len(self.samples)
            time_s = number / RATE_HZ
            extension_mm = round(time_s * self.speed_mm_min / 60, 4)
            if extension_mm > self.end_mm + 1e-9:
                self.ended = "end-of-travel"
                return
            force_n = self.specimen.force_n(extension_mm, number)
            self.samples.append((round(time_s, 4), extension_mm, force_n))

    def halfway(self) -> bool:
        """Past the middle of its travel, where planned faults strike."""
        return bool(self.samples) and self.samples[-1][1] > self.end_mm / 2


class SimulatedFrame:
    """The frame itself, whoever is connected."""

    def __init__(self, serial: str, pace: float, faults: dict[str, Fault] | None = None) -> None:
        self.serial = serial
        self.pace = pace
        self.planned_faults = faults or {}
        self.next_fault: Fault = "none"
        self.gauge_mm = 180.0
        self.speed_mm_min = 50.0
        self.extension_mm = 0.0
        self.preload_n = 0.31
        self.zeroed = False
        self.test: SimulatedTest | None = None
        self.dead_until = 0.0
        self.devices: dict[str, Device] = {}
        self._writers: set[asyncio.StreamWriter] = set()

    async def serve(self, host: str, port: int) -> asyncio.Server:
        """Listen; the port 0 takes any free one."""
        return await asyncio.start_server(self._meet, host, port, limit=LONGEST_LINE)

    async def _meet(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        self._writers.add(writer)
        try:
            while time.monotonic() >= self.dead_until and (line := await reader.readline()):
                try:
                    message = decode(line)
                    if "device" in message.fields:
                        writer.writelines(answer_of(self.devices, message))
                    elif message.word == "FOLLOW":
                        await self._follow(message, writer)
                    else:
                        writer.write(encode(self._answer(message)))
                except Rubbish as rubbish:
                    writer.write(encode(_refuse("rubbish", str(rubbish))))
                await writer.drain()
        except (ConnectionError, ValueError):
            return
        finally:
            self._writers.discard(writer)
            writer.close()

    def _answer(self, message: Message) -> Message:
        self._advance()
        if message.word == "PREPARE":
            return self._prepare(message.number("gauge_mm"), message.number("speed_mm_min"))
        if message.word == "ZERO":
            return self._zero()
        if message.word == "RUN":
            return self._run(message)
        if message.word == "STOP":
            return self._stop(message.text("test"))
        if message.word == "PRETEND":
            return self._pretend(message.text("fault"))
        if message.word == "STATUS":
            return self._status()
        return _refuse("unknown-word", f"{message.word[:20]} is no command of this frame")

    def _status(self) -> Message:
        running = self._running()
        force_n = self.preload_n
        extension_mm = self.extension_mm
        if self.test is not None and running and self.test.samples:
            _, extension_mm, force_n = self.test.samples[-1]
        return Message(
            "OK",
            {
                "serial": self.serial,
                "state": "running" if running else "idle",
                "force_n": f"{force_n:.3f}",
                "extension_mm": f"{extension_mm:.3f}",
                "gauge_mm": f"{self.gauge_mm:g}",
                "speed_mm_min": f"{self.speed_mm_min:g}",
                "zeroed": "yes" if self.zeroed else "no",
                "capacity_n": f"{CAPACITY_N:g}",
                "pace": f"{self.pace:g}",
            },
        )

    def _prepare(self, gauge_mm: float, speed_mm_min: float) -> Message:
        if self._running():
            return _refuse("busy", "a test is running")
        if not 10 <= gauge_mm <= 800:
            return _refuse("travel", f"jaws {gauge_mm:g} mm apart lie outside 10 to 800 mm")
        if not 0 < speed_mm_min <= FASTEST_MM_MIN:
            return _refuse("speed", f"{speed_mm_min:g} mm/min lies outside 0 to 1000 mm/min")
        self.gauge_mm, self.speed_mm_min = gauge_mm, speed_mm_min
        self.extension_mm, self.preload_n, self.zeroed = 0.0, 0.31, False
        return self._status()

    def _zero(self) -> Message:
        if self._running():
            return _refuse("busy", "a test is running")
        self.extension_mm, self.preload_n, self.zeroed = 0.0, 0.0, True
        return self._status()

    def _run(self, message: Message) -> Message:
        name = message.text("test")
        if self.test is not None and self.test.name == name:
            return self._status()
        if self._running():
            return _refuse("busy", "another test is running")
        code = message.text("specimen")
        fault = self.next_fault
        if fault == "none":
            fault = self.planned_faults.get(code, "none")
        self.next_fault = "none"
        slip: TearFault = "jaw-slip" if fault == "jaw-slip" else "none"
        self.test = SimulatedTest(
            name=name,
            specimen=specimen_from_label(code, slip),
            speed_mm_min=message.number("speed_mm_min"),
            end_mm=message.number("end_mm"),
            began=time.monotonic(),
            pace=self.pace,
            fault=fault,
        )
        self.zeroed = False
        return self._status()

    def _stop(self, name: str) -> Message:
        if self.test is None or self.test.name != name:
            return _refuse("unknown-test", "this test is not in memory")
        self.test.ended = self.test.ended or "stopped-by-hand"
        return self._status()

    def _pretend(self, fault: str) -> Message:
        if fault not in get_args(Fault):
            return _refuse("fault", f"expected one of {', '.join(get_args(Fault))}")
        self.next_fault = fault  # type: ignore[assignment]
        return self._status()

    async def _follow(self, message: Message, writer: asyncio.StreamWriter) -> None:
        test = self.test
        if test is None or test.name != message.text("test"):
            writer.write(encode(_refuse("unknown-test", "this test is not in memory")))
            return
        sent = int(message.number("from"))
        while True:
            self._advance()
            if test.fault in ("unplug", "rubbish") and not test.fault_done and test.halfway():
                test.fault_done = True
                if test.fault == "unplug":
                    self._unplug()
                    return
                writer.write(b"S n=7 \xff\xfe t=;;; nonsense\n")
            for number in range(sent, len(test.samples)):
                time_s, extension_mm, force_n = test.samples[number]
                fields = {
                    "n": str(number),
                    "t": f"{time_s:g}",
                    "x": f"{extension_mm:.4f}",
                    "f": f"{force_n:.4f}",
                }
                writer.write(encode(Message("S", fields)))
            sent = len(test.samples)
            if test.ended is not None:
                writer.write(encode(Message("END", {"n": str(sent), "reason": test.ended})))
                await writer.drain()
                return
            writer.write(encode(Message("BEAT", {"n": str(sent)})))
            await writer.drain()
            await asyncio.sleep(BEAT_S)

    def _unplug(self) -> None:
        """Drop every line and stay silent for a while; the crosshead goes on."""
        self.dead_until = time.monotonic() + UNPLUGGED_S
        for writer in list(self._writers):
            writer.transport.abort()

    def _advance(self) -> None:
        if self.test is not None and self._running():
            self.test.advance(time.monotonic())
            if self.test.samples:
                self.extension_mm = self.test.samples[-1][1]

    def _running(self) -> bool:
        return self.test is not None and self.test.ended is None


def _refuse(code: str, says: str) -> Message:
    return Message("ERR", {"code": code, "says": says.replace(" ", "_")})


async def serve_forever(frame: SimulatedFrame, host: str, port: int) -> None:
    """Run the stand-in until the process is ended."""
    server = await frame.serve(host, port)
    async with server:
        await server.serve_forever()
