"""Calipers, thickness gauges and balances that speak the line protocol over TCP.

Several of them may answer at one address: each message names its device by serial number.
"""

from __future__ import annotations

from math import isfinite

from endurant.devices.driver import LineLost
from endurant.devices.line import GarbledMessage, Message
from endurant.devices.tcp import TcpDevice


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
        except GarbledMessage as rubbish:
            raise LineLost("device.unreadable", device=self.name, data=rubbish) from rubbish
        if not isfinite(value):
            raise LineLost("device.unreadable", device=self.name, data=answer.text("value"))
        return value

    def simulate(self, fault: str) -> None:
        """Stand-ins only: how it shall behave."""
        self.ask(Message("PRETEND", {"device": self.serial, "fault": fault}))
