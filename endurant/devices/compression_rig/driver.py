"""The compression rig that speaks the line protocol."""

from __future__ import annotations

from endurant.devices.recorder import LineRecorder


class CompressionRig(LineRecorder):
    """Channels: time_s, force_n, level, and a displacement in mm for each sensor."""

    kind = "compression-rig"
