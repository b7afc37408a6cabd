"""A device that shows readings for a specimen and records none: a pendulum, a rub rig, a jar."""

from __future__ import annotations

from collections.abc import Mapping
from math import isfinite

from endurant.devices.driver import LineLost
from endurant.devices.station import LineStation, fact, plain


class LineIndicator(LineStation):
    """One device that shows what it reads, by its address and serial number."""

    def read(
        self, specimen: str, method: str, request: Mapping[str, float | str]
    ) -> dict[str, float | bool | str]:
        """What it reads of a specimen now, by the names of the readings.

        `request` is what is due: a mass, a count. Raises LineLost for rubbish.
        """
        order = {"specimen": specimen, "method": method} | plain(request)
        answer = self.ask(self.message("READ", order))
        shown = {name: fact(text) for name, text in answer.fields.items()}
        for name, value in shown.items():
            if isinstance(value, float) and not isfinite(value):
                raise LineLost("device.unreadable", device=self.name, data=f"{name} {value}")
        return shown
