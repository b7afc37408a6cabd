"""What this process carries, straight to those who look: the record comes after, for everyone else.

A run that is carried here is shown as its samples arrive; one that another process carries, or
what came before, is read from the record.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from threading import Lock

import numpy as np

from endurant.core.trace import Samples

MAX_KEPT = 200_000
"""Samples of a run that are kept at hand; older ones are read from the record."""


@dataclass
class Feed:
    """The two drawn columns of one run, from sample number `first` on."""

    first: int
    x: list[Samples] = field(default_factory=list)
    y: list[Samples] = field(default_factory=list)
    count: int = 0

    def add(self, first: int, x: Samples, y: Samples) -> None:
        """Take what came; what is here already is left out, after a gap it begins anew."""
        end = self.first + self.count
        if first > end or not self.count:
            self.first, self.x, self.y, self.count = first, [], [], 0
            end = first
        fresh = slice(max(end - first, 0), None)
        if x[fresh].size:
            self.x.append(x[fresh])
            self.y.append(y[fresh])
            self.count += x[fresh].size
        while self.count > MAX_KEPT and len(self.x) > 1:
            gone = self.x.pop(0).size
            self.y.pop(0)
            self.first += gone
            self.count -= gone

    def since(self, first: int) -> tuple[Samples, Samples] | None:
        """Everything from a sample on; None where that is older than what is at hand."""
        if first < self.first or first > self.first + self.count:
            return None
        back, parts = self.first + self.count - first, 0
        for part in reversed(self.x):
            if back <= 0:
                break
            parts += 1
            back -= part.size
        if not parts:
            return np.empty(0), np.empty(0)
        skip = max(-back, 0)
        return np.concatenate(self.x[-parts:])[skip:], np.concatenate(self.y[-parts:])[skip:]


_feeds: dict[int, Feed] = {}
_lock = Lock()


def publish(run_id: int, first: int, x: Samples, y: Samples) -> None:
    """Samples of a run that just arrived, numbered from `first` on."""
    with _lock:
        _feeds.setdefault(run_id, Feed(first)).add(first, x, y)


def close_feed(run_id: int) -> None:
    """The run is over, or carried elsewhere: what there is to know of it is in the record."""
    with _lock:
        _feeds.pop(run_id, None)


def arrived(run_id: int, first: int) -> tuple[Samples, Samples] | None:
    """What has arrived here from sample `first` on; None where the record has to be asked."""
    with _lock:
        feed = _feeds.get(run_id)
        return None if feed is None else feed.since(first)
