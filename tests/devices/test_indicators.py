"""Devices that show readings and record none, over their line."""

from __future__ import annotations

import pytest

from endurant.devices.driver import DeviceRefused, LineLost
from endurant.devices.flame_cabinet.driver import FlameCabinet
from endurant.devices.melt_rig.driver import MeltRig
from endurant.devices.pendulum.driver import Pendulum
from endurant.devices.rub_rig.driver import RubRig
from endurant.devices.vacuum_jar.driver import VacuumJar
from tests.conftest import StandIn

CODE = "J-1-1-S1"


@pytest.fixture
def address(frame: StandIn) -> tuple[str, int]:
    return "127.0.0.1", frame.port


def test_the_same_bar_always_takes_the_same_blow(address: tuple[str, int]) -> None:
    pendulum = Pendulum("Pendulum", address, "PEN-4")
    first, again = (
        pendulum.read(CODE, "iso-180", {"pendulum_j": 5.5, "temperature_c": 23.0}) for _ in range(2)
    )
    assert first == again
    cold = pendulum.read(CODE, "iso-180", {"pendulum_j": 5.5, "temperature_c": -30.0})
    assert 0 < float(cold["energy_j"]) < 0.8 * float(first["energy_j"]) < 0.8 * 5.5


def test_a_cabinet_lights_only_with_its_fan_off(address: tuple[str, int]) -> None:
    cabinet = FlameCabinet("Cabinet", address, "FC-1")
    cabinet.do("fan-on")
    with pytest.raises(DeviceRefused, match="device.refused"):
        cabinet.do("light")
    cabinet.do("fan-off")
    assert cabinet.do("light").holds("fan_on") is False


def test_a_charge_pulls_the_barrel_down_and_it_comes_back(address: tuple[str, int]) -> None:
    rig = MeltRig("Rig", address, "MR-2")
    assert rig.do("heat", temperature_c=190.0).number("set_c") == 190.0
    with pytest.raises(DeviceRefused, match="device.refused"):
        rig.do("heat", temperature_c=900.0)
    charged = rig.do("charge")
    assert charged.number("upper_c") == pytest.approx(190.1, abs=8)
    assert rig.do("load").number("upper_c") - charged.number("upper_c") < 1


def test_a_jar_draws_what_it_can(address: tuple[str, int]) -> None:
    jar = VacuumJar("Jar", address, "VJ-2")
    assert jar.do("evacuate", vacuum_kpa=60.0).number("vacuum_kpa") == 60.0
    with pytest.raises(DeviceRefused, match="device.refused"):
        jar.do("evacuate", vacuum_kpa=101.0)
    assert jar.do("air").number("vacuum_kpa") == 0.0


def test_rubbish_silence_and_a_counter_that_jumps_back(address: tuple[str, int]) -> None:
    rig = RubRig("Rub rig", address, "RR-5")
    assert rig.read(CODE, "scuff", {"count": 100.0})["count"] == 100.0
    rig.simulate("jumps-back")
    assert rig.read(CODE, "scuff", {"count": 100.0})["count"] == 40.0
    rig.simulate("rubbish")
    with pytest.raises(LineLost, match="device.unreadable"):
        rig.status()
    rig.simulate("none")
    assert rig.status().serial == "RR-5"
    with pytest.raises(DeviceRefused, match="device.refused"):
        rig.simulate("melts")
