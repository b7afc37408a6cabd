"""The bursting rig that speaks the line protocol."""

from __future__ import annotations

from typing import ClassVar

from endurant.devices.recorder import LineRecorder


class BurstRig(LineRecorder):
    """Channels: time_s, pressure_kpa, height_mm."""

    acts: ClassVar[frozenset[str]] = frozenset(
        {"bare", "shut-drain", "clamp", "zero", "drain", "unclamp"}
    )
