"""The simulated compression rig: bars that come down, and six sensors."""

from __future__ import annotations

from endurant.core.simulate.pallet import Pallet, PalletOrder
from endurant.devices.line import GarbledMessage, Message
from endurant.devices.standin import SimulatedRecorder, Specimen

UP_MM = 140.0
TOUCHES_N = 34.0
BARS_N = 180.0
MAX_SAMPLES = 20_000
SLOWEST_HZ, FASTEST_HZ = 0.2, 50.0


class SimulatedCompressionRig(SimulatedRecorder):
    """The rig itself. A `wrong-sign` pallet is one whose sensor was mounted upside down."""

    kind = "compression-rig"

    def __init__(self, serial: str, pace: float) -> None:
        super().__init__(serial, pace)
        self.gap_mm = UP_MM
        self.force_n = BARS_N
        self.zeroed = False
        self.limit_mm = 0.0
        self.holds_pallet = False

    def facts(self) -> dict[str, str]:
        """Force, how far the bars are from the pallet, and whether it was zeroed."""
        if self.test is not None and self.running() and self.test.samples:
            self.force_n = self.test.samples[-1][1]
        return {
            "force_n": f"{self.force_n:.1f}",
            "gap_mm": f"{self.gap_mm:.1f}",
            "touches": "yes" if self.gap_mm <= 0 and 20 <= self.force_n <= 49 else "no",
            "zeroed": "yes" if self.zeroed else "no",
            "down_is": "plus",
            "limit_mm": f"{self.limit_mm:.10g}",
            "holds_specimen": "yes" if self.holds_pallet else "no",
        }

    def do(self, act: str, message: Message) -> str:
        """Lower the bars, zero the force, touch, zero the displacements."""
        if act == "raise":
            self.gap_mm, self.force_n, self.zeroed = UP_MM, BARS_N, False
        elif act == "unload":
            self.holds_pallet = False
        elif act == "lower" and self.holds_pallet:
            return "the pallet of the last run is still on the supports; remove it"
        elif act == "lower":
            self.gap_mm, self.force_n, self.zeroed = 1.0, BARS_N, False
        elif act == "zero-force":
            self.force_n, self.zeroed = 0.0, False
        elif act == "touch":
            if self.gap_mm > 1.0:
                return "the bars are not down yet"
            self.gap_mm, self.force_n, self.zeroed = 0.0, TOUCHES_N, False
        elif act == "zero":
            if self.gap_mm > 0:
                return "the plate does not touch yet"
            self.zeroed = True
            self.limit_mm = float(message.fields.get("limit_mm", "0"))
        return ""

    def meet(self, message: Message, fault: str) -> tuple[Specimen, int]:
        """A pallet as its code makes it."""
        order = PalletOrder(
            test=_test(message),
            speed_mm_min=message.number("speed_mm_min"),
            limit_mm=message.number("limit_mm"),
            datum_n=message.number("datum_n"),
            full_n=message.number("full_n"),
            holds_s=(
                message.number("datum_s"),
                message.number("full_s"),
                message.number("relaxed_s"),
            ),
            down_is=-1.0 if message.text("down_is") == "minus" else 1.0,
        )
        seconds = order.about_s()
        self.rate_hz = min(max(MAX_SAMPLES / seconds, SLOWEST_HZ), FASTEST_HZ)
        self.zeroed, self.holds_pallet = False, True
        pallet = Pallet(message.text("specimen"), order, self.rate_hz, fault == "wrong-sign")
        return pallet, int(seconds * self.rate_hz)


def _test(message: Message) -> str:
    test = message.text("test_kind")
    if test not in ("stiffness", "strength"):
        raise GarbledMessage(f"{test[:20]} is not a test of this rig")
    return test
