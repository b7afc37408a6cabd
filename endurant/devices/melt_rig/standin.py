"""The simulated melt flow rig: a barrel that cools a little with every charge."""

from __future__ import annotations

from math import exp, log
from random import Random

from endurant.core.simulate.shown import ReadRequest, Shown, flow
from endurant.devices.line import Message
from endurant.devices.simulated_indicator import SimulatedIndicator

ROOM_C, HOTTEST_C = 23.0, 400.0
WARMS_IN_S = 240.0
HOT_SINCE_S = 3 * 3600.0
"""The barrel was heated in the morning."""
WITHIN_C = 0.5
COLD_BY_C = 4.0
DIP_C, DIPS_IN_S, RETURNS_IN_S = 7.5, 20.0, 70.0
UPPER_IS_OFF_C, LOWER_IS_OFF_C = 0.1, -0.1


class SimulatedMeltRig(SimulatedIndicator):
    """Two sensors in the barrel; cold pellets pull both down, and they come back."""

    kind = "melt-rig"

    def __init__(self, serial: str, pace: float) -> None:
        super().__init__(serial, pace)
        self.set_c = 190.0
        self.from_c = 190.0
        self.heated_at_s = self.now_s() - HOT_SINCE_S
        self.charged_at_s: float | None = None

    def facts(self) -> dict[str, str]:
        """Both temperatures, what they are set to, and since when."""
        barrel_c = self._barrel_c() - (COLD_BY_C if self.fault == "runs-cold" else 0.0)
        return {
            "set_c": f"{self.set_c:g}",
            "upper_c": f"{barrel_c + UPPER_IS_OFF_C:.1f}",
            "lower_c": f"{barrel_c + LOWER_IS_OFF_C:.1f}",
            "settled_min": f"{self._settled_min():.1f}",
        }

    def do(self, act: str, message: Message) -> str:
        """Heat to a temperature; take a charge; lay the load on."""
        if act == "charge":
            self.charged_at_s = self.now_s()
            return ""
        if act == "load":
            return "" if self.charged_at_s is not None else "there is no charge in the barrel"
        if act != "heat":
            return super().do(act, message)
        target_c = message.number("temperature_c")
        if not ROOM_C <= target_c <= HOTTEST_C:
            return f"{target_c:g} C lies outside {ROOM_C:g} to {HOTTEST_C:g} C"
        if target_c != self.set_c:
            self.from_c, self.set_c, self.heated_at_s = self._barrel_c(), target_c, self.now_s()
        return ""

    def _settled_min(self) -> float:
        """For how long the barrel has been within half a degree of its set point."""
        off_c = abs(self.from_c - self.set_c)
        reached_s = WARMS_IN_S * log(off_c / WITHIN_C) if off_c > WITHIN_C else 0.0
        return max(self.now_s() - self.heated_at_s - reached_s, 0.0) / 60

    def _barrel_c(self) -> float:
        now_s = self.now_s()
        left = exp(-(now_s - self.heated_at_s) / WARMS_IN_S)
        barrel_c = self.set_c + (self.from_c - self.set_c) * left
        if self.charged_at_s is None:
            return barrel_c
        since_s = now_s - self.charged_at_s
        return barrel_c - DIP_C * (1 - exp(-since_s / DIPS_IN_S)) * exp(-since_s / RETURNS_IN_S)

    def shows(self, luck: Random, request: ReadRequest) -> Shown:
        """What the specimen's code makes of it."""
        own = {name: float(value) for name, value in self.facts().items()}
        return flow(luck, request) | own
