"""A tower from which darts fall, as it speaks the line protocol."""

from __future__ import annotations

from endurant.devices.indicator import LineIndicator


class DartTower(LineIndicator):
    """Reads whether the film failed."""

    kind = "dart-tower"
