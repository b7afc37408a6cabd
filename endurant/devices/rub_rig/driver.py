"""A rig that rubs and counts, as it speaks the line protocol."""

from __future__ import annotations

from endurant.devices.indicator import LineIndicator


class RubRig(LineIndicator):
    """Reads count, and what is seen of it."""

    kind = "rub-rig"
