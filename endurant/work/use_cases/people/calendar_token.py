"""The secret address by which a calendar subscribes to one person's plan; made, and revoked."""

from __future__ import annotations

import hashlib
import secrets
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.messages import Message
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.calendar_tokens import CalendarToken
from endurant.work.base.actors import Actor
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View


class CalendarAddress(View):
    """Whether a person has an address; its `path` is shown once, when it is made."""

    made_at: datetime | None
    path: str | None = None


def calendar_address(actor: Actor) -> CalendarAddress:
    """Return whether this person has an address, without its secret."""
    with transaction() as session:
        row = session.get(CalendarToken, actor.id)
        return CalendarAddress(made_at=None if row is None else row.at)


def make_calendar_address(actor: Actor) -> CalendarAddress:
    """Return a new address; the one before it stops working."""
    token, now = secrets.token_urlsafe(32), clock.now()
    with transaction() as session:
        row = session.get(CalendarToken, actor.id, with_for_update=True)
        if row is None:
            row = CalendarToken(person_id=actor.id)
            session.add(row)
        row.token_hash, row.at = _hash(token), now
        _note(session, actor, "make-calendar-address")
    return CalendarAddress(made_at=now, path=f"/api/calendar/{token}.ics")


def revoke_calendar_address(actor: Actor) -> CalendarAddress:
    """Let the address of this person stop working."""
    with transaction() as session:
        row = session.get(CalendarToken, actor.id, with_for_update=True)
        if row is not None:
            session.delete(row)
            _note(session, actor, "revoke-calendar-address")
    return CalendarAddress(made_at=None)


def person_of_calendar(token: str) -> str | None:
    """Return the name of the active person whose address has this secret; None for nobody's."""
    with transaction() as session:
        row = session.scalar(select(CalendarToken).where(CalendarToken.token_hash == _hash(token)))
        return row.person.name if row is not None and row.person.active else None


def _note(session: Session, actor: Actor, action: str) -> None:
    session.flush()
    record(
        session,
        person_id=actor.id,
        action=action,
        entity="person",
        entity_id=actor.id,
        message=Message(f"audit.{action}", {"actor": actor.name}),
    )


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode("utf-8", "replace")).hexdigest()
