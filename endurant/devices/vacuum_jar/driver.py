"""A jar under vacuum, as it speaks the line protocol."""

from __future__ import annotations

from endurant.devices.indicator import LineIndicator


class VacuumJar(LineIndicator):
    """Reads where it bubbles."""

    kind = "vacuum-jar"
