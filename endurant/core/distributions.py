"""Student's t and the binomial limits, without the seconds that a statistics package loads in.

Both rest on the regularised incomplete beta function, computed by its continued fraction
(the modified method of Lentz). Tested against scipy to ten digits.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from math import exp, inf, lgamma, log, log1p, sqrt

_TINY = 1e-300
_STEPS = 10_000
_HALVINGS = 200


def incomplete_beta(x: float, a: float, b: float) -> float:
    """Regularised incomplete beta function I_x(a, b) for a, b > 0 and 0 <= x <= 1."""
    if x <= 0 or x >= 1:
        return float(x >= 1)
    if x > (a + 1) / (a + b + 2):
        return 1 - incomplete_beta(1 - x, b, a)
    front = exp(lgamma(a + b) - lgamma(a) - lgamma(b) + a * log(x) + b * log1p(-x)) / a
    return front * _fraction(x, a, b)


def _fraction(x: float, a: float, b: float) -> float:
    """The continued fraction that stands behind the power terms of I_x(a, b)."""
    c = 1.0
    d = 1 / _away_from_zero(1 - (a + b) * x / (a + 1))
    value = d
    for m in range(1, _STEPS):
        even = m * (b - m) * x / ((a + 2 * m - 1) * (a + 2 * m))
        d = 1 / _away_from_zero(1 + even * d)
        c = _away_from_zero(1 + even / c)
        value *= d * c
        odd = -(a + m) * (a + b + m) * x / ((a + 2 * m) * (a + 2 * m + 1))
        d = 1 / _away_from_zero(1 + odd * d)
        c = _away_from_zero(1 + odd / c)
        value *= d * c
        if abs(d * c - 1) < 1e-16:
            break
    return value


def _away_from_zero(figure: float) -> float:
    return figure if abs(figure) > _TINY else _TINY


def _root(rises: Callable[[float], float], low: float, high: float) -> float:
    """Where a rising function passes zero, by halving."""
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        if middle in (low, high):
            break
        if rises(middle) < 0:
            low = middle
        else:
            high = middle
    return (low + high) / 2


@lru_cache(maxsize=1024)
def t_quantile(probability: float, degrees: int) -> float:
    """Quantile of Student's t with `degrees` of freedom, for a probability above 0.5."""
    upper = 1 - probability
    if upper <= 0:
        return inf

    def rises(y: float) -> float:
        # half of I_y(1/2, n/2) lies between 0 and t when y = t² / (n + t²)
        return incomplete_beta(y, 0.5, degrees / 2) / 2 - (probability - 0.5)

    if upper > 0.05:
        y = _root(rises, 0.0, 1.0)
        return sqrt(degrees * y / (1 - y))
    rest = _root(lambda x: incomplete_beta(x, degrees / 2, 0.5) / 2 - upper, 0.0, 1.0)
    return sqrt(degrees * (1 - rest) / rest)


def binomial_upper(failures: int, tested: int, confidence: float) -> float:
    """One-sided exact upper limit of a share: the share at which so few failures are rare.

    With every one failing it is 1; none of n leaves 1 - (1 - confidence)^(1/n).
    """
    if failures >= tested:
        return 1.0
    return _root(
        lambda p: incomplete_beta(p, failures + 1, tested - failures) - confidence, 0.0, 1.0
    )
