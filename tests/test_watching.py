"""What is looked after again and again goes on whatever happens."""

from __future__ import annotations

import logging
from threading import Event, Thread, current_thread

import pytest

from endurant.core.refusals import Unavailable
from endurant.work.base.watches import Watch, WatchThread

PATIENCE_S = 20.0


def test_a_watch_acts_again_and_again_until_it_is_stopped() -> None:
    acted, thrice = [0], Event()

    def act() -> None:
        acted[0] += 1
        if acted[0] == 3:
            thrice.set()

    watch = Watch("counting", 0.001, act)
    watch.start()
    assert thrice.wait(PATIENCE_S)
    watch.stop()
    after = acted[0]
    assert not Event().wait(0.01)
    assert acted[0] == after


@pytest.mark.parametrize(
    ("failure", "level"),
    [
        (Unavailable("device.line-lost", device="the logger"), logging.INFO),
        (ValueError("odd"), logging.ERROR),
    ],
)
def test_a_failure_is_logged_and_tried_again(
    failure: Exception, level: int, caplog: pytest.LogCaptureFixture
) -> None:
    again, tries = Event(), [0]

    def act() -> None:
        tries[0] += 1
        if tries[0] == 1:
            raise failure
        again.set()

    caplog.set_level(logging.INFO)
    watch = Watch("failing", 0.001, act)
    watch.start()
    assert again.wait(PATIENCE_S)
    watch.stop()
    assert [record.levelno for record in caplog.records if "failing" in record.message] == [level]


def test_a_watch_that_is_stopped_before_its_time_never_acts() -> None:
    acted = Event()
    watch = Watch("early", 3600, acted.set)
    watch.start()
    watch.stop()
    assert not acted.is_set()


def test_what_a_watch_does_is_told_from_what_a_request_does() -> None:
    threads, acted = list[Thread](), Event()

    def act() -> None:
        threads.append(current_thread())
        acted.set()

    watch = Watch("told apart", 0.001, act)
    watch.start()
    assert acted.wait(PATIENCE_S)
    watch.stop()
    assert isinstance(threads[0], WatchThread)
    assert not isinstance(current_thread(), WatchThread)
