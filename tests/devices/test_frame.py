"""The simulated frame through its driver, and the link against a frame that misbehaves."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pytest
from numpy.typing import NDArray

from endurant.core.bench.status import Status
from endurant.core.simulate.tear import sample_tear, specimen_from_label
from endurant.devices.driver import (
    Batch,
    DeviceEvent,
    DeviceRefused,
    Ended,
    Follows,
    LineLost,
    Order,
    Sent,
    TestUnknown,
)
from endurant.devices.frame.driver import Frame
from endurant.devices.line import GarbledMessage
from endurant.devices.link import RunOver, carry
from endurant.devices.recorder import rows_of
from tests.conftest import StandIn, free_port

ORDER = Order("run-1", "J-1-1-W1", "iso-13937-2", {"speed_mm_min": 100, "end_mm": 30})


@pytest.fixture
def driver(frame: StandIn) -> Frame:
    return Frame("Frame 1", ("127.0.0.1", frame.port))


def test_the_frame_reports_what_it_was_told(driver: Frame) -> None:
    facts = driver.do("prepare", gauge_mm=100, speed_mm_min=100).facts
    assert (facts["gauge_mm"], facts["speed_mm_min"], facts["zeroed"]) == (100, 100, False)
    assert driver.status().number("force_n") > 0
    zeroed = driver.do("zero")
    assert (zeroed.number("force_n"), zeroed.holds("zeroed")) == (0, True)


@pytest.mark.parametrize(
    ("gauge", "speed", "wording"),
    [(0.5, 100, "device.refused"), (100, 6000, "device.refused")],
)
def test_the_frame_refuses_what_it_cannot_do(
    driver: Frame, gauge: float, speed: float, wording: str
) -> None:
    with pytest.raises(DeviceRefused, match=wording):
        driver.do("prepare", gauge_mm=gauge, speed_mm_min=speed)


def test_samples_are_numbered_and_can_be_asked_for_again(driver: Frame) -> None:
    assert driver.begin(ORDER) == ("time_s", "extension_mm", "force_n")
    whole = gathered(driver, 0)
    driver.begin(ORDER)
    assert np.array_equal(gathered(driver, 700), whole[700:])
    expected = sample_tear(specimen_from_label("J-1-1-W1"), 30)
    assert whole[:, 2].tolist() == expected["force_n"]
    with pytest.raises(TestUnknown):
        next(driver.follow("another", 0))


def gathered(driver: Frame, first: int) -> NDArray[np.float64]:
    batches = []
    for sent in driver.follow(ORDER.device_run, first):
        if isinstance(sent, Ended):
            assert sent.reason == "end-of-travel"
            break
        if isinstance(sent, Follows):
            continue
        assert isinstance(sent, Batch)
        batches.append(sent.samples)
    return np.concatenate(batches)


def test_nobody_at_the_other_end_is_a_lost_line() -> None:
    with pytest.raises(LineLost, match="device.line-lost"):
        Frame("Frame 9", ("127.0.0.1", free_port())).status()


class Flaky:
    """A frame whose line breaks after every hundred samples, now and then for longer."""

    def __init__(self, samples: int) -> None:
        self.table = np.arange(samples * 3, dtype=float).reshape(samples, 3)
        self.begun = 0
        self.calls = 0
        self.stopped = False

    def begin(self, order: Order) -> tuple[str, ...]:
        self.begun += 1
        return ("time_s", "extension_mm", "force_n")

    def follow(self, device_run: str, first: int) -> Iterator[Sent]:
        self.calls += 1
        if self.calls % 3 == 0:
            raise LineLost("device.line-lost", device="Frame 9")
        if first == 0:
            yield DeviceEvent("paused")
        for start in range(first, min(first + 100, len(self.table)), 10):
            yield Batch(start, self.table[start : start + 10])
        if first + 100 < len(self.table):
            raise LineLost("device.line-lost", device="Frame 9")
        yield Ended(len(self.table), "end-of-travel")

    def stop(self, device_run: str) -> None:
        self.stopped = True

    def status(self) -> Status:
        raise LineLost("device.line-lost", device="Frame 9")

    def do(self, act: str, **setup: float | str) -> Status:
        raise LineLost("device.line-lost", device="Frame 9")

    def simulate(self, fault: str) -> None:
        raise LineLost("device.line-lost", device="Frame 9")


class Kept:
    """A record in memory."""

    def __init__(self, *, closed_after: int | None = None, stop_after: int | None = None) -> None:
        self.samples: list[list[float]] = []
        self.noted: tuple[str, ...] = ()
        self.events: list[str] = []
        self.lost = 0
        self.shown = 0
        self.reason = ""
        self.closed_after = closed_after
        self.stop_after = stop_after

    def stored(self) -> int:
        return len(self.samples)

    def channels(self) -> tuple[str, ...]:
        return self.noted

    def began(self, channels: tuple[str, ...]) -> None:
        self.noted = channels

    def notified(self, event: DeviceEvent) -> None:
        self.events.append(event.kind)

    def arrived(self, batch: Batch) -> None:
        self.shown += len(batch.samples)

    def store(self, first: int, samples: NDArray[np.float64]) -> bool:
        assert first == len(self.samples)
        if self.closed_after is not None and len(self.samples) >= self.closed_after:
            raise RunOver
        self.samples += samples.tolist()
        return self.stop_after is not None and len(self.samples) >= self.stop_after

    def line_lost(self, wording: str) -> bool:
        self.lost += 1
        return False

    def ended(self, reason: str) -> None:
        self.reason = reason


def test_the_link_gets_every_sample_over_a_bad_line() -> None:
    frame, kept = Flaky(950), Kept()
    carry(frame, ORDER, kept, pause=lambda _: None)
    assert kept.samples == frame.table.tolist()
    assert kept.shown >= len(kept.samples)
    assert kept.lost > 9
    assert kept.reason == "end-of-travel"
    assert frame.begun == 1
    assert kept.noted == ("time_s", "extension_mm", "force_n")
    assert kept.events == ["paused"]


def test_the_link_lets_go_when_the_run_is_no_longer_its_own() -> None:
    frame, kept = Flaky(950), Kept(closed_after=300)
    carry(frame, ORDER, kept, pause=lambda _: None)
    assert len(kept.samples) < 950
    assert kept.reason == ""


def test_a_wish_to_stop_reaches_the_frame_once_the_line_is_back() -> None:
    frame, kept = Flaky(950), Kept(stop_after=200)
    carry(frame, ORDER, kept, pause=lambda _: None)
    assert frame.stopped


class Liar(Flaky):
    """A frame that does one thing wrong."""

    def __init__(self, wrong: str) -> None:
        super().__init__(150)
        self.wrong = wrong
        self.stops = 0

    def follow(self, device_run: str, first: int) -> Iterator[Sent]:
        self.calls += 1
        channels = self.begin(ORDER)
        if self.wrong == "swaps" and first:
            channels = (channels[0], channels[2], channels[1])
        yield Follows(channels)
        if self.wrong == "breaks" and first:
            raise ZeroDivisionError
        upto = 100 if self.calls == 1 else 150
        for start in range(first, upto, 10):
            yield Batch(start, self.table[start : start + 10])
        if self.wrong in ("swaps", "breaks"):
            raise LineLost("device.line-lost", device="Frame 9")
        while self.wrong in ("floods", "ignores"):
            yield Batch(upto, np.empty((0, 3)))
            yield Batch(upto, self.table[:10])
            upto += 10
        yield Ended(200 if self.wrong == "overcounts" else 150, "broke")

    def stop(self, device_run: str) -> None:
        self.stops += 1


@pytest.mark.parametrize(
    ("wrong", "stored", "wording"),
    [
        ("swaps", 100, "sends time_s, force_n, extension_mm now, and sent time_s, extension_mm"),
        ("breaks", 100, "could not be read (ZeroDivisionError)"),
        ("drops", 150, "broke"),
        ("overcounts", 150, "broke; the device counted 200 samples, 150 came"),
        ("floods", None, "sent more than 300 samples"),
        ("ignores", None, "the device did not stop: stop it at the device"),
    ],
)
def test_a_lying_device_ends_its_run_with_a_sentence(
    wrong: str, stored: int | None, wording: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("endurant.devices.link.MAX_SAMPLES", 300 if wrong == "floods" else 10**6)
    monkeypatch.setattr("endurant.devices.link.STOPS_WITHIN_S", -1.0)
    monkeypatch.setattr("endurant.devices.link.STORE_EVERY_S", 0.0)
    frame, kept = Liar(wrong), Kept(stop_after=50 if wrong == "ignores" else None)
    carry(frame, ORDER, kept, pause=lambda _: None)
    assert wording in kept.reason
    assert stored is None or kept.samples == frame.table[:stored].tolist()
    assert frame.stops == (wrong in ("floods", "ignores"))


def test_a_number_that_no_bench_reads_is_rubbish() -> None:
    channels = ("time_s", "extension_mm", "force_n")
    assert rows_of("0,0,1;1,2,3", channels).shape == (2, 3)
    with pytest.raises(GarbledMessage, match="force_n is beyond"):
        rows_of("0,0,1e308", channels)
    with pytest.raises(GarbledMessage, match="not a finite number"):
        rows_of("0,0,nan", channels)
