"""The time at which things happen. The demo and tests can act as if it were another moment."""

from __future__ import annotations

import time
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


def steady_s() -> float:
    """Seconds that go on whatever the clock of the computer is set to, also while it sleeps."""
    return time.clock_gettime(time.CLOCK_BOOTTIME)
