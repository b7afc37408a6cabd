"""Looking at the record without changing it: what is worked out once is not worked out again."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import TypeVar

from sqlalchemy.orm import Session

from endurant.store import clock

T = TypeVar("T")
_SEEN = "seen while looking"


@contextmanager
def looking(session: Session) -> Iterator[None]:
    """Inside, nothing is changed through the session, and it stays the same moment."""
    outermost = _SEEN not in session.info
    session.info.setdefault(_SEEN, {})
    try:
        with clock.as_if(clock.now()):
            yield
    finally:
        if outermost:
            del session.info[_SEEN]


def once(session: Session | None, key: tuple[object, ...], make: Callable[[], T]) -> T:
    """What `make` gives; while somebody is looking, what it gave the first time."""
    seen: dict[tuple[object, ...], T] | None = None if session is None else session.info.get(_SEEN)
    if seen is None:
        return make()
    if key not in seen:
        seen[key] = make()
    return seen[key]
