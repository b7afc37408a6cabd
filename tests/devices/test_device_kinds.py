"""One list of device kinds, and every driver and simulated device by it."""

from __future__ import annotations

from typing import get_args

import pytest

from endurant.core.bench.procedures import station_kind_of
from endurant.core.devices import DEVICE_KINDS, GaugeKind, IndicatorKind, RecorderKind, device_kind
from endurant.core.methods import all_methods, find_method
from endurant.devices.line import Message
from endurant.devices.registry import INDICATORS, RECORDERS
from endurant.standins.laboratory import indicators


def test_every_kind_of_the_types_is_listed_in_its_role() -> None:
    by_role: dict[str, list[str]] = {}
    for code, kind in DEVICE_KINDS.items():
        assert kind.code == code
        by_role.setdefault(kind.role, []).append(code)
    assert tuple(by_role["recorder"]) == get_args(RecorderKind)
    assert tuple(by_role["indicator"]) == get_args(IndicatorKind)
    assert tuple(by_role["gauge"]) == get_args(GaugeKind)


def test_every_station_kind_has_a_driver_of_its_role() -> None:
    assert set(RECORDERS) == set(get_args(RecorderKind))
    assert set(INDICATORS) == set(get_args(IndicatorKind))


def test_every_method_is_run_at_a_listed_kind_of_station() -> None:
    kinds = {station_kind_of(find_method(code)) for code in all_methods()} - {None}
    assert all(kind is not None and device_kind(kind).is_station for kind in kinds)
    assert {"frame", "pendulum", "melt-rig"} <= kinds


@pytest.mark.parametrize("serial", indicators(1.0))
def test_a_simulated_indicator_takes_the_faults_of_its_kind_and_no_other(serial: str) -> None:
    device = indicators(1.0)[serial]
    kind = device_kind(device.kind)  # type: ignore[attr-defined]
    for fault in kind.fault_codes():
        answer = b"".join(device.answer(Message("PRETEND", {"fault": fault})))
        assert b"OK" in answer, fault
    refused = b"".join(device.answer(Message("PRETEND", {"fault": "catches-fire"})))
    assert b"expected_one_of" in refused


def test_a_driver_refuses_an_action_that_its_kind_does_not_have() -> None:
    frame = RECORDERS["frame"]("Frame 1", ("127.0.0.1", 1), "SF-1")
    with pytest.raises(ValueError, match="light is nothing that Frame 1 does"):
        frame.do("light")


def test_the_demo_laboratory_has_a_device_of_every_station_kind() -> None:
    assert {device.kind for device in indicators(1.0).values()} == set(get_args(IndicatorKind))  # type: ignore[attr-defined]
