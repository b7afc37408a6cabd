"""What simulated devices share that show readings and record none."""

from __future__ import annotations

import time
from abc import ABC, abstractmethod
from collections.abc import Iterator, Mapping
from random import Random
from typing import ClassVar

from endurant.core.devices import IndicatorKind, device_kind
from endurant.core.simulate.shown import ReadRequest, Shown, luck_of
from endurant.devices.line import Message, encode
from endurant.devices.standin import RUBBISH, no
from endurant.devices.station import fact, plain

JUMPS_BACK_TO = 0.4


class SimulatedIndicator(ABC):
    """One device that shows what a specimen does; the same code always does the same."""

    kind: ClassVar[IndicatorKind]

    def __init__(self, serial: str, pace: float) -> None:
        self.serial = serial
        self.pace = pace
        self.fault = "none"
        self.acts = device_kind(self.kind).actions
        self._began = time.monotonic()

    def now_s(self) -> float:
        """Seconds of the device's own time since it was switched on."""
        return (time.monotonic() - self._began) * self.pace

    @abstractmethod
    def shows(self, luck: Random, request: ReadRequest) -> Shown:
        """What a specimen with this luck shows of what is asked for."""

    def facts(self) -> dict[str, str]:
        """What it reports of itself beside its state."""
        return {}

    def do(self, act: str, message: Message) -> str:
        """Do one of its `acts`; words where it refuses."""
        return f"{act} is nothing that this device does"

    def answer(self, message: Message) -> Iterator[bytes]:
        """`STATUS`, `DO act=`, `READ specimen= method= …`, `PRETEND fault=`."""
        if message.word == "PRETEND":
            yield encode(self._simulate_fault(message.text("fault")))
        elif self.fault == "silent":
            return
        elif self.fault == "rubbish":
            yield RUBBISH
        elif message.word == "STATUS":
            yield encode(self._status())
        elif message.word == "DO":
            refused = self.do(message.text("act"), message)
            yield encode(no("refused", refused) if refused else self._status())
        elif message.word == "READ":
            yield encode(Message("OK", self._read(message)))
        else:
            reason = f"{message.word[:20]} is no command of this device"
            yield encode(no("unknown-word", reason))

    def _read(self, message: Message) -> dict[str, str]:
        request = {name: fact(text) for name, text in message.fields.items() if name != "device"}
        shown = self.shows(luck_of(message.text("specimen")), request)
        count = shown.get("count")
        if self.fault == "jumps-back" and isinstance(count, float):
            shown["count"] = round(JUMPS_BACK_TO * count)
        return _in_fields(shown)

    def _status(self) -> Message:
        own = {"serial": self.serial, "state": "idle", "pace": f"{self.pace:g}"}
        return Message("OK", own | self.facts())

    def _simulate_fault(self, fault: str) -> Message:
        known = device_kind(self.kind).fault_codes()
        if fault not in known:
            return no("fault", f"expected one of {', '.join(known)}")
        self.fault = fault
        return Message("OK", {"fault": fault})


def _in_fields(shown: Mapping[str, float | bool | str]) -> dict[str, str]:
    wording: dict[str, float | str] = {
        name: ("yes" if value else "no") if isinstance(value, bool) else value
        for name, value in shown.items()
        if value != ""
    }
    return plain(wording)
