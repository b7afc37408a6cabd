"""The frame that speaks the line protocol."""

from __future__ import annotations

from typing import ClassVar

from endurant.devices.recorder import LineRecorder


class Frame(LineRecorder):
    """Channels: time_s, extension_mm, force_n; strain with an extensometer, half with a pair."""

    acts: ClassVar[frozenset[str]] = frozenset(
        {"prepare", "zero", "zero-force", "zero-travel", "grip", "ungrip", "release"}
        | {"pretension", "unload", "return", "go-on"}
    )
