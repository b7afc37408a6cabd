"""A device that speaks the line protocol over TCP."""

from __future__ import annotations

import socket
from collections.abc import Iterator
from contextlib import contextmanager
from time import monotonic

from endurant.devices.driver import DeviceRefused, LineLost, TestUnknown
from endurant.devices.line import LONGEST_LINE, GarbledMessage, Message, decode, encode

ANSWER_WITHIN_S = 3.0
MAX_SILENCE_S = 3.0
LINE_WITHIN_S = 6.0


class TcpDevice:
    """One device by its address. Each call opens a line of its own: a lost one harms no other."""

    def __init__(self, name: str, host: str, port: int) -> None:
        self.name = name
        self.host = host
        self.port = port

    def ask(self, message: Message) -> Message:
        """The answer to one message; raises LineLost, DeviceRefused."""
        with self.line() as lines:
            lines.send(message)
            answer = next(lines.messages(ANSWER_WITHIN_S))
        if answer.word == "ERR":
            raise self.refusal(answer)
        return answer

    def refusal(self, message: Message) -> Exception:
        """What to raise for an answer that says no."""
        reason = message.fields.get("says", "no").replace("_", " ")
        if message.fields.get("code") == "unknown-test":
            return TestUnknown("device.test-lost", device=self.name)
        return DeviceRefused("device.refused", device=self.name, reason=reason)

    @contextmanager
    def line(self) -> Iterator[Lines]:
        """A line to the device while the block lasts; raises LineLost."""
        try:
            with socket.create_connection((self.host, self.port), ANSWER_WITHIN_S) as connection:
                connection.settimeout(MAX_SILENCE_S)
                yield Lines(connection)
        except OSError as error:
            raise LineLost("device.line-lost", device=self.name) from error
        except GarbledMessage as rubbish:
            raise LineLost("device.unreadable", device=self.name, data=rubbish) from rubbish


class Lines:
    """Messages over one connection."""

    def __init__(self, connection: socket.socket) -> None:
        self._connection = connection
        self._rest = b""

    def send(self, message: Message) -> None:
        """One message to the device."""
        self._connection.sendall(encode(message))

    def messages(self, within_s: float | None = None) -> Iterator[Message]:
        """Until the other side hangs up, which raises ConnectionError.

        Raises GarbledMessage for a line that does not end, and for a device that talks longer than
        `within_s` when that is given.
        """
        talks_until = None if within_s is None else monotonic() + within_s
        while True:
            if talks_until is not None and monotonic() > talks_until:
                raise GarbledMessage("endless messages")
            line_until = monotonic() + LINE_WITHIN_S
            while b"\n" not in self._rest:
                if len(self._rest) > LONGEST_LINE or (self._rest and monotonic() > line_until):
                    raise GarbledMessage("an endless line")
                received = self._connection.recv(65536)
                if not received:
                    raise ConnectionError("the device closed the connection")
                self._rest += received
            line, self._rest = self._rest.split(b"\n", 1)
            yield decode(line)
