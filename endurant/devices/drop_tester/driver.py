"""A device that lets packs fall on a face, as it speaks the line protocol."""

from __future__ import annotations

from endurant.devices.indicator import LineIndicator


class DropTester(LineIndicator):
    """Reads height_mm, and the damage."""

    kind = "drop-tester"
