"""Student's t and the binomial limits, from scipy, which is loaded when the first is asked for."""

from __future__ import annotations

from functools import lru_cache
from math import inf


@lru_cache(maxsize=1024)
def t_quantile(probability: float, degrees: int) -> float:
    """Return the quantile of Student's t for a probability above 0.5 and `degrees` of freedom."""
    from scipy.special import stdtrit

    return inf if probability >= 1 else float(stdtrit(degrees, probability))


def binomial_upper(failures: int, tested: int, confidence: float) -> float:
    """Return the exact one-sided upper limit of a share, from 0 to 1 (Clopper and Pearson).

    It is 1 when every item failed, and 1 - (1 - confidence)^(1/n) when none did.
    """
    from scipy.special import betaincinv

    if failures >= tested:
        return 1.0
    return float(betaincinv(failures + 1, tested - failures, confidence))
