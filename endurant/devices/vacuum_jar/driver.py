"""A jar under vacuum, as it speaks the line protocol."""

from __future__ import annotations

from typing import ClassVar

from endurant.devices.indicator import LineIndicator


class VacuumJar(LineIndicator):
    """Reads where it bubbles."""

    acts: ClassVar[frozenset[str]] = frozenset({"evacuate", "air"})
