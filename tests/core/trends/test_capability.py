"""Capability against figures computed step by step."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import stats

from endurant.core.refusals import Invalid
from endurant.core.trends.capability import capability

LOTS = np.array([10.1, 9.8, 10.3, 9.9, 10.0, 10.4, 9.7, 10.2, 9.9, 10.1])


def test_indices_of_a_normal_process() -> None:
    indices = capability(LOTS, 9.0, 11.0)
    assert indices is not None
    assert indices.is_normal
    spread = np.abs(np.diff(LOTS)).mean() * np.sqrt(np.pi) / 2
    overall = LOTS.std(ddof=1)
    assert indices.cp is not None
    assert indices.cpk is not None
    assert indices.pp is not None
    assert indices.ppk is not None
    assert indices.cp.value == pytest.approx(2 / (6 * spread), rel=1e-6)
    assert indices.cpk.value == pytest.approx((11 - LOTS.mean()) / (3 * spread), rel=1e-6)
    assert indices.pp.value == pytest.approx(2 / (6 * overall))
    assert indices.ppk.value == pytest.approx((11 - LOTS.mean()) / (3 * overall))
    low = indices.pp.value * np.sqrt(stats.chi2.ppf(0.025, 9) / 9)
    assert indices.pp.low == pytest.approx(low)
    half = 1.959964 * np.sqrt(1 / 90 + indices.ppk.value**2 / 18)
    assert indices.ppk.high == pytest.approx(indices.ppk.value + half, rel=1e-6)


def test_a_requirement_on_one_side_has_no_cp() -> None:
    indices = capability(LOTS, 9.0, None)
    assert indices is not None
    assert indices.cp is None
    assert indices.pp is None
    assert indices.ppk is not None
    assert indices.ppk.value == pytest.approx((LOTS.mean() - 9) / (3 * LOTS.std(ddof=1)))


def test_lots_that_are_not_normal_take_the_percentile_form() -> None:
    skewed = np.array([1.0, 1.0, 1.1, 1.1, 1.0, 1.2, 1.1, 1.0, 9.0, 1.1])
    indices = capability(skewed, 0.0, 12.0)
    assert indices is not None
    assert indices.is_normal is False
    bottom, middle, top = np.percentile(skewed, (0.135, 50, 99.865))
    assert indices.ppk is not None
    assert indices.ppk.value == pytest.approx(
        min((12 - middle) / (top - middle), middle / (middle - bottom))
    )
    assert indices.ppk.low is None
    assert indices.pp is not None
    assert indices.pp.value == pytest.approx(12 / (top - bottom))


def test_without_requirement_lots_or_scatter_there_is_no_index() -> None:
    assert capability(LOTS, None, None) is None
    assert capability(LOTS[:4], 9.0, 11.0) is None
    same = capability(np.full(6, 4.0), 3.0, 5.0)
    assert same is not None
    assert (same.cp, same.ppk, same.is_normal) == (None, None, None)


def test_limits_that_cross_are_refused() -> None:
    with pytest.raises(Invalid) as refused:
        capability(LOTS, 11.0, 9.0)
    assert refused.value.code == "trend.limits-crossed"
