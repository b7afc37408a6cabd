"""Stations beside the one frame of the laboratory that every test has."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from endurant.core.devices import StationKind
from endurant.work.upkeep.founding import NewStation, add_station
from tests.conftest import StandIn
from tests.laboratory import Bench

INDICATORS: tuple[tuple[str, StationKind, str], ...] = (
    ("Shaking table", "shaking-table", "ST-1"),
    ("Vacuum jar", "vacuum-jar", "VJ-2"),
)


@pytest.fixture
def rig(bench: Bench, frame: StandIn) -> int:
    """Rigs, a jar and a large frame beside the small one; the id of the bursting rig's station."""
    now = datetime.now(UTC)
    rig = NewStation(
        name="Burst rig",
        host="127.0.0.1",
        port=frame.port,
        simulated=True,
        instrument="Pressure cell",
        serial="P-1",
        capacity_n=0,
        certificate="C-2",
        calibrated_at=now - timedelta(days=10),
        calibration_due_at=now + timedelta(days=300),
        kind="burst-rig",
        device="BR-3",
    )
    press = replace(rig, name="Press", serial="C-1", kind="compression-rig", device="CR-8")
    add_station(press)
    large = replace(rig, name="Large frame", serial="T-2", capacity_n=50_000, kind="frame")
    add_station(replace(large, device="SF-1090"))
    for name, kind, device in INDICATORS:
        add_station(replace(rig, name=name, serial=device, kind=kind, device=device))
    return add_station(rig)
