"""Every kind of device that records, by the name that a station gives it."""

from __future__ import annotations

from collections.abc import Mapping

from endurant.core.bench.picture import DeviceKind
from endurant.devices.burst_rig.driver import BurstRig
from endurant.devices.compression_rig.driver import CompressionRig
from endurant.devices.frame.driver import Frame
from endurant.devices.recorder import LineRecorder

RECORDERS: Mapping[DeviceKind, type[LineRecorder]] = {
    "frame": Frame,
    "burst-rig": BurstRig,
    "compression-rig": CompressionRig,
}
