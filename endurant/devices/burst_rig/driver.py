"""The bursting rig that speaks the line protocol."""

from __future__ import annotations

from endurant.devices.recorder import LineRecorder


class BurstRig(LineRecorder):
    """Channels: time_s, pressure_kpa, height_mm."""

    kind = "burst-rig"
