"""Mean, spread and how well the mean is known."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt
from typing import Literal

import numpy as np

from endurant.core.distributions import t_quantile
from endurant.core.quantities import SAME_WITHIN, above, at_least
from endurant.core.refusals import Invalid


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
    """Return the two-sided quantile of Student's t: 2.776 for 0.95 and 4 degrees of freedom."""
    return t_quantile(0.5 + confidence / 2, degrees)


def summarise(values: Sequence[float]) -> Statistics:
    """Return mean, standard deviation (n - 1) and interval of one or more values, in their unit.

    The deviations are taken from the mean before they are squared, so that a large common offset
    costs no digits. Raises ValueError for no value. Source: ISO 2602.
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


Qualifier = Literal["<", ">"]
Mixed = Literal["<", ">", "both"]


@dataclass(frozen=True)
class Measured:
    """A value with what is known of it: a bound on one side, or (None) the value itself."""

    value: float
    qualifier: Qualifier | None = None


def bound_of_mean(values: Sequence[Measured]) -> Mixed | None:
    """Return what the mean of these is: a bound when one of them is; `both` says nothing."""
    qualifiers = {value.qualifier for value in values} - {None}
    if len(qualifiers) > 1:
        return "both"
    return next(iter(qualifiers), None)


def bound_of_median(values: Sequence[Measured]) -> Mixed | None:
    """What the median is: only a value on the side from which it could move it makes a bound."""
    median = float(np.median([value.value for value in values]))
    above = any(value.qualifier == ">" and at_least(median, value.value) for value in values)
    below = any(value.qualifier == "<" and at_least(value.value, median) for value in values)
    if above and below:
        return "both"
    return ">" if above else "<" if below else None


@dataclass(frozen=True)
class Grubbs:
    """The value farthest from the mean, in SDs, against what chance allows.

    `suspect` is its place from 0, None when it is within; `g` and `critical` are None
    below three values, `g` also when all values are equal.
    """

    g: float | None
    critical: float | None
    suspect: int | None


def grubbs(values: Sequence[float], alpha: float = 0.05) -> Grubbs:
    """Return the two-sided Grubbs test for one outlier, at the level `alpha` (ISO 5725-2).

    The test warns. It never removes a value.
    """
    n = len(values)
    if n < 3:
        return Grubbs(None, None, None)
    t = t_quantile(1 - alpha / (2 * n), n - 2)
    critical = (n - 1) / sqrt(n) * sqrt(t * t / (n - 2 + t * t))
    statistics = summarise(values)
    if statistics.minimum == statistics.maximum or not statistics.sd:
        return Grubbs(None, critical, None)
    away = np.abs(np.asarray(values, dtype=np.float64) - statistics.mean)
    farthest = int(np.argmax(away >= away.max() * (1 - SAME_WITHIN)))
    g = float(away.max()) / statistics.sd
    return Grubbs(g, critical, farthest if above(g, critical) else None)


def sample_size(sd: float, half_width: float, confidence: float = 0.95) -> int:
    """Return the smallest n of 2 or more with t·sd/√n no greater than `half_width` (ISO 2602).

    `sd` and `half_width` have the same unit; t has n - 1 degrees of freedom.
    """

    def narrow(n: int) -> bool:
        return at_least(half_width, student_t(confidence, n - 1) * sd / sqrt(n))

    high = 2
    while not narrow(high):
        high *= 2
        if high > MAX_SPECIMENS_ASKED:
            raise Invalid("sample-size.too-many", max=MAX_SPECIMENS_ASKED, field="half_width")
    low = max(high // 2, 2)
    while low < high:
        middle = (low + high) // 2
        low, high = (low, middle) if narrow(middle) else (middle + 1, high)
    return low


MAX_SPECIMENS_ASKED = 10**9
