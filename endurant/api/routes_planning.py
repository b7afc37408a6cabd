"""The day: the plan that was made, making it again, and what would be if."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request, Response

from endurant.api.files import attached, pdf_response
from endurant.api.long import BesideTheServer, in_process, plan_place
from endurant.api.problems import SignedOut
from endurant.api.route import Route
from endurant.api.session import SignedIn, right
from endurant.core.planning.plan import plan_json
from endurant.core.planning.rows import PlanAnswer
from endurant.reports.calendar import calendar_of
from endurant.reports.pdf import day_pdf
from endurant.store import clock
from endurant.work.use_cases.people import calendar_token
from endurant.work.use_cases.planning import pins, promising, what_if
from endurant.work.use_cases.planning import today as planning
from endurant.work.use_cases.planning.minutes import MinutesView, minutes_known
from endurant.work.use_cases.planning.printed import printed_day
from endurant.work.use_cases.planning.racks import OrderView, order_of_work

router = APIRouter(route_class=Route, tags=["planning"])

LONGEST_S = 90.0


@router.post("/plan")
async def answer_plan(actor: SignedIn, request: Request) -> PlanAnswer:
    """Answer a planning document."""
    data = await request.body()
    answer: PlanAnswer = await in_process(request, plan_json, data, LONGEST_S, whose=actor.id)
    return answer


@router.get("/schedule")
def show_today(actor: SignedIn) -> planning.TodayView:
    """The plan that was made last, and whether the laboratory has moved on since."""
    return planning.today(actor)


@router.post("/schedule", dependencies=[right("plan-schedule")])
async def plan_today(actor: SignedIn, request: Request) -> planning.TodayView:
    """Make the plan of the laboratory again, for everybody."""
    return await planning.plan_again(BesideTheServer(request, LONGEST_S, plan_place))


@router.post("/schedule/pin", dependencies=[right("test")])
def pin_step(actor: SignedIn, request: pins.PinRequest) -> planning.TodayView:
    """Pin a step to a moment, and to a person."""
    return pins.pin(actor, request)


@router.post("/schedule/unpin", dependencies=[right("test")])
def unpin_step(actor: SignedIn, request: pins.UnpinRequest) -> planning.TodayView:
    """Let the plan move a step again."""
    return pins.unpin(actor, request)


@router.post("/schedule/what-if")
async def think_of(
    actor: SignedIn, request: Request, body: what_if.WhatIfRequest
) -> what_if.WhatIfView:
    """What would move, and what would be late; nothing is changed."""
    return await what_if.explore(BesideTheServer(request, LONGEST_S, whose=actor.id), body)


@router.post("/schedule/promise")
async def promise(
    actor: SignedIn, request: Request, body: promising.PromiseRequest
) -> promising.PromiseView:
    """When tests that may be asked for can be through, by the plan as it stands."""
    return await promising.promise_for(BesideTheServer(request, LONGEST_S, whose=actor.id), body)


@router.get("/schedule/order-of-work")
def show_order(actor: SignedIn) -> OrderView:
    """The order of racks, pendulums and heats of the barrel."""
    return order_of_work()


@router.get("/schedule/day.pdf", response_class=Response)
async def print_day(
    actor: SignedIn, request: Request, name: Annotated[str | None, Query(max_length=80)] = None
) -> Response:
    """The day on paper, by a plan of the laboratory as it is: of one person, or of everybody."""
    solver = BesideTheServer(request, LONGEST_S, plan_place)
    await planning.plan_where_stale(actor, solver)
    return pdf_response(await solver.read(lambda: day_pdf(printed_day(name))), "day.pdf")


@router.get("/schedule/minutes")
def planned_minutes(actor: SignedIn) -> list[MinutesView]:
    """Minutes a specimen at the bench: what is planned with, beside what the record says."""
    return minutes_known()


@router.get("/calendar-address")
def show_calendar_address(actor: SignedIn) -> calendar_token.CalendarAddress:
    """Whether a calendar can subscribe to this person's plan."""
    return calendar_token.calendar_address(actor)


@router.post("/calendar-address", status_code=201)
def make_calendar_address(actor: SignedIn) -> calendar_token.CalendarAddress:
    """A new address; the one before it stops working."""
    return calendar_token.make_calendar_address(actor)


@router.delete("/calendar-address")
def revoke_calendar_address(actor: SignedIn) -> calendar_token.CalendarAddress:
    """Let the address stop working."""
    return calendar_token.revoke_calendar_address(actor)


@router.get("/calendar/{token}.ics", response_class=Response)
def subscribed_calendar(token: str) -> Response:
    """The last plan of the person whose secret address this is; no cookie goes with it."""
    name = calendar_token.person_of_calendar(token)
    if name is None:
        raise SignedOut("calendar.address-unknown")
    rows = planning.rows_of_person(name)
    return attached(calendar_of(name, rows, clock.now()), "text/calendar", "plan.ics")


@router.get("/schedule/calendar.ics", response_class=Response)
async def export_calendar(
    actor: SignedIn,
    request: Request,
    kind: Annotated[Literal["station", "enclosure", "person"] | None, Query()] = None,
    name: Annotated[str | None, Query(max_length=80)] = None,
) -> Response:
    """A plan of the laboratory as it is, as a calendar: of one person, one station, or all."""
    solver = BesideTheServer(request, LONGEST_S, plan_place)
    await planning.plan_where_stale(actor, solver)
    rows = await solver.read(lambda: planning.calendar_rows(kind, name))
    title = name or "the laboratory"
    return attached(calendar_of(title, rows, clock.now()), "text/calendar", "plan.ics")
