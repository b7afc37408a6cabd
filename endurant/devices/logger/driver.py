"""Loggers that speak the line protocol over TCP, told apart by serial number."""

from __future__ import annotations

from datetime import UTC, datetime
from math import isfinite

from endurant.devices.driver import LineLost, LoggedReading
from endurant.devices.line import GarbledMessage, Message
from endurant.devices.tcp import TcpDevice

LOG_WITHIN_S = 60.0
MAX_READINGS = 200_000


class TcpLogger(TcpDevice):
    """One logger by its address and serial number."""

    def __init__(self, name: str, address: tuple[str, int], serial: str) -> None:
        super().__init__(name, *address)
        self.serial = serial

    def readings_after(self, after: datetime) -> list[LoggedReading]:
        """What it read after this moment, oldest first; raises LineLost for rubbish."""
        logged_readings: list[LoggedReading] = []
        with self.line() as lines:
            facts = {"device": self.serial, "after": f"{after.timestamp():.3f}"}
            lines.send(Message("LOG", facts))
            for message in lines.messages(LOG_WITHIN_S):
                if message.word == "ERR":
                    raise self.refusal(message)
                if message.word == "END":
                    return logged_readings
                if message.word == "R":
                    logged_readings.append(self._reading(message))
                if len(logged_readings) > MAX_READINGS:
                    raise GarbledMessage(f"more than {MAX_READINGS} readings at once")
        raise LineLost("device.log-cut-off", device=self.name)

    def _reading(self, message: Message) -> LoggedReading:
        temperature = message.number("c")
        humidity = message.number("h") if "h" in message.fields else None
        if not isfinite(temperature) or not (humidity is None or 0 <= humidity <= 100):
            raise GarbledMessage("an impossible reading")
        try:
            at = datetime.fromtimestamp(message.number("t"), UTC)
        except (OverflowError, OSError, ValueError) as error:
            raise GarbledMessage("an impossible time") from error
        return LoggedReading(at, temperature, humidity)

    def simulate(self, fault: str) -> None:
        """Stand-ins only: how the room shall behave from now on."""
        self.ask(Message("PRETEND", {"device": self.serial, "fault": fault}))
