"""Running clocks: what waits for what, and what happens when it is missed."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Literal

ClockKind = Literal["at-least", "at-most", "exactly", "every"]


@dataclass(frozen=True)
class Clock:
    """One tape of the clock rail.

    `at-least` is served once `ends_at` has passed; `at-most` is missed then, and `exactly` is due.
    `every` is due then too, by the pace so far, and again and again after it.
    """

    kind: ClockKind
    text: str
    whose: str
    starts_at: datetime
    ends_at: datetime
    when_missed: str
    leads_to: str
