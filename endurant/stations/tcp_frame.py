"""A frame that speaks the line protocol over TCP, such as the simulated one."""

from __future__ import annotations

import socket
from collections.abc import Iterator
from contextlib import contextmanager

import numpy as np

from endurant.stations.driver import (
    Batch,
    DeviceRefused,
    Ended,
    FrameStatus,
    LineLost,
    RunOrder,
    TestUnknown,
)
from endurant.stations.line import LONGEST_LINE, Message, Rubbish, decode, encode

ANSWER_WITHIN_S = 3.0
SILENCE_AT_MOST_S = 3.0
BATCH_AT_MOST = 500


class TcpFrame:
    """One frame by its address. Each call opens a line of its own, so a lost one harms no other."""

    def __init__(self, name: str, host: str, port: int) -> None:
        self.name = name
        self.host = host
        self.port = port

    def status(self) -> FrameStatus:
        """What it reports of itself."""
        return self._status(Message("STATUS"))

    def prepare(self, gauge_length_mm: float, speed_mm_min: float) -> FrameStatus:
        """Bring the jaws to the gauge length and set the speed."""
        return self._status(
            Message(
                "PREPARE",
                {"gauge_mm": f"{gauge_length_mm:g}", "speed_mm_min": f"{speed_mm_min:g}"},
            )
        )

    def zero(self) -> FrameStatus:
        """Zero force and extension."""
        return self._status(Message("ZERO"))

    def begin(self, order: RunOrder) -> None:
        """Start; asking twice for the same test starts once."""
        self._ask(
            Message(
                "RUN",
                {
                    "test": order.device_run,
                    "specimen": order.specimen_code,
                    "speed_mm_min": f"{order.speed_mm_min:g}",
                    "end_mm": f"{order.end_mm:g}",
                },
            )
        )

    def stop(self, device_run: str) -> None:
        """Stop the crosshead; the samples so far stay."""
        self._ask(Message("STOP", {"test": device_run}))

    def pretend(self, fault: str) -> None:
        """Stand-ins only: how the next specimen shall behave."""
        self._ask(Message("PRETEND", {"fault": fault}))

    def follow(self, device_run: str, first: int) -> Iterator[Batch | Ended]:
        """Samples from number `first` on, then live until the end."""
        expected = first
        gathered: list[tuple[float, float, float]] = []
        with self._line() as lines:
            lines.send(Message("FOLLOW", {"test": device_run, "from": str(first)}))
            for message in lines.messages():
                if message.word == "ERR":
                    raise self._refusal(message)
                if message.word == "END":
                    if gathered:
                        yield Batch(expected - len(gathered), np.asarray(gathered))
                    yield Ended(int(message.number("n")), message.text("reason"))
                    return
                if message.word == "S":
                    if int(message.number("n")) != expected:
                        raise LineLost(f"{self.name} left out samples from number {expected} on")
                    expected += 1
                    gathered.append((message.number("t"), message.number("x"), message.number("f")))
                if gathered and (message.word == "BEAT" or len(gathered) >= BATCH_AT_MOST):
                    yield Batch(expected - len(gathered), np.asarray(gathered))
                    gathered = []

    def _status(self, ask: Message) -> FrameStatus:
        answer = self._ask(ask)
        try:
            return FrameStatus(
                serial=answer.text("serial"),
                state=answer.text("state"),
                force_n=answer.number("force_n"),
                extension_mm=answer.number("extension_mm"),
                gauge_length_mm=answer.number("gauge_mm"),
                speed_mm_min=answer.number("speed_mm_min"),
                zeroed=answer.text("zeroed") == "yes",
                capacity_n=answer.number("capacity_n"),
                pace=answer.number("pace"),
            )
        except Rubbish as rubbish:
            raise LineLost(f"{self.name} sends what cannot be read: {rubbish}") from rubbish

    def _ask(self, message: Message) -> Message:
        with self._line() as lines:
            lines.send(message)
            answer = next(lines.messages())
        if answer.word == "ERR":
            raise self._refusal(answer)
        return answer

    def _refusal(self, message: Message) -> Exception:
        says = message.fields.get("says", "no").replace("_", " ")
        if message.fields.get("code") == "unknown-test":
            return TestUnknown(f"{self.name} no longer holds this test")
        return DeviceRefused(f"{self.name} says: {says}")

    @contextmanager
    def _line(self) -> Iterator[_Lines]:
        try:
            with socket.create_connection((self.host, self.port), ANSWER_WITHIN_S) as connection:
                connection.settimeout(SILENCE_AT_MOST_S)
                yield _Lines(connection)
        except OSError as error:
            raise LineLost(f"the line to {self.name} is lost; it does not answer") from error
        except Rubbish as rubbish:
            raise LineLost(f"{self.name} sends what cannot be read: {rubbish}") from rubbish


class _Lines:
    """Messages over one connection."""

    def __init__(self, connection: socket.socket) -> None:
        self._connection = connection
        self._rest = b""

    def send(self, message: Message) -> None:
        self._connection.sendall(encode(message))

    def messages(self) -> Iterator[Message]:
        """Until the other side hangs up, which raises ConnectionError."""
        while True:
            while b"\n" not in self._rest:
                if len(self._rest) > LONGEST_LINE:
                    raise Rubbish("a line without end")
                received = self._connection.recv(65536)
                if not received:
                    raise ConnectionError("the device hung up")
                self._rest += received
            line, self._rest = self._rest.split(b"\n", 1)
            yield decode(line)
