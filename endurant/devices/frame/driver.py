"""The frame that speaks the line protocol."""

from __future__ import annotations

from endurant.devices.recorder import LineRecorder


class Frame(LineRecorder):
    """Channels: time_s, extension_mm, force_n; strain with an extensometer, half with a pair."""

    kind = "frame"
