"""Paper and board that are burst."""

from __future__ import annotations

from endurant.core.simulate.shapes import SimulatedMethod
from endurant.core.simulate.specimens.iso_13938_1 import CLAMPED, burst

SIMULATED = {
    "iso-2758": SimulatedMethod(make=burst, found_as=CLAMPED),
    "iso-2759": SimulatedMethod(make=burst),
}
