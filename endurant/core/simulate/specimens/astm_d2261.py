"""Tongue tears of woven fabric."""

from __future__ import annotations

from endurant.core.simulate.shapes import TORN, SimulatedMethod, SimulatedPull, yarns

SIMULATED = {"astm-d2261": SimulatedMethod(SimulatedPull(150, 50, yarns(95, 3.6)), found_as=TORN)}
