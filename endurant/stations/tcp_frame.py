"""A frame that speaks the line protocol over TCP, such as the simulated one."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from endurant.stations.driver import (
    Batch,
    Ended,
    FrameStatus,
    LineLost,
    RunOrder,
)
from endurant.stations.line import Message, Rubbish
from endurant.stations.tcp_device import TcpDevice

BATCH_AT_MOST = 500


class TcpFrame(TcpDevice):
    """One frame by its address."""

    def status(self) -> FrameStatus:
        """What it reports of itself."""
        return self._status(Message("STATUS"))

    def prepare(self, gauge_length_mm: float, speed_mm_min: float) -> FrameStatus:
        """Bring the jaws to the gauge length and set the speed."""
        return self._status(
            Message(
                "PREPARE",
                {"gauge_mm": f"{gauge_length_mm:g}", "speed_mm_min": f"{speed_mm_min:g}"},
            )
        )

    def zero(self) -> FrameStatus:
        """Zero force and extension."""
        return self._status(Message("ZERO"))

    def begin(self, order: RunOrder) -> None:
        """Start; asking twice for the same test starts once."""
        self.ask(
            Message(
                "RUN",
                {
                    "test": order.device_run,
                    "specimen": order.specimen_code,
                    "speed_mm_min": f"{order.speed_mm_min:g}",
                    "end_mm": f"{order.end_mm:g}",
                },
            )
        )

    def stop(self, device_run: str) -> None:
        """Stop the crosshead; the samples so far stay."""
        self.ask(Message("STOP", {"test": device_run}))

    def pretend(self, fault: str) -> None:
        """Stand-ins only: how the next specimen shall behave."""
        self.ask(Message("PRETEND", {"fault": fault}))

    def follow(self, device_run: str, first: int) -> Iterator[Batch | Ended]:
        """Samples from number `first` on, then live until the end."""
        expected = first
        gathered: list[tuple[float, float, float]] = []
        with self.line() as lines:
            lines.send(Message("FOLLOW", {"test": device_run, "from": str(first)}))
            for message in lines.messages():
                if message.word == "ERR":
                    raise self.refusal(message)
                if message.word == "END":
                    if gathered:
                        yield Batch(expected - len(gathered), np.asarray(gathered))
                    yield Ended(int(message.number("n")), message.text("reason"))
                    return
                if message.word == "S":
                    if int(message.number("n")) != expected:
                        raise LineLost(f"{self.name} left out samples from number {expected} on")
                    expected += 1
                    gathered.append((message.number("t"), message.number("x"), message.number("f")))
                if gathered and (message.word == "BEAT" or len(gathered) >= BATCH_AT_MOST):
                    yield Batch(expected - len(gathered), np.asarray(gathered))
                    gathered = []

    def _status(self, ask: Message) -> FrameStatus:
        answer = self.ask(ask)
        try:
            return FrameStatus(
                serial=answer.text("serial"),
                state=answer.text("state"),
                force_n=answer.number("force_n"),
                extension_mm=answer.number("extension_mm"),
                gauge_length_mm=answer.number("gauge_mm"),
                speed_mm_min=answer.number("speed_mm_min"),
                zeroed=answer.text("zeroed") == "yes",
                capacity_n=answer.number("capacity_n"),
                pace=answer.number("pace"),
            )
        except Rubbish as rubbish:
            raise LineLost(f"{self.name} sends what cannot be read: {rubbish}") from rubbish
