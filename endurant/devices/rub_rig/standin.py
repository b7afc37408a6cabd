"""A rig that rubs and counts, simulated."""

from __future__ import annotations

from random import Random

from endurant.core.simulate.shown import Asked, Shown, wear
from endurant.devices.simulated_indicator import SimulatedIndicator


class SimulatedRubRig(SimulatedIndicator):
    """The device itself."""

    def shows(self, luck: Random, asked: Asked) -> Shown:
        """What the specimen's code makes of it."""
        return wear(luck, asked)
