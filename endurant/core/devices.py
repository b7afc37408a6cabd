"""Every kind of device: its code, what it records or shows, what it can do, and its faults.

A station, an instrument form, a driver and a simulated device all ask this list. A new kind is an
entry here and a folder in `endurant/devices`.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from endurant.core.messages import worded

RecorderKind = Literal["frame", "burst-rig", "compression-rig"]
"""Devices that send samples while a test runs."""
IndicatorKind = Literal[
    "pendulum",
    "melt-rig",
    "dart-tower",
    "flame-cabinet",
    "rub-rig",
    "shaking-table",
    "drop-tester",
    "vacuum-jar",
]
"""Devices that show a reading when asked, and record nothing."""
GaugeKind = Literal["caliper", "thickness-gauge", "balance"]
"""Devices that measure a size or a mass in the hand."""
StationKind = RecorderKind | IndicatorKind
Kind = StationKind | GaugeKind | Literal["logger"]
Role = Literal["recorder", "indicator", "gauge", "logger"]


@dataclass(frozen=True)
class SimulatedFault:
    """A fault that a simulated device can be told to have; the title follows its name."""

    code: str
    title: str


@dataclass(frozen=True)
class DeviceKind:
    """One kind of device.

    `records` names the channels of a recorder, or the readings of the others, with their unit at
    the end of the name. `actions` is what a test may tell it to do.
    """

    code: Kind
    title: str
    role: Role
    records: tuple[str, ...]
    actions: frozenset[str] = frozenset()
    faults: tuple[SimulatedFault, ...] = ()

    @property
    def is_station(self) -> bool:
        """True where a test is run at a station of this kind."""
        return self.role in ("recorder", "indicator")

    def fault_codes(self) -> tuple[str, ...]:
        """Return the codes of the faults it can simulate; the first is none."""
        return tuple(fault.code for fault in self.faults)


_NORMAL = SimulatedFault("none", worded("device-name.works-normally"))
_LINE = (
    SimulatedFault("unplug", worded("device-name.loses-its-line-during-the-test")),
    SimulatedFault("rubbish", worded("device-name.sends-garbled-data-during-the-test")),
)
_SILENT = (
    SimulatedFault("rubbish", worded("device-name.sends-garbled-data")),
    SimulatedFault("silent", worded("device-name.does-not-answer")),
)
_RUNNER = frozenset({"set-count", "start", "stop"})
_GAUGE = (_NORMAL, SimulatedFault("inches", worded("device-name.shows-inches")), *_SILENT)


def _indicator(
    code: IndicatorKind,
    title: str,
    records: tuple[str, ...],
    actions: frozenset[str] = frozenset(),
    *more: SimulatedFault,
) -> DeviceKind:
    return DeviceKind(code, title, "indicator", records, actions, (_NORMAL, *_SILENT, *more))


_KINDS: tuple[DeviceKind, ...] = (
    DeviceKind(
        "frame",
        worded("device-name.tensile-frame"),
        "recorder",
        ("time_s", "extension_mm", "force_n", "strain"),
        frozenset(
            {"prepare", "zero", "zero-force", "zero-travel", "grip", "ungrip", "release"}
            | {"pretension", "unload", "return", "go-on"}
        ),
        (
            _NORMAL,
            SimulatedFault("jaw-slip", worded("device-name.lets-the-specimen-slip-in-the-jaw")),
            SimulatedFault("extensometer-slip", worded("device-name.lets-the-extensometer-slip")),
            *_LINE,
        ),
    ),
    DeviceKind(
        "burst-rig",
        worded("device-name.burst-rig"),
        "recorder",
        ("time_s", "pressure_kpa", "height_mm"),
        frozenset({"bare", "shut-drain", "clamp", "zero", "drain", "unclamp"}),
        (_NORMAL, SimulatedFault("slow-pump", worded("device-name.pumps-too-slowly")), *_LINE),
    ),
    DeviceKind(
        "compression-rig",
        worded("device-name.compression-rig"),
        "recorder",
        ("time_s", "force_n", "level", "displacement_mm"),
        frozenset({"lower", "zero-force", "touch", "zero", "raise", "unload"}),
        (
            _NORMAL,
            SimulatedFault("wrong-sign", worded("device-name.gives-displacement-the-wrong-sign")),
            *_LINE,
        ),
    ),
    _indicator("pendulum", "Pendulum", ("energy_j", "reading_j", "reading_percent")),
    _indicator(
        "melt-rig",
        worded("device-name.melt-flow-rig"),
        ("mass_g", "length_mm", "time_s"),
        frozenset({"heat", "charge", "load"}),
        SimulatedFault("runs-cold", worded("device-name.runs-4-c-too-cold")),
    ),
    _indicator("dart-tower", worded("device-name.dart-tower"), ("failed",)),
    _indicator(
        "flame-cabinet",
        worded("device-name.flame-cabinet"),
        ("code", "burn_time_s"),
        frozenset({"fan-off", "light", "fan-on"}),
    ),
    _indicator(
        "rub-rig",
        worded("device-name.rub-rig"),
        ("count", "damage"),
        _RUNNER,
        SimulatedFault("jumps-back", worded("device-name.counts-backwards")),
    ),
    _indicator(
        "shaking-table", worded("device-name.shaking-table"), ("minutes", "damage"), _RUNNER
    ),
    _indicator("drop-tester", worded("device-name.drop-tester"), ("height_mm", "damage")),
    _indicator(
        "vacuum-jar", worded("device-name.vacuum-jar"), ("bubbles",), frozenset({"evacuate", "air"})
    ),
    DeviceKind("caliper", "Caliper", "gauge", ("width_mm", "length_mm"), faults=_GAUGE),
    DeviceKind(
        "thickness-gauge",
        worded("device-name.thickness-gauge"),
        "gauge",
        ("thickness_mm",),
        faults=_GAUGE,
    ),
    DeviceKind("balance", "Balance", "gauge", ("mass_g",), faults=_GAUGE),
    DeviceKind(
        "logger",
        worded("device-name.room-logger"),
        "logger",
        ("temperature_c", "humidity_percent"),
        faults=(
            _NORMAL,
            SimulatedFault("warm", worded("device-name.lets-the-room-become-too-warm")),
            *_SILENT,
        ),
    ),
)

DEVICE_KINDS: Mapping[str, DeviceKind] = {kind.code: kind for kind in _KINDS}
"""Every kind by its code, in the order in which lists show them."""


def device_kind(code: str) -> DeviceKind:
    """Return the kind with this code; raises KeyError for another."""
    return DEVICE_KINDS[code]
