"""Racks of impact bars: few pendulum changes, one way of the chamber, soaks served."""

from __future__ import annotations

import itertools
import random
from datetime import UTC, datetime, timedelta

from endurant.core.planning.racks import CHANGE_MIN, SETTLE_MIN, Rack, turns_of

NOW = datetime(2026, 11, 30, 8, tzinfo=UTC)


def minutes(at: datetime | None) -> float | None:
    return None if at is None else (at - NOW) / timedelta(minutes=1)


def test_bars_at_room_temperature_are_struck_while_the_chamber_settles() -> None:
    racks = [
        Rack("cold", 10, -20.0, 5.5, 30),
        Rack("room", 10, 23.0, 5.5, 30),
        Rack("colder", 10, -40.0, 5.5, 30),
    ]
    turns = turns_of(racks, NOW)
    assert [turn.rack.test for turn in turns] == ["room", "cold", "colder"]
    assert [minutes(turn.goes_in) for turn in turns] == [None, SETTLE_MIN, 60 + SETTLE_MIN]
    assert [minutes(turn.soaked_at) for turn in turns] == [None, 50, 110]
    assert [minutes(turn.struck_from) for turn in turns] == [0, 50, 110]


def test_the_fitted_pendulum_comes_first_and_each_is_fitted_once() -> None:
    racks = [
        Rack("a", 5, -20.0, 11.0, 30),
        Rack("b", 5, -20.0, 2.75, 30),
        Rack("c", 5, 0.0, 11.0, 30),
        Rack("d", 5, 23.0, None, 30),
    ]
    turns = turns_of(racks, NOW, fitted_j=11.0, chamber_c=-20.0)
    assert [turn.rack.test for turn in turns] == ["a", "c", "b", "d"]
    assert [turn.changes_pendulum for turn in turns] == [False, False, True, False]
    assert minutes(turns[0].goes_in) == 0
    gap = turns[2].struck_from - turns[1].struck_until
    assert gap >= timedelta(minutes=CHANGE_MIN)


def test_no_soak_is_cut_short_and_no_hand_does_two_things() -> None:
    for seed in range(200):
        rng = random.Random(seed)
        racks = [
            Rack(
                str(number),
                rng.randint(1, 10),
                rng.choice([-40.0, -20.0, 0.0, 23.0, 60.0]),
                rng.choice([2.75, 5.5, None]),
                rng.choice([30, 60]),
            )
            for number in range(rng.randint(1, 9))
        ]
        turns = turns_of(racks, NOW, rng.choice([None, 2.75, 5.5]), rng.choice([23.0, -20.0]))
        assert sorted(turn.rack.test for turn in turns) == sorted(rack.test for rack in racks)
        for turn in turns:
            if turn.goes_in is not None and turn.soaked_at is not None:
                soak = timedelta(minutes=turn.rack.soak_min)
                assert turn.soaked_at - turn.goes_in == soak
                assert turn.struck_from >= turn.soaked_at
        for one, other in itertools.pairwise(turns):
            assert other.struck_from >= one.struck_until
        inside = [turn for turn in turns if turn.goes_in is not None]
        for one, other in itertools.pairwise(inside):
            if other.rack.temperature_c != one.rack.temperature_c:
                assert other.goes_in is not None
                assert other.goes_in >= one.struck_until + timedelta(minutes=SETTLE_MIN)
