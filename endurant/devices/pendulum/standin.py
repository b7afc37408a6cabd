"""A pendulum with its scale, simulated."""

from __future__ import annotations

from random import Random

from endurant.core.simulate.shown import ReadRequest, Shown, blow
from endurant.devices.simulated_indicator import SimulatedIndicator


class SimulatedPendulum(SimulatedIndicator):
    """The device itself."""

    kind = "pendulum"

    def shows(self, luck: Random, request: ReadRequest) -> Shown:
        """What the specimen's code makes of it."""
        return blow(luck, request)
