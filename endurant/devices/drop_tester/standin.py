"""A device that lets packs fall on a face, simulated."""

from __future__ import annotations

from random import Random

from endurant.core.simulate.shown import ReadRequest, Shown, pack
from endurant.devices.simulated_indicator import SimulatedIndicator


class SimulatedDropTester(SimulatedIndicator):
    """The device itself."""

    kind = "drop-tester"

    def shows(self, luck: Random, request: ReadRequest) -> Shown:
        """What the specimen's code makes of it."""
        return pack(luck, request)
