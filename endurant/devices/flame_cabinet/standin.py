"""The simulated flame cabinet: it lights only with its fan off, and clears its fumes after."""

from __future__ import annotations

from random import Random

from endurant.core.simulate.shown import ReadRequest, Shown, flame
from endurant.devices.line import Message
from endurant.devices.simulated_indicator import SimulatedIndicator


class SimulatedFlameCabinet(SimulatedIndicator):
    """Fan and flame; the timer reads to a tenth of a second."""

    kind = "flame-cabinet"

    def __init__(self, serial: str, pace: float) -> None:
        super().__init__(serial, pace)
        self.fan_on = True

    def facts(self) -> dict[str, str]:
        """Whether its fan runs."""
        return {"fan_on": "yes" if self.fan_on else "no"}

    def do(self, act: str, message: Message) -> str:
        """Fan off, light, fan on again."""
        if act == "light" and self.fan_on:
            return "the fan is on; a draught feeds the flame"
        if act in ("fan-off", "fan-on"):
            self.fan_on = act == "fan-on"
        return "" if act in self.acts else super().do(act, message)

    def shows(self, luck: Random, request: ReadRequest) -> Shown:
        """What the specimen's code makes of it."""
        return flame(luck, request)
