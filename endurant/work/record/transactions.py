"""The transaction that everything is done in: what lists show changes with the facts."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from sqlalchemy.orm import Session

from endurant.store import engine
from endurant.store.audit import seal_the_rest


@contextmanager
def transaction(*, cards_at_once: bool = True) -> Iterator[Session]:
    """A session that commits at the end or leaves nothing behind.

    The cards of every job that it changed a fact of are written in it too; without
    `cards_at_once` they are only marked as out of date, which holds its rows for less long, and
    whoever looks next, or a watch, writes them. Raises Unavailable when the database does not
    answer.
    """
    # The cards show what all the work gives; they are imported when there is something to do.
    from endurant.work.jobs.cards import mark_changed, refresh_changed

    with engine.transaction() as session:
        yield session
        # The head of the chain is locked before any card, so that two of these never cross.
        seal_the_rest(session)
        if cards_at_once:
            refresh_changed(session)
        else:
            mark_changed(session)
