"""Trouser tears of woven fabric."""

from __future__ import annotations

from endurant.core.simulate.shapes import TORN, SimulatedMethod, SimulatedPull, yarns

SIMULATED = {"iso-13937-2": SimulatedMethod(SimulatedPull(150, 100, yarns(24, 3.0)), found_as=TORN)}
