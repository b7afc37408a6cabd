"""The simulated frame: a crosshead that moves, a load cell that feels, jaws that may slip."""

from __future__ import annotations

from collections.abc import Callable

from endurant.core.moves import from_word
from endurant.core.simulate.moved import moved
from endurant.core.simulate.pulls import Pulled, pull_of
from endurant.devices.line import GarbledMessage, Message
from endurant.devices.standin import SimulatedRecorder, Specimen, samples_in

FASTEST_MM_MIN = 1000.0
CAPACITY_N = 500.0
PRELOAD_N = 0.31
GRIPPED_SHARE = 0.001
HELD_FROM_N = 5.0
CLOSEST_MM, FARTHEST_MM = 1.0, 900.0


class SimulatedFrame(SimulatedRecorder):
    """The frame itself.

    Closing the second grip on a stiff specimen squeezes in a force that has to be released by
    moving. While a specimen is held, the jaws do not return.
    """

    kind = "frame"
    while_paused = frozenset({"return", "zero", "unload"})

    def __init__(self, serial: str, pace: float, capacity_n: float = CAPACITY_N) -> None:
        super().__init__(serial, pace)
        self.capacity_n = capacity_n
        self.force_limit_n = capacity_n
        self.gauge_mm = 180.0
        self.speed_mm_min = 50.0
        self.extension_mm = 0.0
        self.offset_n = PRELOAD_N
        self.gripped_n = 0.0
        self.pretension_n = 0.0
        self.held_n = 0.0
        self.holds = False
        self.force_zeroed = False
        self.travel_zeroed = False

    def facts(self) -> dict[str, str]:
        """Force, travel, jaws, speed, limit, and what was zeroed."""
        if self.test is not None and self.state() == "running" and self.test.samples:
            _, self.extension_mm, self.held_n, *_ = self.test.samples[-1]
            self.holds = True
        force_n = self.offset_n + self.gripped_n + self.pretension_n + self.held_n
        zeroed = self.force_zeroed and self.travel_zeroed
        return {
            "force_n": f"{force_n:.3f}",
            "extension_mm": f"{self.extension_mm:.3f}",
            "gauge_mm": f"{self.gauge_mm:g}",
            "speed_mm_min": f"{self.speed_mm_min:g}",
            "force_limit_n": f"{self.force_limit_n:.10g}",
            "zeroed": _yes(zeroed),
            "force_zeroed": _yes(self.force_zeroed),
            "travel_zeroed": _yes(self.travel_zeroed),
            "capacity_n": f"{self.capacity_n:g}",
            "holds_specimen": _yes(self.holds),
        }

    def do(self, act: str, message: Message) -> str:
        """Prepare, zero, release, unload; return to the distance that was set."""
        if act == "prepare":
            return self._prepare(message)
        acts: dict[str, Callable[[Message], str]] = {
            "zero-force": self._zero_force,
            "zero-travel": self._zero_travel,
            "zero": self._zero,
            "grip": self._grip,
            "ungrip": self._release,
            "release": self._release,
            "pretension": self._pretension,
            "unload": self._unload,
            "return": self._return,
        }
        return acts[act](message) if act in acts else f"{act} is no act of this frame"

    def _zero_force(self, _: Message) -> str:
        if self.gripped_n:
            return "both grips are closed; release the force by moving"
        self.offset_n, self.held_n, self.force_zeroed = 0.0, 0.0, True
        return ""

    def _zero_travel(self, _: Message) -> str:
        self.extension_mm, self.travel_zeroed = 0.0, True
        return ""

    def _zero(self, message: Message) -> str:
        return self._zero_force(message) or self._zero_travel(message)

    def _grip(self, _: Message) -> str:
        self.gripped_n = GRIPPED_SHARE * self.capacity_n
        return ""

    def _release(self, _: Message) -> str:
        self.gripped_n = 0.0
        return ""

    def _pretension(self, message: Message) -> str:
        self.pretension_n = message.number("pretension_n")
        return ""

    def _unload(self, _: Message) -> str:
        self.held_n = self.gripped_n = self.pretension_n = 0.0
        self.holds = False
        return ""

    def _return(self, _: Message) -> str:
        if self.held_n > HELD_FROM_N:
            return f"{self.held_n:.1f} N are still on the cell; remove the specimen"
        self.extension_mm, self.travel_zeroed = 0.0, False
        return ""

    def _prepare(self, message: Message) -> str:
        named = "gauge_mm" in message.fields
        gauge_mm = message.number("gauge_mm") if named else self.gauge_mm
        speed_mm_min = message.number("speed_mm_min")
        limit_n = float(message.fields.get("force_limit_n", self.capacity_n))
        if self.holds:
            return "the specimen of the last run is still held; remove it"
        if not CLOSEST_MM <= gauge_mm <= FARTHEST_MM:
            return f"jaws {gauge_mm:g} mm apart lie outside {CLOSEST_MM:g} to {FARTHEST_MM:g} mm"
        if not 0 < speed_mm_min <= FASTEST_MM_MIN:
            return f"{speed_mm_min:g} mm/min lies outside 0 to {FASTEST_MM_MIN:g} mm/min"
        if not 0 < limit_n <= self.capacity_n:
            return f"a limit of {limit_n:g} N lies outside 0 to {self.capacity_n:g} N"
        self.gauge_mm, self.speed_mm_min, self.force_limit_n = gauge_mm, speed_mm_min, limit_n
        self.extension_mm, self.offset_n = 0.0, PRELOAD_N
        self.gripped_n = self.pretension_n = self.held_n = 0.0
        self.force_zeroed = self.travel_zeroed = False
        return ""

    def meet(self, message: Message, fault: str) -> tuple[Specimen, int]:
        """A specimen as its code makes it."""
        self.force_zeroed = self.travel_zeroed = False
        self.holds = True
        if "moves" in message.fields:
            return self._meet_moves(message, fault)
        pulled: Pulled = pull_of(
            method=message.text("method"),
            code=message.text("specimen"),
            speed_mm_min=message.number("speed_mm_min"),
            end_mm=message.number("end_mm"),
            until_break=message.fields.get("until") == "break",
            rate_hz=self.rate_hz,
            slips=fault == "jaw-slip",
            off_strain=float(message.fields.get("off_strain", "0")),
            strain_over_mm=float(message.fields.get("strain_over_mm", "0")),
            off_fall=float(message.fields.get("off_fall", "0")),
            from_n=self.pretension_n,
            strain_slips=fault == "extensometer-slip",
            force_limit_n=float(message.fields.get("force_limit_n", self.capacity_n)),
        )
        seconds = message.number("end_mm") / message.number("speed_mm_min") * 60
        return pulled, pulled.about or samples_in(seconds, self.rate_hz)

    def _meet_moves(self, message: Message, fault: str) -> tuple[Specimen, int]:
        try:
            moves = from_word(message.text("moves"))
        except ValueError as error:
            raise GarbledMessage(f"unreadable movements: {error}") from error
        path = moved(
            message.text("method"),
            message.text("specimen"),
            moves,
            gauge_mm=self.gauge_mm,
            end_mm=message.number("end_mm"),
            rate_hz=self.rate_hz,
            slips=fault == "jaw-slip",
            force_limit_n=float(message.fields.get("force_limit_n", self.capacity_n)),
            strain_over_mm=float(message.fields.get("strain_over_mm", "0")),
            off_strain=float(message.fields.get("off_strain", "0")),
        )
        return path, path.about


def _yes(is_so: bool) -> str:
    return "yes" if is_so else "no"
