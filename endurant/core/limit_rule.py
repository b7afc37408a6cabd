"""How a result is drawn everywhere: a graduated rule with the limit, the values and the mean.

The screens and the PDF draw from these numbers, so that both show the same rule.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from endurant.core.judging import Criterion
from endurant.core.statistics import summarise

_STEPS = (1.0, 2.0, 2.5, 5.0, 10.0)
_MOST_GRADUATIONS = 6


@dataclass(frozen=True)
class Stretch:
    """A stretch of a rule, from start to end."""

    start: float
    end: float


@dataclass(frozen=True)
class LimitRule:
    """One rule: its ends and graduation step in the unit of the property.

    `forbidden` is the stretch beyond the limit, clipped to the rule; `values` are the valid
    figures, `voids` those that do not count; `mean` and `half_width` are None until there
    are enough values.
    """

    low: float
    high: float
    step: float
    unit: str
    limit: float | None
    limit_words: str
    forbidden: Stretch | None
    values: tuple[float, ...]
    voids: tuple[float, ...]
    mean: float | None
    half_width: float | None


def limit_rule(
    criterion: Criterion | None, unit: str, values: Sequence[float], voids: Sequence[float]
) -> LimitRule:
    """Lay out a rule that shows the limit and every figure with some room on both sides."""
    limit = None if criterion is None else float(criterion.limit)
    found = summarise(values) if values else None
    shown = [*values, *voids, *([] if limit is None else [limit])]
    low, high, step = _ends(shown)
    forbidden = None
    if criterion is not None and limit is not None:
        forbidden = Stretch(low, limit) if criterion.op == ">=" else Stretch(limit, high)
    return LimitRule(
        low=low,
        high=high,
        step=step,
        unit=unit,
        limit=limit,
        limit_words="report only" if criterion is None else criterion.in_words(unit),
        forbidden=forbidden,
        values=tuple(values),
        voids=tuple(voids),
        mean=found.mean if found else None,
        half_width=found.ci95_half_width if found else None,
    )


def _ends(shown: Sequence[float]) -> tuple[float, float, float]:
    """Round ends around the figures; the step gives six graduations at most."""
    if not shown:
        return 0.0, 10.0, 2.0
    least, most = min(shown), max(shown)
    room = max(0.25 * (most - least), 0.15 * abs(most), 1e-6)
    least, most = max(least - room, 0.0) if least >= 0 else least - room, most + room
    power = 10.0 ** np.floor(np.log10((most - least) / _MOST_GRADUATIONS))
    step = next(
        float(size * power)
        for size in _STEPS
        if (most - least) / (size * power) <= _MOST_GRADUATIONS
    )
    low, high = float(np.floor(least / step) * step), float(np.ceil(most / step) * step)
    return round(low, 9), round(high, 9), round(step, 9)
