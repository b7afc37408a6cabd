"""Bars at several temperatures: the order of racks and pendulums, and when each rack goes in.

One chamber holds one temperature at a time. Pendulums are changed as seldom as can be; for each
the chamber goes one way, so that it settles the fewest degrees; bars at the temperature of the
room are struck while it settles.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

ROOM_C, ROOM_WITHIN_C = 23.0, 2.0
SETTLE_MIN = 20
"""What a chamber takes to a new temperature and to stand there."""
CHANGE_MIN = 10
"""What changing a pendulum takes, with its free swings."""
STRIKE_MIN = 1
"""What one bar takes."""


@dataclass(frozen=True)
class Rack:
    """Bars of one test at one temperature, for one pendulum; `soak_min` is the least soak."""

    test: str
    bars: int
    temperature_c: float
    pendulum_j: float | None
    soak_min: float

    @property
    def is_at_room(self) -> bool:
        """It needs no chamber."""
        return abs(self.temperature_c - ROOM_C) <= ROOM_WITHIN_C


@dataclass(frozen=True)
class Turn:
    """A rack in its turn: when it goes in and has served its soak, and when it is struck.

    `changes_pendulum` says that another one is fitted before it; a rack at room temperature goes
    nowhere.
    """

    rack: Rack
    goes_in: datetime | None
    soaked_at: datetime | None
    struck_from: datetime
    struck_until: datetime
    changes_pendulum: bool


def turns_of(
    racks: Sequence[Rack],
    now: datetime,
    fitted_j: float | None = None,
    chamber_c: float = ROOM_C,
) -> list[Turn]:
    """Return the racks in the order they are struck.

    The pendulum that is fitted comes first, then the others from light to heavy. The chamber
    begins at `chamber_c` and goes for each pendulum from its nearer end to the other.
    """
    turns: list[Turn] = []
    hand, chamber_free, at_c, fitted = now, now, chamber_c, fitted_j
    for pendulum in _pendulums(racks, fitted_j):
        own = [rack for rack in racks if rack.pendulum_j == pendulum]
        changed = fitted is not None and pendulum is not None and pendulum != fitted
        if changed:
            hand += timedelta(minutes=CHANGE_MIN)
        fitted = pendulum if pendulum is not None else fitted
        at_room = [rack for rack in own if rack.is_at_room]
        for group in _one_way([rack for rack in own if not rack.is_at_room], at_c):
            settled = chamber_free
            if group[0].temperature_c != at_c:
                settled += timedelta(minutes=SETTLE_MIN)
            at_c = group[0].temperature_c
            elapsed = [settled + timedelta(minutes=rack.soak_min) for rack in group]
            while at_room and hand + _striking(at_room[0]) <= max(elapsed):
                turn = _struck(at_room.pop(0), None, None, hand, changed)
                turns.append(turn)
                hand, changed = turn.struck_until, False
            for rack, ready in zip(group, elapsed, strict=True):
                turn = _struck(rack, settled, ready, max(hand, ready), changed)
                turns.append(turn)
                hand, changed = turn.struck_until, False
            chamber_free = hand
        for rack in at_room:
            turn = _struck(rack, None, None, hand, changed)
            turns.append(turn)
            hand, changed = turn.struck_until, False
    return turns


def _pendulums(racks: Sequence[Rack], fitted_j: float | None) -> list[float | None]:
    """The fitted one first, then from light to heavy, those that nobody chose yet last."""
    known = sorted({rack.pendulum_j for rack in racks if rack.pendulum_j is not None})
    order: list[float | None] = sorted(known, key=lambda joules: (joules != fitted_j, joules))
    return [*order, None] if any(rack.pendulum_j is None for rack in racks) else order


def _one_way(racks: Sequence[Rack], at_c: float) -> list[list[Rack]]:
    """Racks by temperature, from the end that is nearer to where the chamber stands."""
    temperatures = sorted({rack.temperature_c for rack in racks})
    if temperatures and abs(temperatures[-1] - at_c) < abs(temperatures[0] - at_c):
        temperatures.reverse()
    return [[rack for rack in racks if rack.temperature_c == each] for each in temperatures]


def _striking(rack: Rack) -> timedelta:
    return timedelta(minutes=STRIKE_MIN * rack.bars)


def _struck(
    rack: Rack,
    goes_in: datetime | None,
    soaked_at: datetime | None,
    start: datetime,
    changes_pendulum: bool,
) -> Turn:
    return Turn(rack, goes_in, soaked_at, start, start + _striking(rack), changes_pendulum)
