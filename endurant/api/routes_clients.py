"""Clients: their records, orders and jobs."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from endurant.api.route import Route
from endurant.api.session import SignedIn, right
from endurant.work.use_cases.clients import records
from endurant.work.views import clients

router = APIRouter(route_class=Route, tags=["clients"])

Name = Annotated[str, Query(min_length=1, max_length=120)]


@router.get("/clients")
def list_clients(
    actor: SignedIn, search: Annotated[str, Query(max_length=120)] = ""
) -> list[clients.ClientLine]:
    """Clients by name."""
    return clients.clients(search)


@router.get("/client")
def show_client(actor: SignedIn, name: Name) -> clients.ClientPage:
    """One client with its orders and jobs."""
    return clients.client(name)


@router.put("/client", dependencies=[right("receive")])
def keep_client(actor: SignedIn, request: records.ClientRequest) -> clients.ClientPage:
    """Keep what is known about a client."""
    return records.keep_client(actor, request)
