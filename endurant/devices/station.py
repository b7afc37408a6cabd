"""A device at a station that speaks the line protocol over TCP, such as the simulated ones."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from endurant.core.bench.status import Status
from endurant.core.devices import StationKind, device_kind
from endurant.devices.driver import LineLost
from endurant.devices.line import GarbledMessage, Message
from endurant.devices.tcp import TcpDevice


class LineStation(TcpDevice):
    """One device by its address, and by its serial number where several answer there."""

    kind: ClassVar[StationKind]
    """What it can be told to do."""

    def __init__(self, name: str, address: tuple[str, int], device: str | None = None) -> None:
        super().__init__(name, *address)
        self.device = device

    def status(self) -> Status:
        """What it reports of itself."""
        return self._status(self.message("STATUS"))

    def do(self, act: str, **setup: float | str) -> Status:
        """One of the actions of its kind; raises ValueError for another."""
        if act not in device_kind(self.kind).actions:
            raise ValueError(f"{act} is nothing that {self.name} does")
        return self._status(self.message("DO", {"act": act} | plain(setup)))

    def simulate(self, fault: str) -> None:
        """Stand-ins only: how the next specimen shall behave."""
        self.ask(self.message("PRETEND", {"fault": fault}))

    def message(self, word: str, fields: dict[str, str] | None = None) -> Message:
        """A message to this device, named where several answer at its address."""
        named = {} if self.device is None else {"device": self.device}
        return Message(word, named | (fields or {}))

    def _status(self, ask: Message) -> Status:
        answer = self.ask(ask)
        try:
            state = answer.text("state")
            if state not in ("idle", "running", "paused", "fault"):
                raise GarbledMessage(f"{state[:20]} is not a state")
            known: Literal["idle", "running", "paused", "fault"] = state  # type: ignore[assignment]
            facts = {
                name: fact(value)
                for name, value in answer.fields.items()
                if name not in ("serial", "state")
            }
            return Status(answer.text("serial"), known, facts)
        except GarbledMessage as rubbish:
            raise LineLost("device.unreadable", device=self.name, data=rubbish) from rubbish


def plain(setup: Mapping[str, float | str]) -> dict[str, str]:
    """A set-up as the fields of a message."""
    return {
        name: f"{value:.10g}" if isinstance(value, int | float) else str(value)
        for name, value in setup.items()
    }


def fact(text: str) -> float | bool | str:
    """What a field says: yes or no, a number, or a word."""
    if text in ("yes", "no"):
        return text == "yes"
    try:
        return float(text)
    except ValueError:
        return text
