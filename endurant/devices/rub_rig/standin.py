"""A rig that rubs and counts, simulated."""

from __future__ import annotations

from random import Random

from endurant.core.simulate.shown import ReadRequest, Shown, wear
from endurant.devices.simulated_runner import SimulatedRunner


class SimulatedRubRig(SimulatedRunner):
    """The device itself: it runs for a time or up to a count, and stops by itself."""

    kind = "rub-rig"

    def shows(self, luck: Random, request: ReadRequest) -> Shown:
        """What the specimen's code makes of it."""
        return wear(luck, request)
