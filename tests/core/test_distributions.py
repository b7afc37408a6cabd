"""Quantiles and limits against scipy, and what follows from them."""

from __future__ import annotations

from math import comb

import pytest
from hypothesis import given
from hypothesis import strategies as st

from endurant.core.distributions import binomial_upper, t_quantile
from endurant.core.methods.bubble_leak import packs_needed
from endurant.core.quantities import factor_between, in_system, round_to_step
from endurant.core.rounding import round_to_decimals
from endurant.core.statistics import grubbs, sample_size, student_t


@pytest.mark.parametrize(
    ("p", "degrees", "table"),
    [(0.975, 4, 2.776445), (0.975, 9, 2.262157), (0.95, 1, 6.313752), (0.995, 30, 2.749996)],
)
def test_students_t_is_that_of_the_tables(p: float, degrees: int, table: float) -> None:
    assert t_quantile(p, degrees) == pytest.approx(table, abs=5e-7)


@pytest.mark.parametrize(("failures", "n"), [(0, 20), (1, 12), (3, 50), (19, 20), (0, 1)])
def test_at_the_upper_limit_of_a_share_so_few_failures_are_rare(failures: int, n: int) -> None:
    share = binomial_upper(failures, n, 0.95)
    so_few = sum(comb(n, k) * share**k * (1 - share) ** (n - k) for k in range(failures + 1))
    assert so_few == pytest.approx(0.05, rel=1e-9)
    assert binomial_upper(n, n, 0.95) == 1


@pytest.mark.parametrize("percent", [0.5, 1, 5, 13.9, 50, 99])
def test_packs_needed_are_the_fewest(percent: float) -> None:
    n = packs_needed(percent)
    assert (1 - percent / 100) ** n <= 0.05 * (1 + 1e-9)
    assert n == 1 or (1 - percent / 100) ** (n - 1) > 0.05 * (1 - 1e-9)


def test_sample_size_is_the_least_that_is_narrow_enough() -> None:
    n = sample_size(1.2, 1.0)
    assert student_t(0.95, n - 1) * 1.2 / n**0.5 <= 1.0
    assert student_t(0.95, n - 2) * 1.2 / (n - 1) ** 0.5 > 1.0


def test_grubbs_has_nothing_to_say_of_equals_and_of_two() -> None:
    assert grubbs([1.0, 2.0]).critical is None
    assert grubbs([3.0] * 5).g is None


@given(st.floats(-1e6, 1e6), st.sampled_from(["0.5", "0.1", "5"]))
def test_a_rounded_value_is_within_half_a_step(figure: float, step: str) -> None:
    assert abs(float(round_to_step(figure, step)) - figure) <= float(step) / 2 * (1 + 1e-6)
    assert abs(float(round_to_decimals(figure, 2)) - figure) <= 0.005 * (1 + 1e-6) + 1e-5


@pytest.mark.parametrize("unit", ["N", "kN", "mm", "MPa", "kPa", "kN/m", "J", "kJ/m²", "g/m²"])
def test_replacing_units_and_back_changes_nothing(unit: str) -> None:
    other, factor = in_system(unit, "inch-pound")
    assert other != unit
    assert factor * factor_between(other.replace("·", "*"), unit) == pytest.approx(1, rel=1e-12)


def test_units_as_benches_write_them() -> None:
    assert factor_between("psi", "kPa") == pytest.approx(6.894757, rel=1e-6)
    assert factor_between("kgf/cm²", "kPa") == pytest.approx(98.0665, rel=1e-6)
    assert factor_between("g/10min", "g/s") == pytest.approx(1 / 600, rel=1e-9)
    unit, factor = in_system("kN/m", "inch-pound")
    assert unit == "lbf/in"
    assert factor == pytest.approx(5.7101, rel=1e-4)
