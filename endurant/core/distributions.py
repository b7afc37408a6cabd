"""Student's t and the binomial limits, from scipy, which is loaded when the first is asked for."""

from __future__ import annotations

from functools import lru_cache
from math import inf


@lru_cache(maxsize=1024)
def t_quantile(probability: float, degrees: int) -> float:
    """Quantile of Student's t with `degrees` of freedom, for a probability above 0.5."""
    from scipy.special import stdtrit

    return inf if probability >= 1 else float(stdtrit(degrees, probability))


def binomial_upper(failures: int, tested: int, confidence: float) -> float:
    """One-sided exact upper limit of a share: the share at which so few failures are rare.

    With every one failing it is 1; none of n leaves 1 - (1 - confidence)^(1/n).
    """
    from scipy.special import betaincinv

    if failures >= tested:
        return 1.0
    return float(betaincinv(failures + 1, tested - failures, confidence))
