"""A melt flow rig, as it speaks the line protocol."""

from __future__ import annotations

from endurant.devices.indicator import LineIndicator


class MeltRig(LineIndicator):
    """Reads mass_g, length_mm, time_s."""

    kind = "melt-rig"
