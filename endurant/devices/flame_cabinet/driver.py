"""A cabinet for a cloth at 45 degrees, as it speaks the line protocol."""

from __future__ import annotations

from endurant.devices.indicator import LineIndicator


class FlameCabinet(LineIndicator):
    """Reads code, burn_time_s."""

    kind = "flame-cabinet"
