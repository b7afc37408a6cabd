"""Every kind of device at a station, by the name that the station gives it."""

from __future__ import annotations

from collections.abc import Mapping

from endurant.core.devices import StationKind
from endurant.devices.burst_rig.driver import BurstRig
from endurant.devices.compression_rig.driver import CompressionRig
from endurant.devices.dart_tower.driver import DartTower
from endurant.devices.drop_tester.driver import DropTester
from endurant.devices.flame_cabinet.driver import FlameCabinet
from endurant.devices.frame.driver import Frame
from endurant.devices.indicator import LineIndicator
from endurant.devices.melt_rig.driver import MeltRig
from endurant.devices.pendulum.driver import Pendulum
from endurant.devices.recorder import LineRecorder
from endurant.devices.rub_rig.driver import RubRig
from endurant.devices.shaking_table.driver import ShakingTable
from endurant.devices.vacuum_jar.driver import VacuumJar

RECORDERS: Mapping[StationKind, type[LineRecorder]] = {
    driver.kind: driver for driver in (Frame, BurstRig, CompressionRig)
}
INDICATORS: Mapping[StationKind, type[LineIndicator]] = {
    driver.kind: driver
    for driver in (
        Pendulum,
        MeltRig,
        DartTower,
        FlameCabinet,
        RubRig,
        ShakingTable,
        DropTester,
        VacuumJar,
    )
}
