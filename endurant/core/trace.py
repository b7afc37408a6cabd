"""A trace and what can be read off one."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from endurant.core.quantities import SAME_WITHIN, all_at_least

Samples = NDArray[np.float64]


@dataclass(frozen=True)
class Peaks:
    """Peaks in the order of the trace: sample index, extension in mm, force in N."""

    index: NDArray[np.intp]
    extension_mm: Samples
    force_n: Samples

    def __len__(self) -> int:
        return int(self.index.size)

    def points(self) -> tuple[tuple[float, float], ...]:
        """Return the peaks as points to draw, in mm and N."""
        return tuple(zip(self.extension_mm.tolist(), self.force_n.tolist(), strict=True))

    def where(self, chosen: NDArray[np.bool_]) -> Peaks:
        """Return those of the peaks for which `chosen` is true."""
        return Peaks(self.index[chosen], self.extension_mm[chosen], self.force_n[chosen])


def find_peaks(
    extension_mm: Samples, force_n: Samples, prominence_share: float, floor_share: float
) -> Peaks:
    """Return local maxima that stand out.

    A peak's prominence is its height above the higher of the two lowest points that part
    it from greater ground on either side, greater ground being the next strictly greater
    sample or the end of the trace. It must be `prominence_share` of the peak's own force,
    and the force `floor_share` of the highest of the trace. Of a flat top the first sample
    counts; the first and the last sample of the trace are no peaks.
    """
    floor_n = max(floor_share * float(force_n.max()), 0.0)
    index = _standing_out(force_n, lambda heights: prominence_share * heights, floor_n)
    index = index[force_n[index] > 0]
    return Peaks(index, extension_mm[index], force_n[index])


def find_maxima(column: Samples, prominence: float) -> NDArray[np.intp]:
    """Return the indices of local maxima of at least this prominence, in the unit of the column."""
    lowest = float(column.min())
    return _standing_out(column, lambda heights: np.full(heights.size, prominence), lowest)


Needed = Callable[[Samples], Samples]
"""The prominence that tops of these heights need; it grows with the height, or stays."""


def _standing_out(column: Samples, needed: Needed, floor: float) -> NDArray[np.intp]:
    """Indices of the tops at or above the floor that have the prominence they need."""
    tops, valleys = _without_ripple(column, _tops(column), needed, floor)
    heights = column[tops]
    return tops[all_at_least(_prominences(heights, valleys), needed(heights))]


def _tops(force_n: Samples) -> NDArray[np.intp]:
    """Indices of all local maxima, the first sample of a flat top, ends excluded."""
    first_of_run = np.flatnonzero(np.diff(force_n, prepend=np.nan) != 0)
    rises = np.diff(force_n[first_of_run]) > 0
    return np.asarray(first_of_run[1:-1][rises[:-1] & ~rises[1:]], dtype=np.intp)


def _without_ripple(
    column: Samples, tops: NDArray[np.intp], needed: Needed, floor: float
) -> tuple[NDArray[np.intp], Samples]:
    """The tops that may stand out, and the lowest points before, between and after them.

    A top is left out when the valley towards a strictly greater neighbour is shallower than
    the prominence it needs. No peak is lost: such a top is none, and for every lower top
    that had it as greater ground that same valley is too shallow as well. Each round works
    on all tops at once, which noise needs; what is left is small, or is given up on.
    """
    tops = tops[all_at_least(column[tops], floor)]
    if tops.size == 0:
        return tops, np.empty(0)
    valleys = np.minimum.reduceat(column, np.concatenate(([0], tops)))
    while tops.size > FEW_TOPS:
        heights = column[tops]
        lower = needed(heights)
        deep = heights - lower + 2 * SAME_WITHIN * (np.abs(heights) + lower)
        ripple = np.zeros(tops.size, dtype=bool)
        ripple[:-1] |= (heights[1:] > heights[:-1]) & (valleys[1:-1] > deep[:-1])
        ripple[1:] |= (heights[1:] < heights[:-1]) & (valleys[1:-1] > deep[1:])
        if ripple.sum() < RIPPLE_WORTH_A_ROUND * tops.size:
            break
        kept = np.flatnonzero(~ripple)
        valleys = np.minimum.reduceat(valleys, np.concatenate(([0], kept + 1)))
        tops = tops[kept]
    return tops, valleys


FEW_TOPS = 200
RIPPLE_WORTH_A_ROUND = 0.02


def _prominences(heights: Samples, valleys: Samples) -> Samples:
    """Height of each top above the higher of its two lowest points towards greater ground.

    One pass from each side over tops and the valleys between them, with a stack of the
    tops that may still be greater ground: linear in the number of tops, where a walk from
    every top would be quadratic on a saturated trace.
    """
    if heights.size == 0:
        return np.empty(0)
    left = _lowest_towards_greater(heights, valleys[:-1])
    right = _lowest_towards_greater(heights[::-1], valleys[:0:-1])[::-1]
    return np.asarray(heights - np.maximum(left, right))


def _lowest_towards_greater(heights: Samples, valleys_before: Samples) -> Samples:
    """For each top the lowest point between it and the last strictly greater top before it."""
    lowest: list[float] = []
    stack: list[tuple[float, float]] = []
    for height, valley in zip(heights.tolist(), valleys_before.tolist(), strict=True):
        low = valley
        while stack and stack[-1][0] <= height:
            low = min(low, stack.pop()[1])
        stack.append((height, low))
        lowest.append(low)
    return np.asarray(lowest)


def mean_speed_mm_min(time_s: Samples, extension_mm: Samples) -> float | None:
    """Return the mean crosshead speed over a trace in mm/min; None when its time stands still.

    `time_s` and `extension_mm` have shape (n,).
    """
    duration_s = float(time_s[-1] - time_s[0])
    if duration_s <= 0:
        return None
    return 60 * float(extension_mm[-1] - extension_mm[0]) / duration_s


def thin(x: Samples, y: Samples, max_points: int) -> tuple[Samples, Samples]:
    """Return at most `most_points` points for drawing; each stretch keeps its lowest and highest.

    For the eye only: nothing is ever computed from a thinned trace.
    """
    if x.size <= max_points:
        return x, y
    edges = np.linspace(0, x.size, max_points // 2 + 1).astype(np.intp)
    kept: set[int] = {0, int(x.size) - 1}
    for start, stop in pairwise(edges.tolist()):
        kept.add(int(start + np.argmin(y[start:stop])))
        kept.add(int(start + np.argmax(y[start:stop])))
    order = np.fromiter(sorted(kept), dtype=np.intp)
    return x[order], y[order]
