"""Lots over time."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Response

from endurant.api.files import workbook_response
from endurant.api.route import Route
from endurant.api.session import SignedIn
from endurant.work.views import trends

router = APIRouter(route_class=Route, tags=["trends"])


@router.get("/trends/products")
def list_trend_products(actor: SignedIn) -> list[trends.TrendProduct]:
    """The products that have released lots, those with most first."""
    return trends.trend_products()


@router.get("/trends")
def show_trends(
    actor: SignedIn, request: Annotated[trends.TrendsRequest, Query()]
) -> trends.TrendsView:
    """A property of a product over its lots: limits, signals and capability."""
    return trends.trends(request)


@router.get("/trends.xlsx", response_class=Response)
def trends_as_workbook(
    actor: SignedIn, request: Annotated[trends.TrendsRequest, Query()]
) -> Response:
    """The lots of the chart as a workbook, and those that are left out."""
    view = trends.trends(request)
    return workbook_response(trends.trend_tables(view), f"trend-{view.product}.xlsx")
