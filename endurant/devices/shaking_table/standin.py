"""A table that shakes packs, simulated."""

from __future__ import annotations

from random import Random

from endurant.core.simulate.shown import ReadRequest, Shown, pack
from endurant.devices.simulated_runner import SimulatedRunner


class SimulatedShakingTable(SimulatedRunner):
    """The device itself: it runs for a time or up to a count, and stops by itself."""

    kind = "shaking-table"

    def shows(self, luck: Random, request: ReadRequest) -> Shown:
        """What the specimen's code makes of it."""
        return pack(luck, request)
