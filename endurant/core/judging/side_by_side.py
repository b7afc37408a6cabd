"""Samples beside each other: ranked by their means, each with its difference from one of them.

The interval of a difference is Welch's: each sample keeps its own spread, and the degrees of
freedom are Satterthwaite's. It is of one difference by itself; among many, some miss by chance.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

from endurant.core.distributions import t_quantile
from endurant.core.messages import worded
from endurant.core.rounding import round_to_significant
from endurant.core.statistics import Statistics, summarise

CONFIDENCE = 0.95


@dataclass(frozen=True)
class Sample:
    """What was found of one sample: its name, and the valid figures of its specimens."""

    name: str
    values: tuple[float, ...]


@dataclass(frozen=True)
class Compared:
    """One sample among the others.

    `rank` counts from 1, the highest mean first, and is None without figures; `difference` is
    its mean minus that of the one it is held against, with the half width of its 95 % interval,
    which is None where one of the two has fewer than two figures. `text` is that in words.
    """

    name: str
    n: int
    mean: float | None
    sd: float | None
    half_width: float | None
    rank: int | None
    difference: float | None
    difference_half_width: float | None
    text: str


def side_by_side(samples: Sequence[Sample], against: str, unit: str) -> list[Compared]:
    """Compare each sample with the baseline `against`, the highest mean first.

    Samples without a mean come last.
    """
    figures = {sample.name: summarise(sample.values) for sample in samples if sample.values}
    order = sorted(figures, key=lambda name: -figures[name].mean)
    base = figures.get(against)
    ranked = [
        _compared(name, figures[name], base, against, order.index(name) + 1, unit) for name in order
    ]
    empty = [sample.name for sample in samples if not sample.values]
    return ranked + [
        Compared(
            name,
            0,
            None,
            None,
            None,
            None,
            None,
            None,
            worded("compared.no-specimen-is-tested-yet"),
        )
        for name in empty
    ]


def _compared(
    name: str, own: Statistics, base: Statistics | None, against: str, rank: int, unit: str
) -> Compared:
    plain = (name, own.n, own.mean, own.sd, own.ci95_half_width, rank)
    if name == against:
        return Compared(*plain, None, None, "baseline")
    if base is None:
        return Compared(*plain, None, None, worded("compared.has-no-result-yet", against=against))
    difference = own.mean - base.mean
    half_width = welch_half_width(own, base)
    return Compared(
        *plain, difference, half_width, _in_words(difference, half_width, against, unit)
    )


def welch_half_width(first: Statistics, second: Statistics) -> float | None:
    """Return the half width of Welch's 95 % interval for the difference of two means.

    It has the unit of the values. None when a sample has fewer than two values; 0 when neither
    spreads.
    """
    if first.sd is None or second.sd is None:
        return None
    a, b = first.sd**2 / first.n, second.sd**2 / second.n
    if a + b == 0:
        return 0.0
    degrees = (a + b) ** 2 / (a**2 / (first.n - 1) + b**2 / (second.n - 1))
    return t_quantile(0.5 + CONFIDENCE / 2, degrees) * sqrt(a + b)


def _in_words(difference: float, half_width: float | None, against: str, unit: str) -> str:
    by = f"{difference_text(abs(difference))} {unit}".strip()
    way = "higher" if difference > 0 else "lower"
    if half_width is None:
        return worded("compared.than-one-result-gives-no-interval", by=by, way=way, against=against)
    low, high = difference - half_width, difference + half_width
    interval = worded("compared.95-to", low=difference_text(low), high=difference_text(high))
    if low <= 0 <= high and half_width > 0:
        return worded("compared.no-difference-from-is-shown", against=against, interval=interval)
    if difference == 0:
        return worded("compared.the-same-as", against=against)
    return worded("compared.than", by=by, way=way, against=against, interval=interval)


def difference_text(figure: float) -> str:
    """Return a difference, or a bound of its interval, as it is shown: three significant digits."""
    return "0" if figure == 0 else round_to_significant(figure, 3)
