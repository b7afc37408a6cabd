"""Mean, spread and how well the mean is known."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Statistics:
    """Figures of one group of values, in the unit of the values (CV in percent).

    `sd` is the sample standard deviation (n - 1); it, `cv_percent` and
    `ci95_half_width` are None below two values, `cv_percent` also when the mean is 0.
    """

    n: int
    mean: float
    sd: float | None
    cv_percent: float | None
    minimum: float
    maximum: float
    range: float
    median: float
    ci95_half_width: float | None


def student_t(confidence: float, degrees: int) -> float:
    """Two-sided quantile of Student's t: 2.776 for 0.95 and four degrees of freedom."""
    from scipy.special import stdtrit

    return float(stdtrit(degrees, 0.5 + confidence / 2))


def summarise(values: Sequence[float]) -> Statistics:
    """Statistics of one or more values; raises ValueError on none.

    The deviations are taken from the mean before they are squared, so that a large
    common offset costs no digits.
    """
    if not values:
        raise ValueError("summarise needs at least one value")
    data = np.asarray(values, dtype=np.float64)
    n = int(data.size)
    low, high = float(data.min()), float(data.max())
    offset = float(data[0])
    mean = offset + float(np.mean(data - offset))
    sd = cv_percent = half_width = None
    if n >= 2:
        sd = float(np.sqrt(np.sum((data - mean) ** 2) / (n - 1)))
        cv_percent = None if mean == 0 else 100 * sd / abs(mean)
        half_width = student_t(0.95, n - 1) * sd / n**0.5
    return Statistics(
        n=n,
        mean=mean,
        sd=sd,
        cv_percent=cv_percent,
        minimum=low,
        maximum=high,
        range=high - low,
        median=float(np.median(data)),
        ci95_half_width=half_width,
    )
