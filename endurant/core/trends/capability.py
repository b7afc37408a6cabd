"""Does the process stay inside the requirement: Cp and Cpk, Pp and Ppk, with their intervals.

Cp and Cpk take the spread from lot to lot (mean moving range), Pp and Ppk that of all lots. The
intervals are those of a normal process: chi-squared for Cp and Pp, the normal approximation of
the variance of the estimate for Cpk and Ppk. Where the lots are not normal, a percentile form
takes their place: the distance of the median from the requirement over that of the outer
percentiles, 0.135 % and 99.865 %.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

import numpy as np

from endurant.core.refusals import Invalid
from endurant.core.trends.control_chart import D2, Values, moving_ranges

LEAST_LOTS = 5
CONFIDENCE = 0.95
NORMAL_BELOW = 0.05
"""The probability of the test for normality below which lots are called not normal."""
SHARE_OF_RANGES = 0.62
"""Degrees of freedom of a mean moving range of two, for each range."""
OUTER_PERCENT = (0.135, 99.865)


@dataclass(frozen=True)
class Index:
    """An index with its interval of 95 %; None for the ends where none can be given."""

    value: float
    low: float | None
    high: float | None


@dataclass(frozen=True)
class Capability:
    """The indices; Cp and Pp need a requirement on both sides. All are None without scatter.

    `is_normal` is None where the lots are too alike to be tried.
    """

    cp: Index | None
    cpk: Index | None
    pp: Index | None
    ppk: Index | None
    normality: float | None
    is_normal: bool | None


def capability(values: Values, low: float | None, high: float | None) -> Capability | None:
    """Indices of the lots, shape (lots,), against a requirement in the same unit.

    None without a requirement, or with fewer than five lots. Raises Invalid when the lower
    limit is not below the upper one.
    """
    if low is not None and high is not None and low >= high:
        raise Invalid("trend.limits-crossed", low=low, high=high)
    if (low is None and high is None) or len(values) < LEAST_LOTS:
        return None
    within = float(moving_ranges(values).mean()) / D2
    overall = float(values.std(ddof=1))
    if within == 0 or overall == 0:
        return Capability(None, None, None, None, None, None)
    normality = _normality(values)
    is_normal = normality >= NORMAL_BELOW
    mean, steps = float(values.mean()), len(values) - 1
    cp, cpk = _pair(mean, within, low, high, SHARE_OF_RANGES * steps, len(values))
    pp, ppk = (
        _pair(mean, overall, low, high, steps, len(values))
        if is_normal
        else _by_percentiles(values, low, high)
    )
    return Capability(cp, cpk, pp, ppk, normality, is_normal)


def _normality(values: Values) -> float:
    from scipy.stats import shapiro

    return float(shapiro(values).pvalue)


def _pair(
    mean: float, spread: float, low: float | None, high: float | None, degrees: float, lots: int
) -> tuple[Index | None, Index]:
    nearest = min(
        (high - mean) / (3 * spread) if high is not None else np.inf,
        (mean - low) / (3 * spread) if low is not None else np.inf,
    )
    one_sided = _around(float(nearest), degrees, lots)
    if low is None or high is None:
        return None, one_sided
    return _by_chi_squared((high - low) / (6 * spread), degrees), one_sided


def _by_chi_squared(value: float, degrees: float) -> Index:
    from scipy.stats import chi2

    tail = (1 - CONFIDENCE) / 2
    low, high = (value * sqrt(chi2.ppf(p, degrees) / degrees) for p in (tail, 1 - tail))
    return Index(value, float(low), float(high))


def _around(value: float, degrees: float, lots: int) -> Index:
    from scipy.stats import norm

    quantile = float(norm.ppf(1 - (1 - CONFIDENCE) / 2))
    half = quantile * sqrt(1 / (9 * lots) + value * value / (2 * degrees))
    return Index(value, value - half, value + half)


def _by_percentiles(
    values: Values, low: float | None, high: float | None
) -> tuple[Index | None, Index | None]:
    bottom, middle, top = np.percentile(values, (OUTER_PERCENT[0], 50, OUTER_PERCENT[1]))
    sides = [
        (high - middle) / (top - middle) if high is not None and top > middle else np.inf,
        (middle - low) / (middle - bottom) if low is not None and middle > bottom else np.inf,
    ]
    nearest = float(min(sides))
    ppk = Index(nearest, None, None) if np.isfinite(nearest) else None
    if low is None or high is None:
        return None, ppk
    return Index(float((high - low) / (top - bottom)), None, None), ppk
