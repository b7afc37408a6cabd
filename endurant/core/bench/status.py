"""What a device says of itself, and which items of a ready check that ticks."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

GAUGE_TOLERANCE_MM = 1.0
SEATED_BELOW_MM = 100.0


@dataclass(frozen=True)
class Status:
    """What a device reports of itself at this moment; `facts` by name, each with its unit."""

    serial: str
    state: Literal["idle", "running", "paused", "fault"]
    facts: Mapping[str, float | bool | str] = field(default_factory=dict)

    def number(self, name: str, otherwise: float = 0.0) -> float:
        """A fact that is a number."""
        value = self.facts.get(name, otherwise)
        return float(value) if isinstance(value, int | float) else otherwise

    def holds(self, name: str) -> bool:
        """True when the device says that this is so."""
        return self.facts.get(name) is True


@dataclass(frozen=True)
class Tick:
    """An item that the device ticks, or does not, and what it says."""

    ticked: bool
    says: str


Parameters = Mapping[str, Any]


def _gauge_length(status: Status, parameters: Parameters) -> Tick:
    apart_mm = status.number("gauge_mm") + status.number("extension_mm")
    aim_mm = float(parameters.get("gauge_mm") or status.number("gauge_mm"))
    off_mm = abs(status.number("gauge_mm") - aim_mm)
    moved = abs(status.number("extension_mm")) > GAUGE_TOLERANCE_MM
    return Tick(off_mm <= GAUGE_TOLERANCE_MM and not moved, f"jaws {apart_mm:.1f} mm apart")


def _speed(status: Status, parameters: Parameters) -> Tick:
    set_mm_min = status.number("speed_mm_min")
    same = abs(set_mm_min - float(parameters["speed_mm_min"])) < 1e-6
    return Tick(same, f"{set_mm_min:g} mm/min")


def _zeroed(status: Status, _: Parameters) -> Tick:
    return Tick(status.holds("zeroed"), f"{status.number('force_n'):.2f} N")


def _drain_shut(status: Status, _: Parameters) -> Tick:
    is_open = status.holds("drain_open")
    return Tick(not is_open, "the drain is open" if is_open else "the drain is shut")


def _clamped(status: Status, _: Parameters) -> Tick:
    bar = status.number("clamp_bar")
    return Tick(status.holds("clamped"), f"clamped at {bar:.1f} bar")


def _seated(status: Status, parameters: Parameters) -> Tick:
    height_mm, limit = status.number("height_mm"), parameters.get("seat_limit_mm", SEATED_BELOW_MM)
    level = status.holds("zeroed") and 0 <= height_mm < float(limit)
    return Tick(level, f"height {height_mm:.1f} mm, {status.number('pressure_kpa'):.1f} kPa")


def _touches(status: Status, _: Parameters) -> Tick:
    return Tick(status.holds("touches"), f"{status.number('force_n'):.0f} N")


def _sign(status: Status, parameters: Parameters) -> Tick:
    counts = str(status.facts.get("down_is", ""))
    return Tick(counts == parameters.get("down_is"), f"the rig counts downwards as {counts or '?'}")


READS: Mapping[str, Callable[[Status, Parameters], Tick]] = {
    "gauge-length": _gauge_length,
    "speed": _speed,
    "zeroed": _zeroed,
    "drain-shut": _drain_shut,
    "clamped": _clamped,
    "seated": _seated,
    "touches": _touches,
    "sign": _sign,
}
"""What ticks an item, by the state of the instrument that it names."""


def tick(reads: str, status: Status | None, parameters: Parameters) -> Tick:
    """One item; a device that does not answer ticks nothing."""
    if status is None:
        return Tick(False, "the station does not answer")
    return READS[reads](status, parameters)


def separation_mm(parameters: Parameters) -> float:
    """The distance between the jaws at the start: the grip separation where it is set apart."""
    return float(parameters.get("grip_separation_mm") or parameters.get("gauge_length_mm") or 0.0)
