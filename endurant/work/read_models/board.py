"""Specimens in conditioning and waiting, computed once for all pages while nothing changes.

The board changes with any card, any reading and any enclosure, and with time; what it says of
minutes may be `KEPT_S` old, states are never behind.
"""

from __future__ import annotations

from collections.abc import Callable
from threading import Lock
from typing import TypeVar

from sqlalchemy import case, func, select
from sqlalchemy.orm import Session

from endurant.store import clock
from endurant.store.tables import AuditEntry, BenchEvent, Enclosure, EnclosureReading, JobCard
from endurant.work.base.memory import Remembered
from endurant.work.base.transactions import transaction
from endurant.work.facts.conditioning_tallies import lab_policy
from endurant.work.read_models.job_cards import refresh_turned

T = TypeVar("T")
KEPT_S = 20
_boards: Remembered[object] = Remembered(8)
_making = Lock()


def board_key(session: Session) -> tuple[object, ...]:
    """What the board stands on, read in a few short queries.

    A card that is due and locked by whoever writes it is no reason for an older board: cards that
    are due count, and so does the last event at any bench, whose clocks the rail shows.
    """
    log_brought_in = select(func.max(AuditEntry.id)).where(
        AuditEntry.entity == "enclosure", AuditEntry.entity_id.in_(select(Enclosure.id))
    )
    last_event = select(func.max(BenchEvent.id))
    is_due = case((JobCard.turns_at <= clock.now(), 1), else_=0)
    cards = session.execute(
        select(
            func.count(),
            func.max(JobCard.changed_at),
            log_brought_in.scalar_subquery(),
            func.sum(is_due),
            last_event.scalar_subquery(),
        )
    ).one()
    readings = session.execute(
        select(EnclosureReading.enclosure_id, func.max(EnclosureReading.at)).group_by(
            EnclosureReading.enclosure_id
        )
    )
    table = Enclosure.__table__
    rooms = session.execute(select(table).order_by(table.c.id))
    return (
        *tuple(cards),
        repr([tuple(row) for row in readings]),
        repr([tuple(row) for row in rooms]),
        lab_policy(session),
        int(clock.now().timestamp() // KEPT_S),
    )


def current_board() -> tuple[object, ...]:
    """What the board stands on now, once the cards that time has turned are written."""
    with transaction() as session:
        refresh_turned(session, clock.now())
        return board_key(session)


def on_board(what: str, session: Session, make: Callable[[], T]) -> T:
    """What `make` gives for this board; made by one, while the others wait for it."""
    key = (what, *board_key(session))
    kept: T | None = _boards.get(key)  # type: ignore[assignment]
    if kept is not None:
        return kept
    with _making:
        kept = _boards.get(key)  # type: ignore[assignment]
        if kept is None:
            kept = make()
            _boards.put(key, kept)
    return kept
