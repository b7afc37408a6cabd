"""The manager's figures."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Response

from endurant.api.files import workbook_response
from endurant.api.route import Route
from endurant.api.session import SignedIn, right
from endurant.work.views import figures

router = APIRouter(route_class=Route, tags=["figures"])


@router.get("/figures", dependencies=[right("see-figures")])
def show_figures(
    actor: SignedIn, request: Annotated[figures.FiguresRequest, Query()]
) -> figures.FiguresView:
    """Turnaround and lateness of twelve months, and the workload of one."""
    return figures.figures(actor, request)


@router.get("/figures.xlsx", response_class=Response, dependencies=[right("see-figures")])
def figures_as_workbook(
    actor: SignedIn, request: Annotated[figures.FiguresRequest, Query()]
) -> Response:
    """The same as a workbook, a sheet for each table."""
    view = figures.figures(actor, request)
    return workbook_response(figures.figures_tables(view), f"figures-{view.month}.xlsx")
