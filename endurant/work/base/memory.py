"""What was computed already, kept by what it was computed from; the oldest goes first."""

from __future__ import annotations

from collections import OrderedDict
from threading import Lock
from typing import Any, Generic, TypeVar

Found = TypeVar("Found")


class Remembered(Generic[Found]):
    """At most so many things, shared by the threads of this process."""

    def __init__(self, upper: int) -> None:
        self._max = upper
        self._found: OrderedDict[tuple[Any, ...], Found] = OrderedDict()
        self._lock = Lock()

    def get(self, key: tuple[Any, ...]) -> Found | None:
        """What is kept under the key; None when nothing is."""
        with self._lock:
            if key in self._found:
                self._found.move_to_end(key)
            return self._found.get(key)

    def put(self, key: tuple[Any, ...], result: Found) -> None:
        """Keep it."""
        with self._lock:
            self._found[key] = result
            while len(self._found) > self._max:
                self._found.popitem(last=False)
