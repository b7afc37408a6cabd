"""The time at which things happen. The demo and tests can act as if it were another moment."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import UTC, datetime

_as_if: ContextVar[datetime | None] = ContextVar("as_if", default=None)


def now() -> datetime:
    """The moment it is, with its zone."""
    return _as_if.get() or datetime.now(UTC)


@contextmanager
def as_if(moment: datetime) -> Iterator[None]:
    """Everything done inside happens at `moment`."""
    token = _as_if.set(moment)
    try:
        yield
    finally:
        _as_if.reset(token)
