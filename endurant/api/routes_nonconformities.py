"""Nonconformities and complaints."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from endurant.api.route import Route
from endurant.api.session import SignedIn, right
from endurant.work.use_cases.nonconformities import register
from endurant.work.views import nonconformities

router = APIRouter(route_class=Route, tags=["nonconformities"])


@router.get("/nonconformities")
def list_nonconformities(
    actor: SignedIn, request: Annotated[nonconformities.NonconformitiesRequest, Query()]
) -> list[nonconformities.NonconformityLine]:
    """Open ones by due date, or closed ones."""
    return nonconformities.nonconformities(request)


@router.post("/nonconformities", dependencies=[right("receive")], status_code=201)
def open_nonconformity(
    actor: SignedIn, request: register.NonconformityRequest
) -> nonconformities.NonconformityPage:
    """Open one by hand."""
    return register.open_nonconformity(actor, request)


@router.get("/nonconformities/{nonconformity_id}")
def show_nonconformity(actor: SignedIn, nonconformity_id: int) -> nonconformities.NonconformityPage:
    """One of them with what it affects."""
    return nonconformities.nonconformity(actor, nonconformity_id)


@router.put("/nonconformities/{nonconformity_id}", dependencies=[right("receive")])
def change_nonconformity(
    actor: SignedIn, nonconformity_id: int, request: register.NonconformityChange
) -> nonconformities.NonconformityPage:
    """Cause, action, who and until when."""
    return register.change_nonconformity(actor, nonconformity_id, request)


@router.post(
    "/nonconformities/{nonconformity_id}/close", dependencies=[right("close-nonconformities")]
)
def close_nonconformity(
    actor: SignedIn, nonconformity_id: int, request: register.ClosingRequest
) -> nonconformities.NonconformityPage:
    """Close one, by another person."""
    return register.close_nonconformity(actor, nonconformity_id, request)
