"""How a result is drawn everywhere: a graduated rule with the limit, the values and the mean.

The screens and the PDF draw from these numbers, so that both show the same rule.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from endurant.core.judging.criteria import Criterion, Operator
from endurant.core.quantities import read_grade
from endurant.core.statistics import summarise

_STEPS = (1.0, 2.0, 2.5, 5.0, 10.0)
_MAX_GRADUATIONS = 6


@dataclass(frozen=True)
class RuleStretch:
    """A stretch of a rule, from start to end."""

    start: float
    end: float


@dataclass(frozen=True)
class LimitRule:
    """One rule: its ends and graduation step in the unit of the property.

    `forbidden` is the stretch beyond the limit, clipped to the rule, and the `second_` ones are
    those of an upper limit beside a lower one; `guarded` are the stretches beside a limit in
    which a guarded decision cannot say; `values` are the valid
    figures, `voids` those that do not count; `mean` and `half_width` are None until there
    are enough values.
    """

    low: float
    high: float
    step: float
    unit: str
    limit: float | None
    limit_text: str
    forbidden: RuleStretch | None
    second_limit: float | None
    second_forbidden: RuleStretch | None
    guarded: tuple[RuleStretch, ...]
    values: tuple[float, ...]
    voids: tuple[float, ...]
    mean: float | None
    half_width: float | None


def limit_rule(
    criterion: Criterion | None,
    unit: str,
    values: Sequence[float],
    voids: Sequence[float],
    expanded_u: float | None = None,
    ends: tuple[float, float, float] | None = None,
) -> LimitRule:
    """Lay out a scale that shows the limit and every value with some room on both sides.

    Every number has the unit of the property; `expanded_u` is the half width of the guard band.
    Scales that stand beside each other share their `ends` (low, high, step).
    """
    limits = [] if criterion is None else _limits(criterion)
    statistics = summarise(values) if values else None
    bands = [] if expanded_u is None else [_band(limit, expanded_u) for _, limit in limits]
    edges = [edge for band in bands for edge in (band.start, band.end)]
    low, high, step = ends or _ends([*values, *voids, *(limit for _, limit in limits), *edges])
    beyond = [
        RuleStretch(low, limit) if op == ">=" else RuleStretch(limit, high) for op, limit in limits
    ]
    return LimitRule(
        low=low,
        high=high,
        step=step,
        unit=unit,
        limit=limits[0][1] if limits else None,
        limit_text="report only" if criterion is None else criterion.in_words(unit),
        forbidden=beyond[0] if beyond else None,
        second_limit=limits[1][1] if len(limits) > 1 else None,
        second_forbidden=beyond[1] if len(beyond) > 1 else None,
        guarded=tuple(bands),
        values=tuple(values),
        voids=tuple(voids),
        mean=statistics.mean if statistics else None,
        half_width=statistics.ci95_half_width if statistics else None,
    )


def _band(limit: float, expanded_u: float) -> RuleStretch:
    return RuleStretch(limit - expanded_u, limit + expanded_u)


def _limits(criterion: Criterion) -> list[tuple[Operator, float]]:
    """The limits as numbers, with their operators; none where nothing is held against one."""
    if criterion.on in ("no-failures", "report-only"):
        return []
    read = read_grade if criterion.on == "grade" else float
    return [(op, float(read(text))) for op, text in criterion.limits()]


def _ends(shown: Sequence[float]) -> tuple[float, float, float]:
    """Round ends around the figures; the step gives six graduations at most."""
    if not shown:
        return 0.0, 10.0, 2.0
    lower, upper = min(shown), max(shown)
    room = max(0.25 * (upper - lower), 0.15 * abs(upper), 1e-6)
    lower, upper = max(lower - room, 0.0) if lower >= 0 else lower - room, upper + room
    power = 10.0 ** np.floor(np.log10((upper - lower) / _MAX_GRADUATIONS))
    step = next(
        float(size * power)
        for size in _STEPS
        if (upper - lower) / (size * power) <= _MAX_GRADUATIONS
    )
    low, high = float(np.floor(lower / step) * step), float(np.ceil(upper / step) * step)
    return round(low, 9), round(high, 9), round(step, 9)
