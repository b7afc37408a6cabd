"""The kinds of device that a laboratory can have, as forms and panels list them."""

from __future__ import annotations

from endurant.core.devices import DEVICE_KINDS, Kind, Role
from endurant.work.base.view import View


class SimulatedFaultView(View):
    """A fault that a simulated device can be told to have."""

    code: str
    title: str


class DeviceKindView(View):
    """One kind of device; `records` are its channels or readings, `actions` what it can do."""

    code: Kind
    title: str
    role: Role
    records: list[str]
    actions: list[str]
    faults: list[SimulatedFaultView]


def device_kinds() -> list[DeviceKindView]:
    """Every kind, stations first."""
    return [
        DeviceKindView(
            code=kind.code,
            title=kind.title,
            role=kind.role,
            records=list(kind.records),
            actions=sorted(kind.actions),
            faults=[SimulatedFaultView.model_validate(fault) for fault in kind.faults],
        )
        for kind in DEVICE_KINDS.values()
    ]
