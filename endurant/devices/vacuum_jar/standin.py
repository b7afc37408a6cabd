"""The simulated vacuum jar: its lid stays shut while there is vacuum under it."""

from __future__ import annotations

from random import Random

from endurant.core.simulate.shown import ReadRequest, Shown, pack
from endurant.devices.line import Message
from endurant.devices.simulated_indicator import SimulatedIndicator

MAX_KPA = 90.0


class SimulatedVacuumJar(SimulatedIndicator):
    """A vacuum that stands until air is let in."""

    kind = "vacuum-jar"

    def __init__(self, serial: str, pace: float) -> None:
        super().__init__(serial, pace)
        self.vacuum_kpa = 0.0

    def facts(self) -> dict[str, str]:
        """The vacuum."""
        return {"vacuum_kpa": f"{self.vacuum_kpa:.1f}"}

    def do(self, act: str, message: Message) -> str:
        """Draw the vacuum that is asked for; let air in."""
        if act == "air":
            self.vacuum_kpa = 0.0
            return ""
        if act != "evacuate":
            return super().do(act, message)
        target_kpa = message.number("vacuum_kpa")
        if not 0 < target_kpa <= MAX_KPA:
            return f"{target_kpa:g} kPa of vacuum lies outside 0 to {MAX_KPA:g} kPa"
        self.vacuum_kpa = target_kpa
        return ""

    def shows(self, luck: Random, request: ReadRequest) -> Shown:
        """What the specimen's code makes of it."""
        return pack(luck, request)
