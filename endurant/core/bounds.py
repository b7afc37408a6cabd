"""What a bench can read: the bounds of every number, by the unit that its field's name ends in.

A number outside them is a slip or rubbish; inside them no formula of a method overflows, and
no product or square of sizes vanishes.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache
from math import inf, isfinite
from typing import Any

import numpy as np

from endurant.core.messages import Message
from endurant.core.refusals import Invalid


@dataclass(frozen=True)
class Range:
    """Least size of a number that is not 0, and the ends between which it lies, in its unit."""

    unit: str
    min_size: float
    upper: float
    lower: float | None = None

    @property
    def lowest(self) -> float:
        """The lower end; sizes and forces have a sign, temperatures end at absolute zero."""
        return -self.upper if self.lower is None else self.lower


RANGES = {
    "mm": Range("mm", 1e-6, 1e6),
    "mm2": Range("mm²", 1e-6, 1e10),
    "cm2": Range("cm²", 1e-6, 1e8),
    "n": Range("N", 1e-9, 1e8),
    "n_per_mm": Range("N/mm", 1e-9, 1e8),
    "n_per_s": Range("N/s", 1e-9, 1e8),
    "mpa": Range("MPa", 1e-9, 1e8),
    "kpa": Range("kPa", 1e-9, 1e8),
    "j": Range("J", 1e-9, 1e6),
    "mg": Range("mg", 1e-6, 1e10),
    "g": Range("g", 1e-9, 1e8),
    "kg": Range("kg", 1e-9, 1e6),
    "g_m2": Range("g/m²", 1e-6, 1e8),
    "g_cm3": Range("g/cm³", 1e-6, 1e4),
    "s": Range("s", 1e-9, 1e9),
    "min": Range("min", 1e-9, 1e8),
    "minutes": Range("min", 1e-9, 1e8),
    "h": Range("h", 1e-9, 1e7),
    "hours": Range("h", 1e-9, 1e7),
    "mm_min": Range("mm/min", 1e-6, 1e7),
    "mm_s": Range("mm/s", 1e-6, 1e6),
    "hz": Range("Hz", 1e-6, 1e6),
    "c": Range("°C", 0, 5000, -273.15),
    "percent": Range("%", 1e-9, 1e6),
    "percent_per_min": Range("%/min", 1e-9, 1e8),
    "g_rms": Range("g", 1e-9, 1e4),
    "metre": Range("per metre", 1e-6, 1e6),
}
"""By the unit at the end of a field's name."""

MAX_WHOLE = 10**300
"""A whole number beyond this is no float at all."""

POSITIONS = ("x_mm", "y_mm")
"""Where something lies: as near to 0 as it likes."""

PLAIN = Range("", 1e-30, 1e12)
"""Of a number whose name has no unit: a ratio, a count, a value whose unit is said elsewhere."""


@lru_cache(maxsize=4096)
def range_of(field: str) -> Range:
    """Return the range of a field, by the longest unit that its name ends in."""
    parts = field.split("_")
    for start in range(1, len(parts)):
        known = RANGES.get("_".join(parts[start:]))
        if known is not None:
            return known
    return PLAIN


def out_of_range(field: str, given: float) -> Message | None:
    """Return what is wrong with a number of this field; None when a bench can read it."""
    bounds = range_of(field)
    unit = f" {bounds.unit}" if bounds.unit else ""
    number = inf if abs(given) > MAX_WHOLE else float(given)
    if not isfinite(number):
        return Message("bounds.not-finite")
    if not bounds.lowest <= number <= bounds.upper:
        limits = {"min": bounds.lowest, "max": bounds.upper, "unit": unit}
        return Message("bounds.out-of-range", {"given": number, **limits})
    if number != 0 and abs(number) < bounds.min_size and field not in POSITIONS:
        limits = {"min": bounds.min_size, "unit": unit}
        return Message("bounds.too-near-zero", {"given": number, **limits})
    return None


def first_out_of_range(field: str, value: object) -> Message | None:
    """Return the first number of a value that no bench can read, however nested its lists are.

    Of a column of samples only the upper ends count: a sample may lie as near to 0 as it likes.
    """
    if isinstance(value, bool | str) or value is None:
        return None
    if isinstance(value, int | float):
        return out_of_range(field, value)
    if isinstance(value, dict):
        inside = (first_out_of_range(name, member) for name, member in value.items())
        return next((wrong for wrong in inside if wrong is not None), None)
    if isinstance(value, np.ndarray):
        return _column_out_of_range(field, value)
    if isinstance(value, list | tuple):
        for place, member in enumerate(value, start=1):
            if isinstance(member, list | tuple):
                wrong = first_out_of_range(field, np.array(_flat(member)))
            else:
                wrong = first_out_of_range(field, member)
            if wrong is not None:
                if isinstance(member, np.ndarray):
                    return wrong
                return wrong.within("bounds.number", place=place)
    return None


def _flat(row: list[Any] | tuple[Any, ...]) -> list[float]:
    """The plain numbers of a row of a table or a corner; they lie where they like."""
    return [
        float(number)
        for number in row
        if isinstance(number, int | float) and not isinstance(number, bool)
    ]


def _column_out_of_range(
    field: str, column: np.ndarray[Any, np.dtype[np.float64]]
) -> Message | None:
    bounds = range_of(field)
    beyond = (column < bounds.lowest) | (column > bounds.upper)
    if not beyond.any():
        return None
    sample = int(np.argmax(beyond))
    wrong = out_of_range(field, float(column[sample]))
    return None if wrong is None else wrong.within("bounds.sample", place=sample + 1)


def refuse_what_is_not_finite(answer: object, where: str) -> None:
    """Refuse an answer that holds a number which is none; the end of every computation.

    Raises Invalid that names the figure: readings inside their bounds can still be out of all
    proportion to one another.
    """
    for path, number in _numbers(answer, ""):
        if not isfinite(number):
            figure = path.rsplit(".", 1)[-1]
            raise Invalid("document.not-finite", where=where, property=figure, field=figure)


def _numbers(value: object, path: str) -> Iterator[tuple[str, float]]:
    if isinstance(value, float):
        yield path, value
    elif isinstance(value, Mapping):
        for name, member in value.items():
            yield from _numbers(member, f"{path}.{name}")
    elif isinstance(value, list | tuple):
        for member in value:
            yield from _numbers(member, path)
