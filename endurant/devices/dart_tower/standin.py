"""A tower from which darts fall, simulated."""

from __future__ import annotations

from random import Random

from endurant.core.simulate.shown import ReadRequest, Shown, dart
from endurant.devices.simulated_indicator import SimulatedIndicator


class SimulatedDartTower(SimulatedIndicator):
    """The device itself."""

    kind = "dart-tower"

    def shows(self, luck: Random, request: ReadRequest) -> Shown:
        """What the specimen's code makes of it."""
        return dart(luck, request)
