"""Individuals and moving range: control limits from a base period, and the eight run rules.

The formulas are those of ISO 7870-2 (Shewhart charts) for single values: the spread is the mean
moving range of two divided by 1.128, and the limits lie three such spreads from the mean.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from endurant.core.refusals import Invalid

Values = NDArray[np.float64]
Flags = NDArray[np.bool_]

LEAST_BASE = 5
"""With fewer lots, limits say nothing."""
D2 = 1.128379
"""The mean range of two normal values, in standard deviations (2/sqrt(pi))."""
D4 = 3.266532
"""The upper limit of a range of two, in mean ranges (1 + 3*d3/d2)."""

Rule = Literal[
    "beyond-limits",
    "nine-on-one-side",
    "six-in-one-direction",
    "fourteen-alternating",
    "two-of-three-far",
    "four-of-five-off",
    "fifteen-near",
    "eight-off-both-sides",
]
RULES: tuple[Rule, ...] = get_args(Rule)


@dataclass(frozen=True)
class ControlLimits:
    """Limits of the values, and of the moving range, in the unit of the values."""

    centre: float
    spread: float
    lower: float
    upper: float
    mean_range: float
    upper_range: float


def control_limits(base: Values) -> ControlLimits:
    """Limits from the values of a base period, shape (lots,), in their order.

    Raises Invalid for fewer than five lots.
    """
    if len(base) < LEAST_BASE:
        raise Invalid("trend.base-too-short", least=LEAST_BASE, lots=len(base))
    centre, mean_range = float(base.mean()), float(moving_ranges(base).mean())
    spread = mean_range / D2
    return ControlLimits(
        centre, spread, centre - 3 * spread, centre + 3 * spread, mean_range, D4 * mean_range
    )


def moving_ranges(values: Values) -> Values:
    """The distance of each value from the one before it, shape (lots - 1,)."""
    return np.abs(np.diff(values))


def signals(values: Values, limits: ControlLimits) -> dict[Rule, Flags]:
    """For each rule, where it is completed: shape (lots,), true at the last lot of the pattern.

    Values that do not scatter at all give no signal but for those off the centre.
    """
    if limits.spread == 0:
        away = values != limits.centre
        return {rule: away & (rule == "beyond-limits") for rule in RULES}
    place = (values - limits.centre) / limits.spread
    side = np.sign(place)
    step = np.sign(np.diff(values))
    turns = np.concatenate(([False], step[1:] * step[:-1] < 0))[: len(step)]
    return {
        "beyond-limits": np.abs(place) > 3,
        "nine-on-one-side": _on_one_side(side, 9),
        "six-in-one-direction": _shifted(_all_of(step > 0, 5) | _all_of(step < 0, 5)),
        "fourteen-alternating": _shifted(_all_of(turns, 12)),
        "two-of-three-far": _so_many_beyond(place, 2.0, 2, 3),
        "four-of-five-off": _so_many_beyond(place, 1.0, 4, 5),
        "fifteen-near": _all_of(np.abs(place) < 1, 15),
        "eight-off-both-sides": _all_of(np.abs(place) > 1, 8) & ~_on_one_side(side, 8),
    }


def _counts(flags: Flags, width: int) -> NDArray[np.int64]:
    """How many of the last `width` are true; 0 where there are not yet so many."""
    if len(flags) < width:
        return np.zeros(len(flags), np.int64)
    whole = np.convolve(flags.astype(np.int64), np.ones(width, np.int64), "valid")
    return np.concatenate((np.zeros(width - 1, np.int64), whole))


def _all_of(flags: Flags, width: int) -> Flags:
    return np.equal(_counts(flags, width), width)


def _on_one_side(side: Values, width: int) -> Flags:
    return _all_of(side > 0, width) | _all_of(side < 0, width)


def _shifted(flags_of_steps: Flags) -> Flags:
    """A step ends at the lot after it begins."""
    return np.concatenate(([False], flags_of_steps))


def _so_many_beyond(place: Values, far: float, least: int, width: int) -> Flags:
    """At least so many of so many on one side beyond, the last of them among these."""
    above, below = place > far, place < -far
    return (above & _at_least(above, least, width)) | (below & _at_least(below, least, width))


def _at_least(flags: Flags, least: int, width: int) -> Flags:
    """How many of the last ones: at the beginning, of as many as there are."""
    padded = np.concatenate((np.zeros(width - 1, np.bool_), flags))
    return np.greater_equal(_counts(padded, width)[width - 1 :], least)
