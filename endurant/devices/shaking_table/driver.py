"""A table that shakes packs, as it speaks the line protocol."""

from __future__ import annotations

from endurant.devices.indicator import LineIndicator


class ShakingTable(LineIndicator):
    """Reads minutes, and the damage."""

    kind = "shaking-table"
