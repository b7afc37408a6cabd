"""Loggers and gauges over their line: what they remember, and what becomes of rubbish."""

from __future__ import annotations

import asyncio
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from threading import Event, Thread

import pytest

from endurant.core.simulate.room import SimulatedRoom
from endurant.devices.driver import DeviceRefused, LineLost
from endurant.devices.frame.standin import SimulatedFrame
from endurant.devices.gauge.driver import TcpGauge
from endurant.devices.gauge.standin import SimulatedGauge
from endurant.devices.logger.driver import TcpLogger
from endurant.devices.logger.standin import SimulatedLogger
from endurant.devices.standin import Device
from endurant.standins.host import Host

EPOCH = datetime(2026, 3, 2, tzinfo=UTC)


class Clock:
    """A clock that stands until it is moved on."""

    def __init__(self) -> None:
        self.now = EPOCH

    def __call__(self) -> float:
        return self.now.timestamp()


@pytest.fixture
def clock() -> Clock:
    return Clock()


@pytest.fixture
def address(clock: Clock) -> Iterator[tuple[str, int]]:
    """A frame with a logger and a caliper beside it, in a thread of its own."""
    devices: dict[str, Device] = {
        "TH-1": SimulatedLogger(SimulatedRoom(20, 65), 300, clock),
        "CAL-1": SimulatedGauge(0.01, 0.001, 1),
    }
    host = Host(SimulatedFrame("SF-1", 1), devices=devices)
    listening, port = Event(), 0
    loop = asyncio.new_event_loop()

    async def serve() -> None:
        nonlocal port
        server = await host.serve("127.0.0.1", 0)
        port = server.sockets[0].getsockname()[1]
        listening.set()
        async with server:
            await server.serve_forever()

    def run() -> None:
        try:
            loop.run_until_complete(serve())
        except asyncio.CancelledError:
            return

    thread = Thread(target=run)
    thread.start()
    assert listening.wait(10)
    yield "127.0.0.1", port
    loop.call_soon_threadsafe(lambda: [task.cancel() for task in asyncio.all_tasks(loop)])
    thread.join()
    loop.close()


def test_a_logger_is_asked_for_what_was_missed(clock: Clock, address: tuple[str, int]) -> None:
    logger = TcpLogger("the logger", address, "TH-1")
    clock.now = EPOCH + timedelta(hours=1)
    first = logger.readings_after(EPOCH)
    assert [specimen.at for specimen in first] == [
        EPOCH + timedelta(minutes=5 * n) for n in range(1, 13)
    ]
    clock.now += timedelta(minutes=11)
    more = logger.readings_after(first[-1].at)
    assert len(more) == 2
    assert more[0].humidity_percent is not None
    assert logger.readings_after(more[-1].at) == []


def test_a_room_that_is_warmed_reads_warm_from_then_on(
    clock: Clock, address: tuple[str, int]
) -> None:
    logger = TcpLogger("the logger", address, "TH-1")
    logger.simulate("warm")
    clock.now += timedelta(minutes=10)
    logger.simulate("none")
    clock.now += timedelta(minutes=10)
    warm = [
        reading.temperature_c > 22
        for reading in logger.readings_after(EPOCH - timedelta(minutes=9))
    ]
    assert warm == [False, True, True, False, False, False]


def test_rubbish_and_silence_are_a_lost_line(address: tuple[str, int]) -> None:
    logger = TcpLogger("the logger", address, "TH-1")
    logger.simulate("rubbish")
    with pytest.raises(LineLost, match="device.unreadable"):
        logger.readings_after(EPOCH)
    with pytest.raises(DeviceRefused, match="device.refused"):
        logger.simulate("hail")
    with pytest.raises(DeviceRefused, match="device.refused"):
        TcpLogger("another", address, "TH-9").readings_after(EPOCH)


def test_a_caliper_reads_or_says_why_not(address: tuple[str, int]) -> None:
    caliper = TcpGauge("the caliper", address, "CAL-1")
    assert caliper.read(10.0) == pytest.approx(10, rel=0.01)
    caliper.simulate("inches")
    assert caliper.read(25.4) == pytest.approx(1, rel=0.02)
    caliper.simulate("rubbish")
    with pytest.raises(LineLost, match="device.unreadable"):
        caliper.read(10.0)


def test_a_device_that_is_away_is_a_lost_line() -> None:
    with pytest.raises(LineLost, match="device.line-lost"):
        TcpGauge("the caliper", ("127.0.0.1", 1), "CAL-1").read(1.0)
