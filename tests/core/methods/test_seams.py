"""The opening of a seam: two curves turned over, and the force at which they part by so much."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any

import numpy as np
import pytest

from endurant.core.methods.seam_slippage import Inverse, Pair, inverse_of


def curve(x: list[float], force: list[float]) -> Inverse:
    trace: Any = SimpleNamespace(extension_mm=np.array(x), force_n=np.array(force))
    return inverse_of(trace)


def straight(compliance_mm_n: float, up_to_n: float = 300) -> Inverse:
    """A curve that stretches by so much for each newton."""
    force = np.linspace(0, up_to_n, 31)
    return curve(list(compliance_mm_n * force), list(force))


def pair(extra_mm_n: float, slack_n: float = 5.0) -> Pair:
    """A sewn half that gives more than the unsewn one, in proportion to the force."""
    return Pair(straight(0.1), straight(0.1 + extra_mm_n), slack_n)


@pytest.mark.parametrize("force_n", [0.0, 10.0, 12.5, 100.0, 299.0, 300.0])
def test_a_straight_curve_is_read_back_at_any_force(force_n: float) -> None:
    inverse = straight(0.2)
    assert inverse.at(np.array([force_n]))[0] == pytest.approx(0.2 * force_n)
    assert inverse.beyond(np.array([force_n]))[0] == pytest.approx(0.2 * force_n)


def test_a_dip_is_passed_over_to_where_the_force_is_reached_again() -> None:
    inverse = curve([0, 10, 11, 12, 20], [0, 100, 60, 100, 180])
    assert inverse.max_n == 180
    # 100 N is first reached at 10 mm; just beyond it the curve is past the dip, at 12 mm.
    assert inverse.at(np.array([100.0]))[0] == pytest.approx(10)
    assert inverse.beyond(np.array([100.0]))[0] == pytest.approx(12)
    assert inverse.at(np.array([140.0]))[0] == pytest.approx(16)
    assert inverse.at(np.array([80.0]))[0] == pytest.approx(8)


def test_a_force_below_the_first_sample_is_where_the_curve_begins() -> None:
    inverse = curve([3, 4], [10, 20])
    assert list(inverse.at(np.array([0.0, 10.0, 15.0]))) == pytest.approx([3, 3, 3.5])
    assert inverse.beyond(np.array([5.0]))[0] == 3


def test_a_curve_of_one_rising_sample_stands_at_its_place() -> None:
    inverse = curve([2.0, 3.0], [50.0, 10.0])
    assert inverse.max_n == 50
    assert list(inverse.at(np.array([49.0, 50.0]))) == [2.0, 2.0]


@pytest.mark.parametrize(
    ("extra_mm_n", "opening_mm", "force_n"),
    [(0.03, 6.0, 205.0), (0.06, 6.0, 105.0), (0.03, 3.0, 105.0), (0.03, 0.3, 15.0)],
)
def test_the_force_of_an_opening_is_solved_with_the_slack_taken_off(
    extra_mm_n: float, opening_mm: float, force_n: float
) -> None:
    halves = pair(extra_mm_n)
    assert halves.force_at(opening_mm, 300) == pytest.approx(force_n)
    assert halves.opening(force_n) == pytest.approx(opening_mm)


def test_an_opening_that_is_not_reached_up_to_the_ceiling_has_no_force() -> None:
    assert pair(0.03).force_at(6.0, 200) is None
    assert pair(0.03).force_at(6.0, 205.1) == pytest.approx(205)
    assert pair(0.03).force_at(6.0, 4.0) is None


def test_a_seam_that_jumps_open_is_found_at_the_force_of_the_jump() -> None:
    unsewn = curve([0, 10], [0, 100])
    sewn = curve([0, 5, 6, 12, 17], [0, 50, 30, 50, 100])
    halves = Pair(unsewn, sewn, 0.0)
    # At 50 N the sewn half jumps from 5 to 12 mm: every opening up to 7 mm is reached there.
    assert halves.opening(50.0) == pytest.approx(0)
    for opening_mm in (0.5, 3.0, 7.0):
        assert halves.force_at(opening_mm, 100) == pytest.approx(50)
    assert halves.force_at(7.5, 100) is None


@pytest.mark.parametrize("slack_n", [0.0, 2.0, 5.0, 20.0])
def test_the_slack_moves_the_force_by_itself_alone(slack_n: float) -> None:
    halves = pair(0.05, slack_n)
    assert halves.force_at(4.0, 300) == pytest.approx(80 + slack_n)
