"""What a process carries itself, straight to those who look."""

from __future__ import annotations

import numpy as np
import pytest

from endurant.work.use_cases.bench import feed
from endurant.work.use_cases.bench.feed import (
    Feed,
    arrived,
    close_feed,
    publish,
)


def samples(first: int, last: int) -> tuple[np.ndarray, np.ndarray]:
    numbers = np.arange(first, last, dtype=float)
    return numbers, 10 * numbers


def test_whoever_looks_gets_what_is_new_and_nothing_twice() -> None:
    publish(7, 0, *samples(0, 5))
    publish(7, 5, *samples(5, 9))
    here = arrived(7, 3)
    assert here is not None
    assert here[0].tolist() == [3, 4, 5, 6, 7, 8]
    assert here[1].tolist() == [30, 40, 50, 60, 70, 80]
    nothing_new = arrived(7, 9)
    assert nothing_new is not None
    assert nothing_new[0].size == 0
    close_feed(7)
    assert arrived(7, 0) is None


def test_what_the_device_sends_again_after_a_lost_line_is_not_doubled() -> None:
    run = Feed(0)
    run.add(0, *samples(0, 6))
    run.add(4, *samples(4, 8))
    run.add(2, *samples(2, 5))
    here = run.since(0)
    assert here is not None
    assert here[0].tolist() == list(range(8))


def test_after_a_gap_the_record_is_asked_for_what_was_before() -> None:
    run = Feed(0)
    run.add(0, *samples(0, 4))
    run.add(10, *samples(10, 12))
    assert run.since(3) is None
    here = run.since(10)
    assert here is not None
    assert here[0].tolist() == [10, 11]


def test_a_look_ahead_of_what_arrived_asks_the_record() -> None:
    run = Feed(0)
    run.add(0, *samples(0, 4))
    assert run.since(5) is None


def test_a_week_long_hold_is_not_kept_at_hand(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(feed, "MAX_KEPT", 10)
    run = Feed(0)
    for first in range(0, 40, 4):
        run.add(first, *samples(first, first + 4))
    assert run.count <= 10
    assert run.since(20) is None
    here = run.since(36)
    assert here is not None
    assert here[0].tolist() == [36, 37, 38, 39]
