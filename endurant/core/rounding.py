"""Rounding on decimal digits, and numbers as people read them."""

from __future__ import annotations

from decimal import ROUND_HALF_EVEN, ROUND_HALF_UP, Context, Decimal
from typing import Literal

RoundingRule = Literal["half-even", "half-up"]

MINUS = "−"
"""The sign of a negative figure that people read; a hyphen is for programs."""

MODES = {"half-even": ROUND_HALF_EVEN, "half-up": ROUND_HALF_UP}
EXACT = Context(prec=400)


def as_decimal(figure: float | str | Decimal) -> Decimal:
    """Return the decimal that is rounded: text as it is, a computed figure to 12 digits."""
    if isinstance(figure, Decimal):
        return figure
    if isinstance(figure, str):
        return Decimal(figure)
    return Decimal(f"{figure:.11e}")


def round_to_decimals(
    figure: float | str | Decimal, decimals: int, rule: RoundingRule = "half-even"
) -> str:
    """Text of `figure` with this many decimals; a negative count rounds to tens, hundreds."""
    value = as_decimal(figure)
    rounded = value.quantize(Decimal(1).scaleb(-decimals), rounding=MODES[rule], context=EXACT)
    return plain_text(rounded, max(decimals, 0))


def round_to_significant(
    figure: float | str | Decimal,
    digits: int,
    rule: RoundingRule = "half-even",
    most_decimals: int | None = None,
) -> str:
    """Return text of `figure` with this many significant digits; zero reads 0.

    A carry keeps the number of digits: 9.996 to three reads 10.0.
    """
    value = as_decimal(figure)
    if value == 0:
        return "0"
    decimals = digits - 1 - value.adjusted()
    if most_decimals is None or decimals <= most_decimals:
        rounded = Decimal(round_to_decimals(value, decimals, rule))
        if rounded != 0 and rounded.adjusted() > value.adjusted():
            decimals -= 1
    if most_decimals is not None:
        decimals = min(decimals, most_decimals)
    return round_to_decimals(value, decimals, rule)


def plain_text(value: Decimal, decimals: int) -> str:
    """Return a decimal with this many decimals; zero has no sign."""
    text = f"{value:.{decimals}f}"
    return text[1:] if text.startswith("-") and Decimal(text) == 0 else text


def four_digits(figure: float) -> str:
    """Return a figure for reading in a working: four significant digits, no exponent."""
    return round_to_significant(figure, 4)


def in_numbers(figure: float) -> str:
    """Return a figure in a sentence or a working, for people to read: a minus sign, no exponent.

    Six significant digits at most, no tail of zeros.
    """
    if figure == 0:
        return "0"
    text = round_to_significant(figure, 6)
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return text.replace("-", MINUS)
