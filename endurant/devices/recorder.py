"""A device that records and speaks the line protocol over TCP, such as the simulated ones."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from endurant.core.bounds import range_of
from endurant.devices.driver import (
    Batch,
    DeviceEvent,
    Ended,
    Follows,
    LineLost,
    Order,
)
from endurant.devices.line import GarbledMessage
from endurant.devices.station import LineStation, plain

MAX_BATCH = 500
LONGEST_KIND, LONGEST_REASON = 40, 160
"""Letters of what a device says that are kept."""
MAY_BE_MISSING = frozenset({"strain"})
"""Channels that read nothing once their sensor is off: NaN."""


class LineRecorder(LineStation):
    """One recorder by its address, and by its serial number where several answer there."""

    def __init__(self, name: str, address: tuple[str, int], device: str | None = None) -> None:
        super().__init__(name, address, device)
        self._channels: tuple[str, ...] = ()

    def begin(self, order: Order) -> tuple[str, ...]:
        """Start; asking twice for the same test starts once."""
        facts = {
            "test": order.device_run,
            "specimen": order.specimen,
            "method": order.method,
        } | plain(order.setup)
        answer = self.ask(self.message("RUN", facts))
        try:
            self._channels = tuple(answer.text("channels").split(","))
        except GarbledMessage as rubbish:
            raise LineLost("device.unreadable", device=self.name, data=rubbish) from rubbish
        return self._channels

    def stop(self, device_run: str) -> None:
        """Stop; the samples so far stay."""
        self.ask(self.message("STOP", {"test": device_run}))

    def follow(
        self, device_run: str, first: int
    ) -> Iterator[Follows | Batch | DeviceEvent | Ended]:
        """Samples from number `first` on, then live until the end."""
        expected = first
        channels: tuple[str, ...] = ()
        gathered: list[NDArray[np.float64]] = []
        with self.line() as lines:
            lines.send(self.message("FOLLOW", {"test": device_run, "from": str(first)}))
            for message in lines.messages():
                if message.word == "ERR":
                    raise self.refusal(message)
                if message.word == "OK":
                    channels = tuple(message.text("channels").split(","))
                    yield Follows(channels)
                if message.word == "S":
                    if int(message.number("n")) != expected:
                        raise LineLost(
                            "device.samples-missing", device=self.name, expected=expected
                        )
                    rows = rows_of(message.text("v"), channels)
                    expected += rows.shape[0]
                    gathered.append(rows)
                count = sum(rows.shape[0] for rows in gathered)
                if gathered and (message.word != "S" or count >= MAX_BATCH):
                    yield Batch(expected - count, np.concatenate(gathered))
                    gathered = []
                elif message.word == "BEAT":
                    yield Batch(expected, np.empty((0, len(channels))))
                if message.word == "EVENT":
                    yield DeviceEvent(message.text("kind")[:LONGEST_KIND])
                if message.word == "END":
                    yield Ended(int(message.number("n")), message.text("reason")[:LONGEST_REASON])
                    return


def rows_of(text: str, channels: tuple[str, ...]) -> NDArray[np.float64]:
    """Samples `a,b,c;a,b,c` as a table, shape (n, channels); raises GarbledMessage."""
    try:
        table = np.array([[float(cell) for cell in row.split(",")] for row in text.split(";")])
    except ValueError as error:
        raise GarbledMessage("samples that are not numbers") from error
    if table.ndim != 2 or table.shape[1] != len(channels):
        raise GarbledMessage(f"samples that are not {len(channels)} numbers each")
    for place, channel in enumerate(channels):
        column = table[:, place]
        missing = np.isnan(column) if channel in MAY_BE_MISSING else np.zeros_like(column, bool)
        if not (np.isfinite(column) | missing).all():
            raise GarbledMessage(f"{channel} is not a finite number")
        upper = range_of(channel).upper
        if (np.abs(column[~missing]) > upper).any():
            raise GarbledMessage(f"{channel} is beyond {upper:g}, outside any bench reading")
    return table
