"""Conditioning locations with their logs and specimens, and the sizes of specimens."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Form, Request, Response, UploadFile
from pydantic import Field

from endurant.api.answers import page_of_board
from endurant.api.files import csv_response
from endurant.api.route import Route
from endurant.api.session import FILE_BYTES, SignedIn, reads_up_to, right
from endurant.work.base.requests import RequestBody
from endurant.work.facts import conditioning_models as preparation_views
from endurant.work.use_cases.preparation import chain as preparation
from endurant.work.use_cases.preparation import enclosures, measuring, placement
from endurant.work.use_cases.preparation.set_points import SetPointRequest
from endurant.work.views import clock_rail, conditioning

router = APIRouter(route_class=Route, tags=["preparation"])

MAX_OFFSET_MINUTES = 18 * 60


class Behaviour(RequestBody):
    """How a simulated device shall behave from now on."""

    fault: str = Field(max_length=40)


@router.get("/conditioning", response_model=preparation_views.ConditioningView)
def show_conditioning(actor: SignedIn, request: Request) -> Response:
    """The specimens in each room or chamber, and those that wait to be placed."""
    return page_of_board(request, "conditioning", conditioning.conditioning)


@router.post("/enclosures", dependencies=[right("set-limits")], status_code=201)
def add_enclosure(
    actor: SignedIn, request: enclosures.EnclosureRequest
) -> preparation_views.ConditioningView:
    """A new enclosure."""
    return enclosures.add_enclosure(actor, request)


@router.put("/enclosures/{enclosure_id}", dependencies=[right("set-limits")])
def mend_enclosure(
    actor: SignedIn, enclosure_id: int, request: enclosures.EnclosureMended
) -> preparation_views.ConditioningView:
    """Another name, atmosphere or address."""
    return enclosures.mend_enclosure(actor, enclosure_id, request)


@router.post("/enclosures/{enclosure_id}/close", dependencies=[right("set-limits")])
def close_enclosure(actor: SignedIn, enclosure_id: int) -> preparation_views.ConditioningView:
    """The enclosure is used no more."""
    return enclosures.close_enclosure(actor, enclosure_id)


@router.put("/enclosures/{enclosure_id}/set-point", dependencies=[right("condition")])
def change_set_point(
    actor: SignedIn, enclosure_id: int, request: SetPointRequest
) -> preparation_views.ConditioningView:
    """Ask for another set point or tolerance, with a reason."""
    return enclosures.set_point(actor, enclosure_id, request)


@router.post("/enclosures/{enclosure_id}/set-point/confirm", dependencies=[right("equip")])
def confirm_set_point(actor: SignedIn, enclosure_id: int) -> preparation_views.ConditioningView:
    """Confirm the set point that another person requested."""
    return enclosures.confirm_requested(actor, enclosure_id)


@router.get("/enclosures/{enclosure_id}/log")
def show_log(actor: SignedIn, enclosure_id: int, hours: float = 48) -> enclosures.LogView:
    """The log of an enclosure as a curve."""
    return enclosures.enclosure_log(enclosure_id, hours)


@router.get("/enclosures/{enclosure_id}/log.csv", response_class=Response)
def log_as_csv(actor: SignedIn, enclosure_id: int, hours: float = 24 * 31) -> Response:
    """The log of an enclosure as a file."""
    name, text = enclosures.log_csv(enclosure_id, hours)
    return csv_response(text, name)


@router.post(
    "/enclosures/{enclosure_id}/log",
    dependencies=[reads_up_to(FILE_BYTES), right("condition")],
    status_code=201,
)
def bring_in_log(
    actor: SignedIn,
    enclosure_id: int,
    file: Annotated[UploadFile, File()],
    offset_minutes: Annotated[
        int | None, Form(ge=-MAX_OFFSET_MINUTES, le=MAX_OFFSET_MINUTES)
    ] = None,
) -> enclosures.TakenLogView:
    """Take the log of an enclosure from a CSV file."""
    name = file.filename or "log.csv"
    return enclosures.bring_in_log(actor, enclosure_id, name, file.file.read(), offset_minutes)


@router.post("/enclosures/read-loggers", dependencies=[right("condition")])
def read_loggers(actor: SignedIn) -> preparation_views.ConditioningView:
    """Ask every logger now, without waiting for its turn."""
    enclosures.read_loggers()
    return conditioning.conditioning()


@router.post("/enclosures/{enclosure_id}/simulation", dependencies=[right("test")], status_code=204)
def simulate_room(actor: SignedIn, enclosure_id: int, request: Behaviour) -> None:
    """Simulated enclosures only: how the room shall behave from now on."""
    enclosures.simulate_room(actor, enclosure_id, request.fault)


@router.post("/enclosures/{enclosure_id}/placements", dependencies=[right("condition")])
def start_conditioning(
    actor: SignedIn, enclosure_id: int, request: placement.PlacementRequest
) -> preparation_views.ConditioningView:
    """Start the conditioning of specimens; their clock runs from now."""
    return placement.place_specimens(actor, enclosure_id, request)


@router.post("/enclosures/removals", dependencies=[right("condition")])
def take_out_specimens(
    actor: SignedIn, request: placement.TakeOutRequest
) -> preparation_views.ConditioningView:
    """Take specimens out."""
    return placement.take_out(actor, request)


@router.post(
    "/specimens/{specimen_id}/weighings", dependencies=[right("condition")], status_code=201
)
def weigh_specimen(
    actor: SignedIn, specimen_id: int, request: placement.WeighingRequest
) -> preparation_views.ConditioningView:
    """Record the mass of a specimen during its conditioning."""
    return placement.weigh_specimen(actor, specimen_id, request)


@router.get("/clocks")
def show_clocks(actor: SignedIn) -> preparation_views.ClocksView:
    """Every running clock, with the server's time."""
    return clock_rail.clocks()


