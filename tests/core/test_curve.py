"""Joined samples: where a line first reaches a level, what it is worth, where it breaks."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from endurant.core.curve import (
    START,
    Place,
    area_under,
    break_index,
    first_fall,
    first_index,
    first_reach,
    worth_at,
)

RISING = np.array([0.0, 10.0, 20.0, 30.0])
X = np.array([0.0, 1.0, 2.0, 4.0])
forces = st.lists(st.floats(-1000, 1000, allow_nan=False), min_size=2, max_size=30)


def test_the_first_true_sample_is_counted_from_the_beginning_of_the_mask() -> None:
    mask = np.array([True, False, False, True])
    assert first_index(mask) == 0
    assert first_index(mask, start=1) == 3
    assert first_index(mask, start=4) is None
    assert first_index(~mask, start=3) is None


def test_a_level_between_two_samples_is_met_on_the_line_between_them() -> None:
    place = first_reach(RISING, 12.5)
    assert place == Place(2, 0.25)
    assert place.of(RISING) == 12.5
    assert place.of(X) == 1.25


def test_a_level_at_a_sample_is_met_there_and_not_before() -> None:
    assert first_reach(RISING, 20.0) == Place(2, 1.0)
    almost = np.array([0.0, 0.1 + 0.2])
    assert first_reach(almost, 0.3) is not None
    assert first_reach(almost - 1e-12, 0.3) == Place(1, 1.0)


def test_a_curve_that_begins_above_a_level_meets_it_at_once() -> None:
    assert first_reach(RISING + 5, 5.0) == Place(0, 1.0)
    assert first_reach(RISING, 5.0, start=2) == Place(2, 1.0)
    assert first_reach(RISING, 31.0) is None


def test_a_fall_is_met_from_above() -> None:
    falling = RISING[::-1].copy()
    assert first_fall(falling, 25.0) == Place(1, 0.5)
    assert first_fall(falling, -1.0) is None


def test_beyond_its_ends_a_line_keeps_its_end_values() -> None:
    assert worth_at(X, RISING, 3.0) == 25.0
    assert worth_at(X, RISING, -1.0) == 0.0
    assert worth_at(X, RISING, 9.0) == 30.0


def test_an_area_counts_the_parts_of_samples_at_its_ends() -> None:
    start, end = first_reach(X, 0.5), first_reach(X, 3.0)
    assert start is not None
    assert end is not None
    by_hand = (0.5 * (5 + 10) + 1.0 * (10 + 20) + 1.0 * (20 + 25)) / 2
    assert area_under(X, RISING, start, end) == pytest.approx(by_hand)
    assert area_under(X, RISING, START, START) == 0.0


@pytest.mark.parametrize(
    ("force", "drop", "last"),
    [
        ([0, 50, 100, 20, 5, 0], 0.2, 2),
        ([0, 50, 100, 85, 70, 20, 0], 0.2, 4),
        ([0, 50, 100, 60, 30, 12, 5], 0.9, 5),
        ([0, 100], 0.2, 1),
        ([100, 80, 60], 0.2, 2),
    ],
)
def test_a_break_is_the_first_great_drop_from_the_maximum_on(
    force: list[float], drop: float, last: int
) -> None:
    assert break_index(np.array(force, dtype=float), drop) == last


@given(forces, st.floats(-1000, 1000, allow_nan=False))
def test_a_place_is_worth_the_level_it_was_found_for(values: list[float], level: float) -> None:
    column = np.array(values)
    place = first_reach(column, level)
    if place is None:
        assert column.max() < level
    elif place.index == 0:
        assert column[0] >= level - 1e-9 * max(abs(level), 1)
    else:
        assert place.of(column) == pytest.approx(level, rel=1e-6, abs=1e-6)
        assert not (column[: place.index] >= level).any()
