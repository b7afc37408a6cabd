"""Units at the edges, comparing at a limit, and rounding on decimal digits."""

from __future__ import annotations

import math
import re
from decimal import Decimal
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from endurant.core.quoting import quoted
from endurant.core.refusals import Invalid
from endurant.core.rounding import EXACT, MODES, RoundingRule, as_decimal, plain_text

SAME_WITHIN = 1e-9
"""Figures that differ by no more than this part of the larger are equal at a limit."""


def equal_at_limit(figure: float, limit: float) -> bool:
    """True when a binary tail alone parts the two."""
    return abs(figure - limit) <= SAME_WITHIN * max(abs(figure), abs(limit))


def at_least(figure: float, limit: float) -> bool:
    """`figure` is the limit or above it."""
    return figure >= limit or equal_at_limit(figure, limit)


def above(figure: float, limit: float) -> bool:
    """`figure` is above the limit; the limit itself is not above."""
    return figure > limit and not equal_at_limit(figure, limit)


def all_at_least(
    figures: NDArray[np.float64], limits: NDArray[np.float64] | float
) -> NDArray[np.bool_]:
    """`at_least`, element by element."""
    slack = SAME_WITHIN * np.maximum(np.abs(figures), np.abs(limits))
    return np.asarray(figures >= limits - slack)


def round_to_step(
    figure: float | str | Decimal, step: float | str | Decimal, rule: RoundingRule = "half-even"
) -> str:
    """Return a figure rounded to whole steps, as text with the decimals of the step.

    A step that is a number has the decimals that it needs: 10 has none, 0.5 has one.
    """
    size = Decimal(step) if isinstance(step, str) else as_decimal(step).normalize()
    if size <= 0:
        raise Invalid("quantity.step-not-positive", step=step, field="step")
    steps = EXACT.divide(as_decimal(figure), size).to_integral_value(rounding=MODES[rule])
    exponent = size.as_tuple().exponent
    decimals = max(-exponent, 0) if isinstance(exponent, int) else 0
    return plain_text(EXACT.multiply(steps, size), decimals)


def last_place(limit: str) -> int:
    """Return the number of decimals that a limit is written with: 0 for "25", 1 for "25.0"."""
    exponent = Decimal(limit).as_tuple().exponent
    return max(-exponent, 0) if isinstance(exponent, int) else 0


def half_step_down(grade: float) -> float:
    """Return a grade rounded down to a half step; a binary tail does not take it down a step."""
    return math.floor(2 * grade + 2 * SAME_WITHIN * abs(grade)) / 2


def grade_text(grade: float) -> str:
    """Return a grade as it is written: 3, or 3-4 for three and a half."""
    whole = int(grade)
    return f"{whole}-{whole + 1}" if grade > whole else str(whole)


GRADES = {grade_text(step / 2): step / 2 for step in range(2, 11)}
"""The nine grades of the five-step scale by their text."""


def read_grade(given: object) -> float:
    """Return a grade given as 3-4, "3.5" or 3.5; raises ValueError in words."""
    if isinstance(given, str):
        if given in GRADES:
            return GRADES[given]
        given = float(given) if re.fullmatch(r"[1-5](\.[05])?", given) else given
    if isinstance(given, int | float) and not isinstance(given, bool) and given in GRADES.values():
        return float(given)
    raise ValueError(f"must be one of {', '.join(GRADES)}; {quoted(given)} was given")


_TEN_MINUTES = re.compile(r"/\s*10\s*min(ute)?s?\b")


def split_header_unit(header: str) -> tuple[str, str | None]:
    """`"Load (kN)"` as `("Load", "kN")`; without a unit the second is None."""
    name = header.strip()
    if not name.endswith((")", "]")):
        return name, None
    inner = name[:-1]
    start = max(inner.rfind("("), inner.rfind("["))
    unit = inner[start + 1 :].strip() if start >= 0 else ""
    if not unit or ")" in unit or "]" in unit:
        return name, None
    return inner[:start].rstrip(), unit


@lru_cache(maxsize=64)
def factor_between(unit: str, requested: str) -> float:
    """Return what a figure in `unit` is multiplied by to be in `requested`.

    Raises Invalid when the unit is unknown or measures something else.
    """
    import pint

    try:
        plain = unit.replace("²", "**2").replace("³", "**3").replace("%", "percent")
        tens = _TEN_MINUTES.subn("/min", plain)
        quantity = pint.application_registry.Quantity(0.1 ** tens[1], tens[0])
        return float(quantity.to(requested).magnitude)
    except pint.DimensionalityError as error:
        raise Invalid("quantity.unit-of-other-kind", unit=unit, expected=requested) from error
    except Exception as error:  # the parser of unit names raises many kinds
        raise Invalid("quantity.unit-unknown", unit=unit, expected=requested) from error


System = Literal["metric", "inch-pound"]

INCH_POUND = {
    "N": "lbf",
    "kN": "lbf",
    "mm": "in",
    "MPa": "psi",
    "kPa": "psi",
    "kN/m": "lbf/in",
    "N/mm": "lbf/in",
    "J": "ft*lbf",
    "mJ": "in*lbf",
    "kJ/m²": "ft*lbf/in²",
    "J/m": "ft*lbf/in",
    "g/m²": "oz/yd²",
    "m/s": "ft/s",
}
"""What a unit of ours is in the inch-pound system; those left out stay as they are."""


def in_system(unit: str, system: System) -> tuple[str, float]:
    """Return the unit of a figure in a system of units, and the factor to convert to it."""
    other = INCH_POUND.get(unit)
    if system == "metric" or other is None:
        return unit, 1.0
    return other.replace("*", "·"), factor_between(unit, other)


def significant_digits(text: str) -> int:
    """Return how many digits of a rounded text are significant: 3 for 23.4 and 1490."""
    return max(len(text.lstrip("-").replace(".", "").lstrip("0").rstrip()), 1)
