"""How a laboratory writes figures and days: point or comma, by name or number, in which units."""

from __future__ import annotations

import re
from datetime import date
from typing import Literal

from pydantic import BaseModel

from endurant.core.quantities import in_system, significant_digits
from endurant.core.rounding import round_to_significant

DecimalSign = Literal["point", "comma"]
DateStyle = Literal["named", "dotted", "iso"]
Units = Literal["metric", "both"]

FORMATS: dict[DateStyle, str] = {"named": "%d %b %Y", "dotted": "%d.%m.%Y", "iso": "%Y-%m-%d"}
_FIGURE = re.compile(r"(?<![\w.])(-?\d+)\.(\d+)(?![\w]|\.\d)")


class Writing(BaseModel):
    """The sign before decimals, how a day is written, and whether inch-pound units stand beside."""

    decimal_sign: DecimalSign = "point"
    date_style: DateStyle = "named"
    units: Units = "metric"

    def beside(self, figure: float | None, unit: str, reported: str | None) -> str:
        """A reported figure in inch-pound units too, to as many digits; empty where it is not."""
        other, factor = in_system(unit, "inch-pound")
        if self.units == "metric" or figure is None or reported is None or factor == 1:
            return ""
        digits = significant_digits(reported)
        return f"{round_to_significant(figure * factor, digits)} {other}"

    def day(self, day: date) -> str:
        """Return a day: 27 Nov 2026, 27.11.2026 or 2026-11-27."""
        return format(day, FORMATS[self.date_style])

    def figures(self, text: str) -> str:
        """Figures as they were rounded, with this sign: "24.0", "mean ≥ 25.0 N", "9.98 × 4.01".

        For text that the program made of figures and units. What somebody typed (a lot, a name,
        the number of a certificate) never goes through here.
        """
        return text if self.decimal_sign == "point" else _FIGURE.sub(r"\1,\2", text)
