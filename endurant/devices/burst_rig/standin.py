"""The simulated bursting rig: a pump, a ring, a height sensor and a drain."""

from __future__ import annotations

from endurant.core.simulate.bursts import USUAL_RATE_ML_MIN, burst_of
from endurant.devices.line import Message
from endurant.devices.standin import SimulatedRecorder, Specimen

HANGING_MM = 112.0
CLAMP_BAR = 5.5
LEFT_OVER_KPA = 12.0
BARE_DIAPHRAGM = ((0.0, 0.0), (10.0, 6.4), (20.0, 14.8), (30.0, 25.1), (40.0, 38.2), (60.0, 74.0))
"""Height (mm) and pressure (kPa) of the diaphragm with nothing over it."""


class SimulatedBurstRig(SimulatedRecorder):
    """The rig itself. It refuses to open its clamp while there is pressure under it."""

    kind = "burst-rig"

    def __init__(self, serial: str, pace: float) -> None:
        super().__init__(serial, pace)
        self.drain_open = True
        self.clamped = False
        self.height_mm = HANGING_MM
        self.pressure_kpa = 0.4
        self.zeroed = False
        self.diaphragm = ""

    def facts(self) -> dict[str, str]:
        """Pressure, height, drain and clamp."""
        if self.test is not None and self.test.samples:
            if self.running():
                _, self.pressure_kpa, self.height_mm = self.test.samples[-1]
            elif not self.drain_open:
                self.pressure_kpa = LEFT_OVER_KPA
        return {
            "pressure_kpa": f"{self.pressure_kpa:.2f}",
            "height_mm": f"{self.height_mm:.2f}",
            "drain_open": "yes" if self.drain_open else "no",
            "clamped": "yes" if self.clamped else "no",
            "clamp_bar": f"{CLAMP_BAR if self.clamped else 0:g}",
            "zeroed": "yes" if self.zeroed else "no",
        } | ({"diaphragm": self.diaphragm} if self.diaphragm else {})

    def do(self, act: str, message: Message) -> str:
        """Shut the drain, clamp, zero; afterwards drain, then open."""
        if act == "shut-drain":
            self.drain_open = False
        elif act == "clamp":
            self.clamped, self.height_mm, self.zeroed = True, HANGING_MM, False
        elif act == "zero":
            if not self.clamped:
                return "nothing is clamped under the sensor"
            self.height_mm, self.pressure_kpa, self.zeroed = 0.0, 0.0, True
        elif act == "bare":
            if self.clamped:
                return "the clamp is closed; the bare diaphragm is run with nothing in it"
            self.diaphragm = ",".join(f"{h:g}:{p:g}" for h, p in BARE_DIAPHRAGM)
        elif act == "drain":
            self.drain_open, self.pressure_kpa = True, 0.0
        elif act == "unclamp":
            if not self.drain_open:
                return "there is pressure under the clamp; drain first"
            self.clamped, self.zeroed, self.height_mm = False, False, HANGING_MM
        return ""

    def meet(self, message: Message, fault: str) -> tuple[Specimen, int]:
        """A place of the material as its code makes it."""
        self.zeroed = False
        bursting = burst_of(
            message.text("specimen"),
            self.rate_hz,
            message.number("longest_s"),
            too_slow=fault == "slow-pump",
            rate_ml_min=float(message.fields.get("pump_rate_ml_min", USUAL_RATE_ML_MIN)),
        )
        return bursting, bursting.about
