"""The link that carries a live run from a device into the record.

It asks for what it missed after a lost line, so that a run ends with everything in it.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from endurant.devices.driver import (
    Batch,
    DeviceEvent,
    DeviceRefused,
    Ended,
    Follows,
    LineLost,
    Order,
    Recorder,
    TestUnknown,
)

STORE_EVERY_S = 0.5
TRY_AGAIN_AFTER_S = 0.4
STOPS_WITHIN_S = 5.0
"""How long a device that was told to stop may go on before its run is closed without it."""
MAX_SAMPLES = 5_000_000
"""Ten hours at 140 a second."""
_log = logging.getLogger(__name__)


class RunOver(Exception):
    """The record says that the run is no longer ours to carry: closed, or another has it."""


class RunRecord(Protocol):
    """Where a link stores what it carries. Each call may raise RunOver."""

    def stored(self) -> int:
        """How many samples are stored already."""

    def channels(self) -> tuple[str, ...]:
        """The channels that were noted as the run began."""

    def began(self, channels: tuple[str, ...]) -> None:
        """Note which channels the device records."""

    def notified(self, event: DeviceEvent) -> None:
        """Note what the device tells of the test."""

    def arrived(self, batch: Batch) -> None:
        """Samples came in: show them; they are stored a moment later."""

    def store(self, first: int, samples: NDArray[np.float64]) -> bool:
        """Store samples, shape (n, channels): the line is up. True when someone asked to stop."""

    def line_lost(self, reason: str) -> bool:
        """Note that the line is lost; True when someone asked to stop the run."""

    def ended(self, reason: str) -> None:
        """Close the run with everything that is stored."""


def carry(
    driver: Recorder,
    order: Order,
    run: RunRecord,
    pause: Callable[[float], object] = time.sleep,
) -> None:
    """Start the run, or take up one that was started, and carry it to its end.

    Returns when the run is closed; a device that is away is asked again until it answers
    or somebody closes the run by hand.
    """
    link = _Link(driver, order, run)
    try:
        while not link.finished:
            try:
                link.take_up()
            except TestUnknown:
                link.lost_test()
            except DeviceRefused as refusal:
                run.ended(refusal.sentence)
                return
            except LineLost as lost:
                link.flush()
                link.stop_requested = run.line_lost(lost.sentence) or link.stop_requested
                pause(TRY_AGAIN_AFTER_S)
    except RunOver:
        return
    except Exception as error:
        _log.exception("run %s ended by what was not foreseen", order.device_run)
        run.ended(f"the data of the device could not be read ({type(error).__name__})")


class _Link:
    def __init__(self, driver: Recorder, order: Order, run: RunRecord) -> None:
        self.driver = driver
        self.order = order
        self.run = run
        self.finished = False
        self.stop_requested = False
        self.stop_sent_at: float | None = None
        self.has_requested_rest = False
        self.count = 0
        self.waiting: list[Batch] = []
        self.stored_at = time.monotonic()

    def take_up(self) -> None:
        """Begin unless it was begun, then follow to the end or to a lost line."""
        self.count = 0
        first = self.run.stored()
        if first == 0:
            self.run.began(self.driver.begin(self.order))
        begun = self.run.channels()
        for sent in self.driver.follow(self.order.device_run, first):
            if isinstance(sent, Follows):
                if sent.channels != begun:
                    self.end(
                        f"the device sends {', '.join(sent.channels)[:60]} now, and sent "
                        f"{', '.join(begun)[:60]} before: these samples are not stored"
                    )
                    return
                continue
            if isinstance(sent, Ended):
                self.flush()
                self.ended(sent)
                return
            if isinstance(sent, DeviceEvent):
                self.flush()
                self.run.notified(sent)
                continue
            if len(sent.samples):
                self.waiting.append(sent)
                self.count += len(sent.samples)
                self.run.arrived(sent)
            if time.monotonic() - self.stored_at >= STORE_EVERY_S:
                self.flush(sent)
            if self.too_long(first + self.count):
                return

    def too_long(self, count: int) -> bool:
        """Stop where that is wanted; true once the run was ended because the device goes on."""
        if count > MAX_SAMPLES:
            self.stop_quietly()
            self.end(f"the device sent more than {MAX_SAMPLES} samples and was stopped")
            return True
        if not self.stop_requested:
            return False
        if self.stop_sent_at is None:
            self.driver.stop(self.order.device_run)
            self.stop_sent_at = time.monotonic()
        elif time.monotonic() - self.stop_sent_at > STOPS_WITHIN_S:
            self.end("stopped by the operator, but the device did not stop: stop it at the device")
            return True
        return False

    def stop_quietly(self) -> None:
        """Tell the device to stop, whatever it answers."""
        try:
            self.driver.stop(self.order.device_run)
        except (LineLost, DeviceRefused):
            _log.info("run %s: the device did not take the stop", self.order.device_run)

    def ended(self, sent: Ended) -> None:
        """Close the run; what the device counted more than came is asked for once more."""
        stored = self.run.stored()
        if sent.samples > stored and not self.has_requested_rest:
            self.has_requested_rest = True
            return
        reason = sent.reason
        if sent.samples != stored:
            reason = f"{reason}; the device counted {sent.samples} samples, {stored} came"
        self.end(reason)

    def end(self, reason: str) -> None:
        """Close the run with what is stored."""
        self.flush()
        self.run.ended(reason)
        self.finished = True

    def flush(self, alive: Batch | None = None) -> None:
        """Store what waits. A sign of life alone is stored too: a pause keeps its lease by it."""
        waiting = self.waiting or ([alive] if alive is not None else [])
        if waiting:
            samples = np.concatenate([batch.samples for batch in waiting])
            self.stop_requested = self.run.store(waiting[0].first, samples) or self.stop_requested
            self.waiting = []
            self.stored_at = time.monotonic()

    def lost_test(self) -> None:
        """The device came back without the test: what is stored is all there will be."""
        self.end("the device lost power and no longer holds this test")
