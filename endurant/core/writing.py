"""How a laboratory writes figures and days: with a point or a comma, by name or by number."""

from __future__ import annotations

import re
from datetime import date
from typing import Literal

from pydantic import BaseModel

DecimalSign = Literal["point", "comma"]
DateStyle = Literal["named", "dotted", "iso"]

FORMATS: dict[DateStyle, str] = {"named": "%d %b %Y", "dotted": "%d.%m.%Y", "iso": "%Y-%m-%d"}
_LEFT_ALONE = re.compile(r"(<style\b.*?</style>|<[^>]*>)", re.DOTALL | re.IGNORECASE)
_FIGURE = re.compile(r"(?<![\w.])(-?\d+)\.(\d+)(?![\w]|\.\d)")


class Writing(BaseModel):
    """The sign before decimals, and how a day is written."""

    decimal_sign: DecimalSign = "point"
    date_style: DateStyle = "named"

    def day(self, day: date) -> str:
        """A day: 27 Nov 2026, 27.11.2026 or 2026-11-27."""
        return format(day, FORMATS[self.date_style])

    def marked_up(self, page: str) -> str:
        """A page whose figures have this sign; what stands in tags and styles is left alone."""
        if self.decimal_sign == "point":
            return page
        parts = _LEFT_ALONE.split(page)
        return "".join(
            part if place % 2 else _FIGURE.sub(r"\1,\2", part) for place, part in enumerate(parts)
        )
