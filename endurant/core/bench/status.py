"""What a device says of itself, and which items of a ready check that ticks."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from endurant.core.messages import worded

GAUGE_TOLERANCE_MM = 1.0
SEATED_BELOW_MM = 100.0
RELEASED_SHARE, RELEASED_MIN_N = 0.0005, 0.2
"""Force that may be left after the grips were closed: a share of the cell, and at least so much."""
PRETENSION_SHARE = 0.1
HEATED_WITHIN_C = 0.5
STABILISE_MIN = 20.0


@dataclass(frozen=True)
class Status:
    """What a device reports of itself at this moment; `facts` by name, each with its unit."""

    serial: str
    state: Literal["idle", "running", "paused", "fault"]
    facts: Mapping[str, float | bool | str] = field(default_factory=dict)

    def number(self, name: str, otherwise: float = 0.0) -> float:
        """Return a fact that is a number."""
        value = self.facts.get(name, otherwise)
        return float(value) if isinstance(value, int | float) else otherwise

    def holds(self, name: str) -> bool:
        """True when the device says that this is so."""
        return self.facts.get(name) is True


@dataclass(frozen=True)
class Tick:
    """An item that the device ticks, or does not, and what it says."""

    ticked: bool
    text: str


Parameters = Mapping[str, Any]


def _gauge_length(status: Status, parameters: Parameters) -> Tick:
    apart_mm = status.number("gauge_mm") + status.number("extension_mm")
    aim_mm = parameters.get("gauge_mm")
    text = worded("device-status.jaws-mm-apart", apart_mm=apart_mm)
    if not aim_mm:
        return Tick(False, worded("device-status.no-distance-is-set", text=text))
    return Tick(abs(apart_mm - float(aim_mm)) <= GAUGE_TOLERANCE_MM, text)


def _at_start(status: Status, _: Parameters) -> Tick:
    away_mm = status.number("extension_mm")
    return Tick(
        abs(away_mm) <= GAUGE_TOLERANCE_MM,
        worded("device-status.mm-from-its-start", away_mm=away_mm),
    )


def _speed(status: Status, parameters: Parameters) -> Tick:
    set_mm_min = status.number("speed_mm_min")
    same = abs(set_mm_min - float(parameters["speed_mm_min"])) < 1e-6
    return Tick(same, f"{set_mm_min:g} mm/min")


def _force_limit(status: Status, parameters: Parameters) -> Tick:
    set_n, aim_n = status.number("force_limit_n"), parameters.get("force_limit_n")
    return Tick(aim_n is not None and abs(set_n - float(aim_n)) < 1e-6, f"{set_n:g} N")


def _zeroed(status: Status, _: Parameters) -> Tick:
    return Tick(status.holds("zeroed"), f"{status.number('force_n'):.2f} N")


def _displacements_zeroed(status: Status, _: Parameters) -> Tick:
    is_zero = status.holds("zeroed")
    return Tick(
        is_zero, worded("device-status.at-zero") if is_zero else worded("device-status.not-at-zero")
    )


def _force_zeroed(status: Status, _: Parameters) -> Tick:
    return Tick(status.holds("force_zeroed"), f"{status.number('force_n'):.2f} N")


def _travel_zeroed(status: Status, _: Parameters) -> Tick:
    return Tick(status.holds("travel_zeroed"), f"{status.number('extension_mm'):.2f} mm")


def _force_released(status: Status, _: Parameters) -> Tick:
    force_n = status.number("force_n")
    max_n = max(RELEASED_SHARE * status.number("capacity_n"), RELEASED_MIN_N)
    return Tick(abs(force_n) <= max_n, f"{force_n:.2f} N")


def _drain_shut(status: Status, _: Parameters) -> Tick:
    is_open = status.holds("drain_open")
    return Tick(
        not is_open,
        worded("device-status.the-drain-is-open")
        if is_open
        else worded("device-status.the-drain-is-shut"),
    )


def _clamped(status: Status, _: Parameters) -> Tick:
    bar = status.number("clamp_bar")
    return Tick(status.holds("clamped"), worded("device-status.clamped-at-bar", bar=bar))


def _seated(status: Status, parameters: Parameters) -> Tick:
    height_mm, limit = status.number("height_mm"), parameters.get("seat_limit_mm", SEATED_BELOW_MM)
    level = status.holds("zeroed") and 0 <= height_mm < float(limit)
    return Tick(
        level,
        worded(
            "device-status.height-mm-kpa", height_mm=height_mm, value=status.number("pressure_kpa")
        ),
    )


def _touches(status: Status, _: Parameters) -> Tick:
    return Tick(status.holds("touches"), f"{status.number('force_n'):.0f} N")


def _sign(status: Status, parameters: Parameters) -> Tick:
    counts = str(status.facts.get("down_is", ""))
    return Tick(
        counts == parameters.get("down_is"),
        worded("device-status.the-rig-counts-downwards-as", counts=counts or "?"),
    )


def _pretension(status: Status, parameters: Parameters) -> Tick:
    force_n, aim_n = status.number("force_n"), float(parameters.get("pretension_n") or 0.0)
    near = abs(force_n - aim_n) <= max(PRETENSION_SHARE * aim_n, RELEASED_MIN_N)
    return Tick(near, f"{force_n:.1f} N")


def _limit(status: Status, parameters: Parameters) -> Tick:
    set_mm, aim_mm = status.number("limit_mm"), parameters.get("limit_mm")
    return Tick(aim_mm is not None and abs(set_mm - float(aim_mm)) < 1e-6, f"{set_mm:g} mm")


def _settled(status: Status, parameters: Parameters) -> Tick:
    minutes = status.number("settled_min")
    requested = float(parameters.get("stabilise_min") or STABILISE_MIN)
    text = worded(
        "device-status.min-within-c",
        status=barrel_text(status),
        minutes=minutes,
        heated_within_c=HEATED_WITHIN_C,
    )
    return Tick(minutes >= requested, text)


def barrel_text(status: Status) -> str:
    """Return what the two sensors of a barrel show."""
    return worded(
        "device-status.and-c", value=status.number("upper_c"), value_2=status.number("lower_c")
    )


def _fan_off(status: Status, _: Parameters) -> Tick:
    is_on = status.holds("fan_on")
    return Tick(
        not is_on,
        worded("device-status.the-fan-is-on") if is_on else worded("device-status.the-fan-is-off"),
    )


def _count_set(status: Status, parameters: Parameters) -> Tick:
    set_to, aim = status.number("preset_count"), parameters.get("preset_count")
    return Tick(
        aim is not None and set_to == float(aim), worded("device-status.stops-at", set_to=set_to)
    )


READS: Mapping[str, Callable[[Status, Parameters], Tick]] = {
    "gauge-length": _gauge_length,
    "at-start": _at_start,
    "speed": _speed,
    "force-limit": _force_limit,
    "zeroed": _zeroed,
    "displacements-zeroed": _displacements_zeroed,
    "force-zeroed": _force_zeroed,
    "travel-zeroed": _travel_zeroed,
    "force-released": _force_released,
    "drain-shut": _drain_shut,
    "clamped": _clamped,
    "seated": _seated,
    "touches": _touches,
    "sign": _sign,
    "pretension": _pretension,
    "limit": _limit,
    "settled": _settled,
    "fan-off": _fan_off,
    "count-set": _count_set,
}
"""What proves an item, by the name that the item gives."""
SENSORS: Mapping[str, tuple[str, ...]] = {
    "gauge-length": ("gauge_mm",),
    "at-start": ("extension_mm",),
    "speed": ("speed_mm_min",),
    "force-limit": ("force_limit_n",),
    "zeroed": ("zeroed",),
    "displacements-zeroed": ("zeroed",),
    "force-zeroed": ("force_zeroed",),
    "travel-zeroed": ("travel_zeroed",),
    "force-released": ("force_n", "capacity_n"),
    "drain-shut": ("drain_open",),
    "clamped": ("clamped",),
    "seated": ("height_mm", "zeroed"),
    "touches": ("touches",),
    "sign": ("down_is",),
    "pretension": ("force_n",),
    "limit": ("limit_mm",),
    "settled": ("settled_min",),
    "fan-off": ("fan_on",),
    "count-set": ("preset_count",),
}
"""The facts without which an item stays open, by the name that the item gives."""


def tick(reads: str, status: Status | None, parameters: Parameters) -> Tick:
    """Return one item; a device that does not answer, or does not report it, ticks nothing."""
    if status is None:
        return Tick(False, worded("device-status.the-station-does-not-answer"))
    unsaid = [fact for fact in SENSORS[reads] if fact not in status.facts]
    if unsaid:
        return Tick(False, worded("device-status.the-station-does-not-report-it"))
    return READS[reads](status, parameters)


def separation_mm(parameters: Parameters, own_grips: bool = False) -> float:
    """Return the distance between the jaws at the start; 0 where it is not set.

    That is the grip separation; the gauge length stands for it unless the method has grips of
    their `own` distance.
    """
    if own_grips:
        return float(parameters.get("grip_separation_mm") or 0.0)
    return float(parameters.get("grip_separation_mm") or parameters.get("gauge_length_mm") or 0.0)
