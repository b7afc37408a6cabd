"""A curve of joined samples: where it first reaches a level, what it is worth, where it breaks.

Samples are joined by straight lines. Levels are met within one part in 1e9, so that decimal
readings behave as they are written.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from endurant.core.quantities import SAME_WITHIN, all_at_least
from endurant.core.trace import Samples

MAXIMUM_SHARE_AT_BREAK = 0.1


@dataclass(frozen=True)
class Place:
    """A place on the joined line: `share` of the way from sample `index - 1` to `index`."""

    index: int
    share: float

    def of(self, column: Samples) -> float:
        """Return what the column is worth there."""
        if self.share >= 1 or self.index == 0:
            return float(column[self.index])
        before, after = float(column[self.index - 1]), float(column[self.index])
        return before + self.share * (after - before)


START = Place(0, 1.0)


def first_index(mask: NDArray[np.bool_], start: int = 0) -> int | None:
    """Return the index of the first true sample of a mask of shape (n,) from `start` on.

    None when there is none.
    """
    tail = mask[start:]
    if tail.size == 0:
        return None
    index = int(np.argmax(tail))
    return start + index if tail[index] else None


def first_reach(column: Samples, level: float, start: int = 0) -> Place | None:
    """Return where the line through the samples, shape (n,), first reaches a level from `start` on.

    The place lies between two samples as a rule. It is the first sample when that is at or above
    the level already, and None when the level is never reached.
    """
    index = first_index(all_at_least(column, level), start)
    if index is None:
        return None
    if index == start:
        return Place(index, 1.0)
    before, after = float(column[index - 1]), float(column[index])
    return Place(index, min((level - before) / (after - before), 1.0))


def first_fall(column: Samples, level: float, start: int = 0) -> Place | None:
    """Return where the line through the samples first falls to a level from `start` on."""
    return first_reach(-column, -level, start)


def worth_at(x: Samples, y: Samples, at: float) -> float:
    """Return y on the line through the samples at one x; the end values beyond the ends.

    `x` and `y` have shape (n,), and `x` never falls.
    """
    return float(np.interp(at, x, y))


def area_under(x: Samples, y: Samples, start: Place, end: Place) -> float:
    """Return the area between two places by the trapezoidal rule, in units of x times y.

    `x` and `y` have shape (n,). A place between two samples is interpolated linearly.
    """
    inner = slice(start.index, end.index)
    xs = np.concatenate(([start.of(x)], x[inner], [end.of(x)]))
    ys = np.concatenate(([start.of(y)], y[inner], [end.of(y)]))
    return float(np.sum((xs[1:] - xs[:-1]) * (ys[1:] + ys[:-1])) / 2)


def break_index(force: Samples, break_drop: float) -> int:
    """Return the index of the last sample before the break, of a force in N of shape (n,).

    The break is the first drop between neighbours of more than `break_drop` (a share of the
    maximum) from the maximum on. Without such a drop it is the last sample at or above a tenth of
    the maximum.
    """
    top = int(np.argmax(force))
    upper = float(force[top])
    drop = first_index(force[top:-1] - force[top + 1 :] > break_drop * upper * (1 + SAME_WITHIN))
    if drop is not None:
        return top + drop
    held = all_at_least(force[top:], MAXIMUM_SHARE_AT_BREAK * upper)
    return int(force.size - 1 - np.argmax(held[::-1]))
