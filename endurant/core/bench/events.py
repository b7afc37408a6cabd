"""What happens at the bench: numbered events, stored as they happen and never edited."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from endurant.core.refusals import Conflict


class OutOfOrder(Conflict):
    """It would hurt somebody, a device or a specimen now, or it is done already."""

    kind = "out-of-order"


@dataclass(frozen=True)
class Event:
    """One thing that happened to a specimen, by a person or told by a device.

    `kind` is the code of the action it came of, or what a device said (`paused`, `ended`). An
    event that `undoes` another one makes that other as if it had not happened.
    """

    number: int
    kind: str
    at: datetime
    by: str = ""
    facts: Mapping[str, Any] = field(default_factory=dict)
    undoes: int | None = None


def in_force(events: Sequence[Event]) -> list[Event]:
    """Return the events that were not taken back, in their order."""
    gone = {event.undoes for event in events if event.undoes is not None}
    return [event for event in events if event.undoes is None and event.number not in gone]
