"""The transaction that everything is done in: what lists show changes with the facts."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from threading import Event
from typing import TypeVar

from sqlalchemy.orm import Session

from endurant.core.refusals import Crossed
from endurant.store.audit import seal_the_rest
from endurant.store.engine import open_session
from endurant.store.seals import changed_rows

Answer = TypeVar("Answer")

MAX_TRIES = 5
TRY_AGAIN_AFTER_S = 0.05
_log = logging.getLogger(__name__)


def again(work: Callable[[], Answer], what: str) -> Answer:
    """Do work that no request waits for; where it crossed another transaction, do it again.

    It has transactions of its own. Raises Crossed after a few tries.
    """
    for tried in range(1, MAX_TRIES):
        try:
            return work()
        except Crossed:
            _log.info("%s crossed another transaction and is tried again (%d)", what, tried)
            Event().wait(TRY_AGAIN_AFTER_S * tried)
    return work()


@dataclass(frozen=True)
class CommitHook:
    """What brings a read model up to date before a transaction that changed facts commits.

    `at_once` writes what it shows; `later` marks it as out of date, for a watch to write.
    """

    at_once: Callable[[Session], None]
    later: Callable[[Session], None]


_hooks: list[CommitHook] = []


def register(hook: CommitHook) -> None:
    """Have every transaction of this process call a hook before it commits."""
    _hooks.append(hook)


_later: ContextVar[bool] = ContextVar("cards are made again at the end", default=False)


@contextmanager
def cards_at_the_end() -> Iterator[None]:
    """Within it no transaction writes cards: whoever fills a database makes them all at the end."""
    token = _later.set(True)
    try:
        yield
    finally:
        _later.reset(token)


@contextmanager
def transaction(*, cards_at_once: bool = True) -> Iterator[Session]:
    """A session that commits at the end or leaves nothing behind, as `committed` does."""
    with open_session() as session, committed(session, cards_at_once=cards_at_once):
        yield session


@contextmanager
def committed(session: Session, *, cards_at_once: bool = True) -> Iterator[None]:
    """Commit what is done within it, or leave nothing behind; the session can be read from after.

    The cards of every job that it changed a fact of are written in it too; without
    `cards_at_once` they are only marked as out of date, which holds its rows for less long, and
    whoever looks next, or a watch, writes them. Raises Unavailable when the database does not
    answer.
    """
    with session.begin():
        yield
        # The head of the chain is locked before any card, so that two of these never cross.
        seal_the_rest(session)
        if _later.get():
            return
        _bring_up_to_date(session, at_once=cards_at_once)


def _bring_up_to_date(session: Session, *, at_once: bool) -> None:
    if not _hooks and changed_rows(session):
        raise RuntimeError("no read models are registered: import endurant.work.read_models")
    for hook in _hooks:
        (hook.at_once if at_once else hook.later)(session)
