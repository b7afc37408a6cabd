"""Sequences of moves: read, said again, sent, drawn, and run by a simulated frame."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from endurant.core.moves import (
    Move,
    each_of,
    from_word,
    path_of,
    read_moves,
    text_of,
    to_word,
)
from endurant.core.refusals import Invalid
from endurant.core.simulate.moved import Moved, moved

numbers = st.integers(0, 99_999).map(lambda n: n / 100)
speeds = st.integers(1, 100_000).map(lambda n: n / 100)
moves = st.one_of(
    st.builds(Move, st.just("to"), numbers, st.sampled_from(["mm", "N", "%"]), speeds),
    st.builds(Move, st.just("by"), numbers, st.sampled_from(["mm", "%"]), speeds),
    st.builds(lambda speed: Move("to", unit="break", speed_mm_min=speed), speeds),
    st.integers(1, 10_000).map(lambda seconds: Move("hold", seconds=float(seconds))),
    st.just(Move("zero")),
)


@given(st.lists(moves, min_size=1, max_size=20))
def test_moves_are_the_same_after_they_were_written_or_sent(given_moves: list[Move]) -> None:
    assert read_moves(text_of(given_moves)) == tuple(given_moves)
    word = to_word(given_moves)
    assert " " not in word
    assert from_word(word) == tuple(given_moves)


def test_a_technician_may_write_a_comma_and_the_unit_of_the_speed() -> None:
    two_speeds = read_moves("to 0,25 % at 1 mm/min; to break at 50")
    assert text_of(two_speeds) == "to 0.25 % at 1\nto break at 50"
    assert read_moves("hold 2 min")[0].seconds == 120


@pytest.mark.parametrize(
    ("text", "wording"),
    [
        ("to 20 mm", "moves.unknown"),
        ("zero\nto 5 mm at 0", "moves.speed"),
        ("to 5 mm at 60000", "moves.speed"),
        ("by break at 5", "moves.break-with-by"),
        ("by 20 N at 5", "moves.force-with-by"),
        ("cycle 5 x 0 mm to 20 N at 5", "moves.cycle-units"),
        ("cycle 5 x 20 mm to 0 mm at 5", "moves.cycle-order"),
        ("cycle 0 x 0 mm to 2 mm at 5", "moves.cycle-count"),
        ("hold 0 s", "moves.hold-time"),
        ("pause", "moves.unknown"),
        (" \n ; ", "moves.none"),
        ("zero\n" * 61, "moves.too-many"),
        ("zero\n" * 900, "moves.too-long"),
    ],
)
def test_what_is_no_move_is_refused_with_its_line(text: str, wording: str) -> None:
    with pytest.raises(Invalid) as refused:
        read_moves(text)
    assert refused.value.code == wording
    assert refused.value.field == "moves"


def test_the_path_is_drawn_as_far_as_it_is_known() -> None:
    path = path_of(read_moves("to 2 % at 60; hold 10 s; by 3 mm at 60; to break at 60"), 100)
    assert [(point.time_s, point.extension_mm) for point in path] == [
        (0, 0),
        (2, 2),
        (12, 2),
        (15, 5),
        (25, 15),
    ]
    assert [point.known for point in path] == [True, True, True, True, False]


def test_a_cycle_is_its_ways_there_and_back() -> None:
    ways = each_of(read_moves("cycle 2 x 1 mm to 4 mm at 60"))
    assert [way.value for way in ways] == [4, 1, 4, 1]


def run(path: Moved, go_on: int = 9) -> np.ndarray[Any, Any]:
    """All samples; whoever stands there lets it go on so many times."""
    rows: list[tuple[float, ...]] = []
    while len(rows) < 500_000:
        row = path.row(len(rows))
        if row is None:
            break
        if isinstance(row, str):
            if not go_on:
                break
            go_on -= 1
            path.go_on()
        else:
            rows.append(row)
    return np.array(rows)


def frame(method: str, text: str, **more: Any) -> Moved:
    guards = {"gauge_mm": 100.0, "end_mm": 400.0, "rate_hz": 20.0} | more
    return moved(method, "J-1-S1", read_moves(text), **guards)


def test_a_frame_goes_where_it_is_told_at_the_speed_it_is_told() -> None:
    rows = run(frame("hysteresis", "to 30 mm at 60; hold 5 s; to 10 mm at 120"))
    time_s, x = rows[:, 0], rows[:, 1]
    assert x.max() == pytest.approx(30)
    assert x[-1] == pytest.approx(10)
    assert time_s[-1] == pytest.approx(30 + 5 + 10, abs=0.2)
    assert float(np.interp(32, time_s, x)) == pytest.approx(30)


def test_what_is_held_relaxes_and_what_comes_back_gave_something_up() -> None:
    rows = run(frame("relaxation", "to 20 mm at 200; hold 100 s; to 0 mm at 200"))
    held = rows[(rows[:, 0] > 7) & (rows[:, 0] < 105)]
    assert held[-1, 2] < 0.9 * held[0, 2]
    assert all(later <= earlier + 0.1 for earlier, later in pairwise(held[::100, 2]))
    up = rows[rows[:, 0] < 6]
    down = rows[rows[:, 0] > 106.2]
    half_way = float(np.interp(10, down[::-1, 1], down[::-1, 2]))
    assert half_way < float(np.interp(10, up[:, 1], up[:, 2]))


def test_the_load_cell_and_the_travel_are_guarded_whatever_is_asked() -> None:
    path = frame("relaxation", "to 40 mm at 200; hold 50 s", force_limit_n=30.0)
    assert run(path)[-1, 2] == pytest.approx(30, abs=1)
    assert path.ended() == "force-limit"
    path = frame("hysteresis", "to 90 mm at 200", end_mm=50.0)
    assert run(path)[-1, 1] == pytest.approx(50, abs=0.5)
    assert path.ended() == "end-of-travel"


def test_a_break_ends_it_and_never_reaches_the_hold() -> None:
    path = frame("relaxation", "to break at 200; hold 50 s")
    rows = run(path)
    assert path.ended() == "broke"
    assert rows[-1, 2] < 0.1 * rows[:, 2].max()


def test_of_a_pair_the_other_half_hangs_there_after_the_exchange() -> None:
    pull = Move("to", 200.0, "N", 50.0)
    guards: dict[str, Any] = {"gauge_mm": 100.0, "end_mm": 150.0, "rate_hz": 20.0}
    path = moved("iso-13936-1", "J-1-S1", (pull, Move("exchange"), pull), **guards)
    assert path.channels[-1] == "half"
    rows = run(path, go_on=1)
    unsewn, sewn = rows[rows[:, 3] == 0], rows[rows[:, 3] == 1]
    assert sewn[0, 1] < 0.1
    assert unsewn[-1, 2] >= 200
    assert sewn[-1, 2] >= 200
    assert sewn[-1, 1] > unsewn[-1, 1] + 3
    waiting = moved("iso-13936-1", "J-1-S1", (pull, Move("exchange"), pull), **guards)
    assert set(run(waiting, go_on=0)[:, 3]) == {0}


def test_two_speeds_pause_for_the_extensometer_and_go_on_without_it() -> None:
    path = frame("iso-527", "to 0.3 % at 1; to break at 50", strain_over_mm=50.0, off_strain=0.02)
    rows = run(path, go_on=1)
    assert path.channels[-1] == "strain"
    on = rows[np.isfinite(rows[:, 3])]
    assert on[-1, 3] == pytest.approx(0.02, abs=0.001)
    assert np.isnan(rows[-1, 3])
    slow = rows[rows[:, 1] < 0.29]
    assert slow[-1, 0] == pytest.approx(0.29 * 60, rel=0.05)
