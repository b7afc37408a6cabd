"""The simulated devices of the demo laboratory, by serial number."""

from __future__ import annotations

from endurant.core.simulate.room import SimulatedRoom
from endurant.devices.burst_rig.standin import SimulatedBurstRig
from endurant.devices.compression_rig.standin import SimulatedCompressionRig
from endurant.devices.dart_tower.standin import SimulatedDartTower
from endurant.devices.drop_tester.standin import SimulatedDropTester
from endurant.devices.flame_cabinet.standin import SimulatedFlameCabinet
from endurant.devices.frame.standin import SimulatedFrame
from endurant.devices.gauge.standin import SimulatedGauge
from endurant.devices.logger.standin import SimulatedLogger
from endurant.devices.melt_rig.standin import SimulatedMeltRig
from endurant.devices.pendulum.standin import SimulatedPendulum
from endurant.devices.rub_rig.standin import SimulatedRubRig
from endurant.devices.shaking_table.standin import SimulatedShakingTable
from endurant.devices.standin import Device
from endurant.devices.vacuum_jar.standin import SimulatedVacuumJar
from endurant.standins.host import Host


def demo_devices() -> dict[str, Device]:
    """Loggers and gauges."""
    return {
        "TH-1": SimulatedLogger(SimulatedRoom(20, 65, 0.6, 1.4, 11)),
        "TH-2": SimulatedLogger(SimulatedRoom(23, 50, 0.5, 1.6, 23)),
        "TH-3": SimulatedLogger(SimulatedRoom(105, None, 0.9, 0, 37)),
        "TH-4": SimulatedLogger(SimulatedRoom(45, 17.5, 1.1, 2.0, 41)),
        "TH-5": SimulatedLogger(SimulatedRoom(-30, None, 0.6, 0, 53)),
        "CAL-7": SimulatedGauge(0.01, 0.002, 7),
        "TG-2": SimulatedGauge(0.001, 0.004, 2),
        "BAL-1": SimulatedGauge(0.0001, 0.0002, 1),
    }


def demo_host(pace: float) -> Host:
    """Everything that the demo laboratory has, at one address."""
    rig = SimulatedBurstRig("BR-3", pace)
    frame = SimulatedFrame("SF-2041", pace)
    large = SimulatedFrame("SF-1090", pace, capacity_n=50_000)
    small = SimulatedFrame("SF-0417", pace, capacity_n=200)
    press = SimulatedCompressionRig("CR-8", pace)
    others = {device.serial: device for device in (rig, large, small, press)}
    return Host(frame, others, demo_devices() | indicators(pace))


def indicators(pace: float) -> dict[str, Device]:
    """What shows readings and records none."""
    return {
        "PEN-4": SimulatedPendulum("PEN-4", pace),
        "MR-2": SimulatedMeltRig("MR-2", pace),
        "DT-1": SimulatedDartTower("DT-1", pace),
        "FC-1": SimulatedFlameCabinet("FC-1", pace),
        "RR-5": SimulatedRubRig("RR-5", pace),
        "ST-1": SimulatedShakingTable("ST-1", pace),
        "DR-3": SimulatedDropTester("DR-3", pace),
        "VJ-2": SimulatedVacuumJar("VJ-2", pace),
    }
