"""A device that lets packs fall on a face, simulated."""

from __future__ import annotations

from random import Random

from endurant.core.simulate.shown import Asked, Shown, pack
from endurant.devices.simulated_indicator import SimulatedIndicator


class SimulatedDropTester(SimulatedIndicator):
    """The device itself."""

    def shows(self, luck: Random, asked: Asked) -> Shown:
        """What the specimen's code makes of it."""
        return pack(luck, asked)
