"""Everything simulated at one address: recorders, gauges and loggers.

A message that names a `device` is for that one; others are for the first recorder, the frame.
"""

from __future__ import annotations

import asyncio
import time
from collections.abc import Mapping

from endurant.devices.line import LONGEST_LINE, GarbledMessage, Message, decode, encode
from endurant.devices.standin import Device, SimulatedRecorder, no, refusal

BEAT_S = 0.04
UNPLUGGED_S = 4.0


class Host:
    """The devices of a laboratory, whoever is connected."""

    def __init__(
        self,
        frame: SimulatedRecorder,
        recorders: Mapping[str, SimulatedRecorder] | None = None,
        devices: Mapping[str, Device] | None = None,
    ) -> None:
        self.frame = frame
        self.recorders = dict(recorders or {}) | {frame.serial: frame}
        self.devices = dict(devices or {})
        self.dead_until = 0.0
        self._writers: set[asyncio.StreamWriter] = set()

    async def serve(self, host: str, port: int) -> asyncio.Server:
        """Listen; the port 0 takes any free one."""
        return await asyncio.start_server(self._meet, host, port, limit=LONGEST_LINE)

    async def _meet(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        self._writers.add(writer)
        try:
            while time.monotonic() >= self.dead_until and (line := await reader.readline()):
                try:
                    await self._answer(decode(line), writer)
                except GarbledMessage as rubbish:
                    writer.write(refusal("rubbish", str(rubbish)))
                await writer.drain()
        except (ConnectionError, ValueError):
            return
        finally:
            self._writers.discard(writer)
            writer.close()

    async def _answer(self, message: Message, writer: asyncio.StreamWriter) -> None:
        named = message.fields.get("device")
        device = None if named is None else self.devices.get(named)
        if device is not None:
            writer.writelines(list(device.answer(message)))
            return
        recorder = self.frame if named is None else self.recorders.get(named)
        if recorder is None:
            writer.write(refusal("unknown-device", f"no device {str(named)[:20]} here"))
        elif message.word == "FOLLOW":
            await self._follow(recorder, message, writer)
        else:
            writer.write(encode(recorder.answer(message)))

    async def _follow(
        self, recorder: SimulatedRecorder, message: Message, writer: asyncio.StreamWriter
    ) -> None:
        test = recorder.test
        if test is None or test.name != message.text("test"):
            writer.write(encode(no("unknown-test", "this test is not in memory")))
            return
        sent = int(message.number("from"))
        events_sent = sum(1 for number, _ in test.events if number < sent)
        writer.write(encode(Message("OK", {"channels": ",".join(test.specimen.channels)})))
        while True:
            recorder.advance()
            if test.fault != "none" and not test.fault_done and test.halfway():
                test.fault_done = True
                if test.fault == "unplug":
                    self.dead_until = time.monotonic() + UNPLUGGED_S
                    self.drop_lines()
                    return
                writer.write(b"S n=7 \xff\xfe v=;;; nonsense\n")
            lines, sent, events_sent = recorder.lines_from(test, sent, events_sent)
            writer.writelines(lines)
            if test.ended is not None and sent == len(test.samples):
                writer.write(encode(Message("END", {"n": str(sent), "reason": test.ended})))
                await writer.drain()
                return
            writer.write(encode(Message("BEAT", {"n": str(sent)})))
            await writer.drain()
            await asyncio.sleep(BEAT_S)

    def drop_lines(self) -> None:
        """Drop every line; the devices go on."""
        for writer in list(self._writers):
            writer.transport.abort()


async def serve_forever(host: Host, address: str, port: int) -> None:
    """Run the stand-ins until the process is ended."""
    server = await host.serve(address, port)
    async with server:
        await server.serve_forever()
