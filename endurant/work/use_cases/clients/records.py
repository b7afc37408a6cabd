"""What the office keeps about a client: contacts, addresses, and how it gets its reports."""

from __future__ import annotations

from pydantic import Field
from sqlalchemy import select

from endurant.core.messages import Message
from endurant.core.refusals import Conflict
from endurant.store.audit import record
from endurant.store.clients import Client
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.views.clients import Address, ClientPage, Contact, Paper, client_page


class ClientRequest(RequestBody):
    """A client to keep; `seen` is the revision that it goes on from, 0 where there is none."""

    name: str = Field(min_length=1, max_length=120)
    contacts: list[Contact] = Field(default_factory=list, max_length=20)
    addresses: list[Address] = Field(default_factory=list, max_length=10)
    paper: Paper = "A4"
    collects_reports: bool = False
    remark: str = Field("", max_length=500)
    seen: int = Field(0, ge=0)


def keep_client(actor: Actor, request: ClientRequest) -> ClientPage:
    """Keep what is known about a client. Raises Conflict when someone was first."""
    actor.must("receive")
    with transaction() as session:
        row = session.scalar(select(Client).where(Client.name == request.name).with_for_update())
        latest = 0 if row is None else row.revision
        if latest != request.seen:
            raise Conflict("client.stale", name=request.name)
        given = request.model_dump(mode="json", exclude={"name", "seen"})
        before = None if row is None else {name: getattr(row, name) for name in given}
        if row is None:
            row = Client(name=request.name)
            session.add(row)
        for name, value in given.items():
            setattr(row, name, value)
        row.revision = latest + 1
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="keep-client",
            entity="client",
            entity_id=row.id,
            message=Message("audit.keep-client", {"actor": actor.name, "name": row.name}),
            before=before,
            after=given,
        )
        return client_page(session, row.name)