@router.get("/tests/{test_id}/preparation")
def show_preparation(actor: SignedIn, test_id: int) -> preparation.PreparationView:
    """How a test is prepared."""
    return preparation.preparation(test_id)


@router.put("/tests/{test_id}/preparation", dependencies=[right("condition")])
def prepare_test(
    actor: SignedIn, test_id: int, request: preparation.PreparationRequest
) -> preparation.PreparationView:
    """Set how a test is prepared."""
    return preparation.prepare_test(actor, test_id, request)


@router.get("/tests/{test_id}/measuring")
def show_measuring(actor: SignedIn, test_id: int) -> measuring.MeasuringView:
    """The specimens of a test with their sizes."""
    return measuring.measuring_view(test_id)


@router.put("/specimens/{specimen_id}/dimensions", dependencies=[right("test")])
def measure_specimen(
    actor: SignedIn, specimen_id: int, request: measuring.SizesRequest
) -> measuring.MeasuringView:
    """Keep the sizes of a specimen."""
    return measuring.measure(actor, specimen_id, request)


@router.post("/tests/{test_id}/grammage", dependencies=[right("test")])
def weigh_blanks(
    actor: SignedIn, test_id: int, request: measuring.GrammageRequest
) -> measuring.MeasuringView:
    """Grammage from the mass of blanks."""
    return measuring.weigh_blanks(actor, test_id, request)


@router.put("/tests/{test_id}/area-rule", dependencies=[right("set-limits")])
def choose_area_rule(
    actor: SignedIn, test_id: int, request: measuring.AreaRuleRequest
) -> measuring.MeasuringView:
    """Sections by their mean or by the smallest."""
    return measuring.choose_area_rule(actor, test_id, request)


@router.post("/gauges/{gauge_id}/read", dependencies=[right("test")])
def read_gauge(
    actor: SignedIn, gauge_id: int, request: measuring.ReadRequest
) -> measuring.GaugeReadingView:
    """What a gauge reads now."""
    return measuring.read_gauge(actor, gauge_id, request)


@router.post("/gauges/{gauge_id}/simulation", dependencies=[right("test")], status_code=204)
def simulate_gauge(actor: SignedIn, gauge_id: int, request: Behaviour) -> None:
    """Simulated gauges only: how it shall behave from now on."""
    measuring.simulate_gauge(actor, gauge_id, request.fault)
