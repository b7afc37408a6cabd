"""The straight part of a stress-strain curve: fitted, moved to its toe, and questioned."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from endurant.core.methods.results import SpecimenResult
from endurant.core.methods.stress_strain import StressParameters, fit, settle

LOW, HIGH = 0.0005, 0.0025
RULES = ("chord", "regression")
STRAIN = np.linspace(0, 0.01, 201)


def result() -> SpecimenResult:
    return SpecimenResult("S1", None, "original")


def line(modulus_mpa: float, toe: float = 0.0) -> Any:
    """A straight line that begins to rise at a strain."""
    return np.clip(STRAIN - toe, 0, None) * modulus_mpa


def fitted(stress: Any, rule: str, low: float = LOW, high: float = HIGH) -> Any:
    return fit(STRAIN, stress, rule, low, high, np.maximum.accumulate(STRAIN))


@pytest.mark.parametrize("rule", RULES)
@given(modulus_mpa=st.floats(1, 250_000))
def test_a_straight_line_gives_its_slope(rule: str, modulus_mpa: float) -> None:
    found = fitted(line(modulus_mpa), rule)
    assert found is not None
    assert found.slope == pytest.approx(modulus_mpa)
    assert found.shift == pytest.approx(0, abs=1e-9)


@pytest.mark.parametrize("rule", RULES)
@pytest.mark.parametrize("toe", [0.0, 0.0002, 0.0004])
def test_a_toe_before_the_window_changes_where_the_line_begins_and_not_its_slope(
    rule: str, toe: float
) -> None:
    found = fitted(line(2000, toe), rule)
    assert found is not None
    assert found.slope == pytest.approx(2000)
    assert found.shift == pytest.approx(toe)


@pytest.mark.parametrize("rule", RULES)
def test_a_line_that_does_not_rise_or_is_not_reached_gives_none(rule: str) -> None:
    assert fitted(np.zeros_like(STRAIN), rule) is None
    assert fitted(-line(2000), rule) is None
    assert fitted(line(2000), rule, 0.005, 0.02) is None


def test_a_regression_needs_enough_samples_in_its_window() -> None:
    assert fitted(line(2000), "regression", 0.0010, 0.00104) is None
    assert fitted(line(2000), "chord", 0.0010, 0.00104) is not None


def test_a_chord_takes_two_points_and_a_regression_all_between() -> None:
    bent = np.where(STRAIN < 0.001, 1000 * STRAIN, 1 + 3000 * (STRAIN - 0.001))
    chord, regression = fitted(bent, "chord"), fitted(bent, "regression")
    assert chord.slope == pytest.approx((5.5 - 0.5) / 0.002)
    inside = (STRAIN >= LOW - 1e-12) & (STRAIN <= HIGH + 1e-12)
    assert regression.slope == pytest.approx(np.polyfit(STRAIN[inside], bent[inside], 1)[0])
    assert regression.slope != pytest.approx(chord.slope)


@pytest.mark.parametrize("rule", RULES)
@pytest.mark.parametrize("toe", [0.0, 0.0005, 0.001, 0.003])
def test_with_compensation_the_window_counts_from_the_toe(rule: Any, toe: float) -> None:
    """Without it the window lies on the toe itself, and the slope comes out too low."""
    stress, taken = line(2000, toe), result()
    with_toe = settle(
        taken, STRAIN, stress, StressParameters(toe_compensation=True, modulus_rule=rule)
    )
    if toe == 0.003:
        # Nothing rises inside the window that the search begins with.
        assert with_toe is None
        return
    assert with_toe is not None
    assert with_toe.slope == pytest.approx(2000)
    assert with_toe.shift == pytest.approx(toe)
    assert taken.flags == []
    without = settle(result(), STRAIN, stress, StressParameters(modulus_rule=rule))
    assert without is not None
    assert without.slope <= 2000 * (1 + 1e-9)


def test_a_toe_that_never_settles_is_flagged() -> None:
    """Stress that grows with the cube of the strain has another toe wherever one looks."""
    taken = result()
    found = settle(taken, STRAIN, 1e9 * STRAIN**3, StressParameters(toe_compensation=True))
    assert found is None or [flag.code for flag in taken.flags] in ([], ["toe-not-settled"])
    if found is not None:
        assert found.shift > 0


@pytest.mark.parametrize("window", [[0.0025, 0.0005], [0.001, 0.001]])
def test_a_window_has_to_rise(window: list[float]) -> None:
    with pytest.raises(ValueError, match="window"):
        StressParameters(modulus_window=window)
