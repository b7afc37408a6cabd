"""Loggers, calipers, thickness gauges and balances that speak the line protocol over TCP.

Several of them may answer at one address: each message names its device by serial number.
"""

from __future__ import annotations

from datetime import UTC, datetime
from math import isfinite

from endurant.stations.driver import LineLost, LoggedReading
from endurant.stations.line import Message, Rubbish
from endurant.stations.tcp_device import TcpDevice

LOG_WITHIN_S = 60.0
MOST_READINGS = 200_000


class TcpLogger(TcpDevice):
    """One logger by its address and serial number."""

    def __init__(self, name: str, address: tuple[str, int], serial: str) -> None:
        super().__init__(name, *address)
        self.serial = serial

    def readings_after(self, after: datetime) -> list[LoggedReading]:
        """What it read after this moment, oldest first; raises LineLost for rubbish."""
        found: list[LoggedReading] = []
        with self.line() as lines:
            told = {"device": self.serial, "after": f"{after.timestamp():.3f}"}
            lines.send(Message("LOG", told))
            for message in lines.messages(LOG_WITHIN_S):
                if message.word == "ERR":
                    raise self.refusal(message)
                if message.word == "END":
                    return found
                if message.word == "R":
                    found.append(self._reading(message))
                if len(found) > MOST_READINGS:
                    raise Rubbish(f"more than {MOST_READINGS} readings at once")
        raise LineLost(f"{self.name} hung up in the middle of its log")

    def _reading(self, message: Message) -> LoggedReading:
        temperature = message.number("c")
        humidity = message.number("h") if "h" in message.fields else None
        if not isfinite(temperature) or not (humidity is None or 0 <= humidity <= 100):
            raise Rubbish("a reading that cannot be")
        try:
            at = datetime.fromtimestamp(message.number("t"), UTC)
        except (OverflowError, OSError, ValueError) as error:
            raise Rubbish("a moment that cannot be") from error
        return LoggedReading(at, temperature, humidity)

    def pretend(self, fault: str) -> None:
        """Stand-ins only: how the room shall behave from now on."""
        self.ask(Message("PRETEND", {"device": self.serial, "fault": fault}))


class TcpGauge(TcpDevice):
    """One caliper, thickness gauge or balance by its address and serial number."""

    def __init__(self, name: str, address: tuple[str, int], serial: str) -> None:
        super().__init__(name, *address)
        self.serial = serial

    def read(self, near: float | None) -> float:
        """Its reading now, in mm or in g; raises LineLost for rubbish."""
        fields = {"device": self.serial} | ({} if near is None else {"near": f"{near:g}"})
        answer = self.ask(Message("READ", fields))
        try:
            value = answer.number("value")
        except Rubbish as rubbish:
            raise LineLost(f"{self.name} sends what cannot be read: {rubbish}") from rubbish
        if not isfinite(value):
            raise LineLost(f"{self.name} sends what cannot be read: {answer.text('value')[:20]}")
        return value

    def pretend(self, fault: str) -> None:
        """Stand-ins only: how it shall behave."""
        self.ask(Message("PRETEND", {"device": self.serial, "fault": fault}))
