"""The simulated frame: a crosshead that moves, a load cell that feels, jaws that may slip."""

from __future__ import annotations

from endurant.core.moves import from_word
from endurant.core.simulate.moved import moved
from endurant.core.simulate.pulls import Pulled, pull_of
from endurant.devices.line import Message, Rubbish
from endurant.devices.standin import SimulatedRecorder, Specimen, samples_in

FASTEST_MM_MIN = 1000.0
CAPACITY_N = 500.0
PRELOAD_N = 0.31
GRIPPED_N = 41.0
CLOSEST_MM, FARTHEST_MM = 1.0, 900.0


class SimulatedFrame(SimulatedRecorder):
    """The frame itself. Gripping a stiff specimen leaves a force that has to be released."""

    faults = ("none", "jaw-slip", "unplug", "rubbish")
    while_paused = frozenset({"return", "zero"})

    def __init__(self, serial: str, pace: float, capacity_n: float = CAPACITY_N) -> None:
        super().__init__(serial, pace)
        self.capacity_n = capacity_n
        self.gauge_mm = 180.0
        self.speed_mm_min = 50.0
        self.extension_mm = 0.0
        self.preload_n = PRELOAD_N
        self.zeroed = False

    def facts(self) -> dict[str, str]:
        """Force, travel, jaws, speed, and whether it was zeroed."""
        force_n = self.preload_n
        if self.test is not None and self.running() and self.test.samples:
            _, self.extension_mm, force_n, *_ = self.test.samples[-1]
        return {
            "force_n": f"{force_n:.3f}",
            "extension_mm": f"{self.extension_mm:.3f}",
            "gauge_mm": f"{self.gauge_mm:g}",
            "speed_mm_min": f"{self.speed_mm_min:g}",
            "zeroed": "yes" if self.zeroed else "no",
            "capacity_n": f"{self.capacity_n:g}",
        }

    def do(self, act: str, message: Message) -> str:
        """Prepare, zero, release; return to the distance that was set."""
        if act == "prepare":
            named = "gauge_mm" in message.fields
            gauge_mm = message.number("gauge_mm") if named else self.gauge_mm
            return self._prepare(gauge_mm, message.number("speed_mm_min"))
        if act == "release":
            self.preload_n, self.zeroed = 0.0, False
            return ""
        if act == "return":
            self.extension_mm, self.zeroed = 0.0, False
            return ""
        self.extension_mm, self.preload_n, self.zeroed = 0.0, 0.0, True
        return ""

    def _prepare(self, gauge_mm: float, speed_mm_min: float) -> str:
        if not CLOSEST_MM <= gauge_mm <= FARTHEST_MM:
            return f"jaws {gauge_mm:g} mm apart lie outside {CLOSEST_MM:g} to {FARTHEST_MM:g} mm"
        if not 0 < speed_mm_min <= FASTEST_MM_MIN:
            return f"{speed_mm_min:g} mm/min lies outside 0 to {FASTEST_MM_MIN:g} mm/min"
        self.gauge_mm, self.speed_mm_min = gauge_mm, speed_mm_min
        self.extension_mm, self.preload_n, self.zeroed = 0.0, PRELOAD_N, False
        return ""

    def meet(self, message: Message, fault: str) -> tuple[Specimen, int]:
        """A specimen as its code makes it."""
        self.zeroed = False
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
            force_limit_n=float(message.fields.get("force_limit_n", self.capacity_n)),
        )
        seconds = message.number("end_mm") / message.number("speed_mm_min") * 60
        return pulled, pulled.about or samples_in(seconds, self.rate_hz)

    def _meet_moves(self, message: Message, fault: str) -> tuple[Specimen, int]:
        try:
            moves = from_word(message.text("moves"))
        except ValueError as error:
            raise Rubbish(f"moves that cannot be read: {error}") from error
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
