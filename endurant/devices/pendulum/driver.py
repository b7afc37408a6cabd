"""A pendulum with its scale, as it speaks the line protocol."""

from __future__ import annotations

from endurant.devices.indicator import LineIndicator


class Pendulum(LineIndicator):
    """Reads energy_j, reading_j or reading_percent."""

    kind = "pendulum"
