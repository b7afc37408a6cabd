"""Instruments, their reference checks, and what wears out."""

from __future__ import annotations

from fastapi import APIRouter, Response

from endurant.api.files import pdf_response
from endurant.api.long import in_long_thread
from endurant.api.route import Route
from endurant.api.session import SignedIn, right
from endurant.reports.pdf import due_pdf
from endurant.work.use_cases.instruments import (
    barrel,
    checks,
    consumables,
    equipment,
    failed_checks,
)
from endurant.work.views.device_kinds import DeviceKindView, device_kinds
from endurant.work.views.due import DueView, due, letterhead

router = APIRouter(route_class=Route, tags=["instruments"])


@router.get("/due")
def show_due(actor: SignedIn) -> DueView:
    """Calibrations, checks, authorisations, consumables and remainders due within 30 days."""
    return due()


@router.get("/due.pdf", response_class=Response)
async def print_due(actor: SignedIn) -> Response:
    """The same on paper."""
    pdf = await in_long_thread(lambda: due_pdf(due(), *letterhead()))
    return pdf_response(pdf, "due.pdf")


@router.get("/device-kinds")
def list_device_kinds(actor: SignedIn) -> list[DeviceKindView]:
    """Every kind of device that there can be."""
    return device_kinds()


@router.get("/instruments")
def list_instruments(actor: SignedIn) -> list[equipment.InstrumentView]:
    """Every instrument and gauge; what is not in order first."""
    return equipment.instruments()


@router.post("/instruments", dependencies=[right("equip")], status_code=201)
def add_instrument(actor: SignedIn, request: equipment.NewRequest) -> equipment.InstrumentView:
    """A new instrument."""
    return equipment.add(actor, request)


@router.delete("/instruments/{serial}", dependencies=[right("equip")], status_code=204)
def delete_instrument(actor: SignedIn, serial: str) -> None:
    """Take back one that was added by a slip, and never used."""
    equipment.delete_unused(actor, serial)


@router.post("/instruments/{serial}/calibrate", dependencies=[right("equip")])
def calibrate_instrument(
    actor: SignedIn, serial: str, request: equipment.CalibrationRequest
) -> equipment.InstrumentView:
    """A calibration takes the place of the one before."""
    return equipment.calibrate(actor, serial, request)


@router.post("/instruments/{serial}/take-out-of-service", dependencies=[right("test")])
def take_instrument_out(
    actor: SignedIn, serial: str, request: equipment.WhyRequest
) -> equipment.InstrumentView:
    """Out of service until it is back."""
    return equipment.take_out(actor, serial, request)


@router.post("/instruments/{serial}/return-to-service", dependencies=[right("equip")])
def bring_instrument_back(
    actor: SignedIn, serial: str, request: equipment.WhyRequest
) -> equipment.InstrumentView:
    """In service again."""
    return equipment.bring_back(actor, serial, request)


@router.post("/instruments/{serial}/retire", dependencies=[right("equip")])
def retire_instrument(
    actor: SignedIn, serial: str, request: equipment.WhyRequest
) -> equipment.InstrumentView:
    """Never used again; what it measured stays."""
    return equipment.retire(actor, serial, request)


@router.put("/instruments/{serial}/room", dependencies=[right("equip")])
def set_instrument_room(
    actor: SignedIn, serial: str, request: equipment.RoomRequest
) -> equipment.InstrumentView:
    """Which logger stands nearest."""
    return equipment.set_room(actor, serial, request)


@router.get("/instruments/{serial}/log")
def show_instrument_log(actor: SignedIn, serial: str) -> list[equipment.InstrumentEventView]:
    """What happened to it, the latest first."""
    return equipment.events_of_instrument(serial)


@router.post("/instruments/{serial}/log", dependencies=[right("test")], status_code=201)
def write_instrument_log(
    actor: SignedIn, serial: str, request: equipment.LogRequest
) -> list[equipment.InstrumentEventView]:
    """Something that was done to it."""
    return equipment.write_log(actor, serial, request)


@router.get("/instruments/{serial}/checks")
def list_checks(actor: SignedIn, serial: str) -> list[checks.ReferenceCheckView]:
    """Its reference checks with their readings."""
    return checks.checks_of(serial)


@router.post("/instruments/{serial}/checks", dependencies=[right("equip")], status_code=201)
def begin_check(
    actor: SignedIn, serial: str, request: checks.CheckRequest
) -> list[checks.ReferenceCheckView]:
    """A check that is kept up from now on."""
    return checks.begin_check(actor, serial, request)


@router.post("/checks/{check_id}/readings", dependencies=[right("test")], status_code=201)
def read_check(
    actor: SignedIn, check_id: int, request: checks.ReadingRequest
) -> list[checks.ReferenceCheckView]:
    """One reading of a check."""
    return checks.read_check(actor, check_id, request)


@router.post("/checks/{check_id}/close", dependencies=[right("equip")])
def close_check(actor: SignedIn, check_id: int) -> list[checks.ReferenceCheckView]:
    """The check is kept up no longer."""
    return checks.close_check(actor, check_id)


@router.get("/instruments/{serial}/affected")
def list_affected(actor: SignedIn, serial: str) -> list[failed_checks.TouchedView]:
    """What was tested since its last good check, while the last one is bad."""
    return failed_checks.affected(serial)


@router.get("/instruments/{serial}/barrel")
def list_barrel_checks(actor: SignedIn, serial: str) -> list[barrel.BarrelView]:
    """The checks of a barrel, the latest first."""
    return barrel.barrel_checks(serial)


@router.post("/instruments/{serial}/barrel", dependencies=[right("test")], status_code=201)
def check_barrel(
    actor: SignedIn, serial: str, request: barrel.BarrelRequest
) -> list[barrel.BarrelView]:
    """One check of a barrel: the new offsets."""
    return barrel.check_barrel(actor, serial, request)


@router.get("/consumables")
def list_supplies(actor: SignedIn) -> consumables.SupplyList:
    """What wears out: what is in use, and what was finished."""
    return consumables.supplies()


@router.post("/consumables", dependencies=[right("test")], status_code=201)
def open_supply(actor: SignedIn, request: consumables.SupplyRequest) -> consumables.SupplyList:
    """Open a lot."""
    return consumables.open_lot(actor, request)


@router.post("/consumables/{supply_id}/finish", dependencies=[right("test")])
def finish_supply(actor: SignedIn, supply_id: int) -> consumables.SupplyList:
    """A lot is used up."""
    return consumables.finish_lot(actor, supply_id)
