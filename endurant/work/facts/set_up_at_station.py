"""What a station has to be set to for a specimen, with the limits of the station itself."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from endurant.core.bench.procedures import procedure_of
from endurant.core.methods.method import Method
from endurant.store.tables import Station


def limits_of(station: Station, setup: Mapping[str, float | str]) -> dict[str, float | str]:
    """The force limit of a frame: that of the test, and never more than its load cell holds."""
    capacity_n = station.instrument.capacity_n
    if station.kind != "frame" or not capacity_n:
        return {}
    return {"force_limit_n": min(float(setup.get("force_limit_n") or capacity_n), capacity_n)}


def aims_at(method: Method, aims: Mapping[str, Any], station: Station | None) -> dict[str, Any]:
    """What a device has to stand at: parameters, set-up, and the limits of the station."""
    setup = procedure_of(method).setup(method, aims)
    return {**aims, **setup, **({} if station is None else limits_of(station, setup))}
