"""A gauge as a page shows it."""

from __future__ import annotations

from datetime import datetime

from endurant.store.tables import Gauge
from endurant.work.base.view import View


class GaugeView(View):
    """A gauge that can be read from the page."""

    id: int
    name: str
    kind: str
    serial: str
    simulated: bool
    overdue: bool


def gauge_view(gauge: Gauge, now: datetime) -> GaugeView:
    """A gauge as it is shown."""
    return GaugeView(
        id=gauge.id,
        name=gauge.name,
        kind=gauge.kind,
        serial=gauge.serial,
        simulated=gauge.simulated,
        overdue=gauge.calibration_due_at < now,
    )
