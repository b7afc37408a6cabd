"""Bars and strips of plastics."""

from __future__ import annotations

from endurant.core.simulate.shapes import BAR, TENSILE, SimulatedMethod, SimulatedPull, yielding

_FILM = {"dimensions": {"width_mm": [15.0], "thickness_mm": [0.04, 0.041, 0.04]}}
_OF_A_BAR = {"gauge_length_mm": 50.0, "speed_mm_min": 10.0}
_OF_A_FILM = {"gauge_length_mm": 100.0, "speed_mm_min": 300.0, "modulus_window": [0.005, 0.02]}


def _bar() -> SimulatedMethod:
    pull = SimulatedPull(18, 10, yielding(1450, 1240, 900, 15), BAR, 50)
    return SimulatedMethod(pull, parameters=_OF_A_BAR, found_as=TENSILE)


def _film() -> SimulatedMethod:
    pull = SimulatedPull(320, 300, yielding(6, 14, 20, 300), _FILM)
    return SimulatedMethod(pull, parameters=_OF_A_FILM, found_as=TENSILE)


SIMULATED = {
    "iso-527": _bar(),
    "astm-d638": _bar(),
    "iso-527-3": _film(),
    "astm-d882": _film(),
}
