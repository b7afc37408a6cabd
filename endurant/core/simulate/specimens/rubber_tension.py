"""Dumbbells of rubber."""

from __future__ import annotations

from endurant.core.simulate.shapes import (
    RUBBER,
    TENSILE,
    SimulatedMethod,
    SimulatedPull,
    stretching,
)

_FOUND = {**TENSILE, "early-stop": "strain-not-reached"}


def _dumbbell() -> SimulatedMethod:
    pull = SimulatedPull(110, 500, stretching(0.9, 100), RUBBER, 25)
    return SimulatedMethod(pull, found_as=_FOUND)


SIMULATED = {"astm-d412": _dumbbell(), "iso-37": _dumbbell()}
