"""The figures that a method gives, and how they are written."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from endurant.core.complaints import complaint
from endurant.core.fields import Strict
from endurant.core.quantities import above, at_least, grade_text, half_step_down, round_to_step
from endurant.core.rounding import RoundingRule, round_to_decimals, round_to_significant

Statistic = Literal["mean", "median", "count", "class"]


class Digits(Strict):
    """To how many digits, decimals or in which step a figure is reported; one of the three."""

    significant: Annotated[int, Field(strict=True, ge=1, le=12)] | None = None
    decimals: Annotated[int, Field(strict=True, ge=0, le=9)] | None = None
    step: Annotated[str, Field(pattern=r"^\d{1,6}(\.\d{1,6})?$")] | None = None

    @model_validator(mode="after")
    def _one_of_three(self) -> Self:
        given = [self.significant, self.decimals, self.step]
        if sum(way is not None for way in given) != 1 or (
            self.step is not None and not float(self.step)
        ):
            raise complaint("digits.form")
        return self


@dataclass(frozen=True)
class Band:
    """Figures below a limit, or up to and with it, that are rounded to a step of their own."""

    limit: float
    step: str
    inside: bool = False

    def holds(self, figure: float) -> bool:
        """The unrounded figure belongs to this band."""
        return at_least(self.limit, figure) if self.inside else above(self.limit, figure)

    def in_words(self) -> str:
        """Return which figures it is for."""
        return f"{'up to' if self.inside else 'below'} {self.limit:g}"


@dataclass(frozen=True)
class Property:
    """A figure that a method gives, and the way it is written.

    Rounded to `significant` digits (with `most_decimals` at most), to `decimals`, or to a
    `step`, which `bands` of smaller figures have of their own; a `grade` is rounded down to a
    half step and written as 3-4. A figure that is not `summed` belongs to its specimen alone.
    """

    name: str
    title: str
    unit: str
    statistic: Statistic = "mean"
    significant: int | None = None
    most_decimals: int | None = None
    decimals: int | None = None
    step: str | None = None
    bands: tuple[Band, ...] = ()
    grade: bool = False
    summed: bool = True

    def reported_by(self, digits: Digits) -> Property:
        """Return the same property, written to the digits of the laboratory."""
        return replace(
            self,
            significant=digits.significant,
            most_decimals=None,
            decimals=digits.decimals,
            step=digits.step,
            bands=(),
        )

    def reported(self, figure: float, rule: RoundingRule) -> str:
        """Return the text that stands in the report."""
        for band in self.bands:
            if band.holds(figure):
                return round_to_step(figure, band.step, rule)
        if self.grade:
            return grade_text(half_step_down(figure))
        if self.step is not None:
            return round_to_step(figure, self.step, rule)
        if self.significant is not None:
            return round_to_significant(figure, self.significant, rule, self.most_decimals)
        return round_to_decimals(figure, self.decimals or 0, rule)

    def rounded_in_words(self) -> str:
        """Return how `reported` rounds: "to 3 significant digits"."""
        if self.grade:
            return "down to a half step"
        if self.step is not None:
            bands = [f"{band.in_words()} to {band.step}" for band in self.bands]
            return ", ".join([*bands, f"{'above ' if bands else ''}to {self.step} {self.unit}"])
        if self.significant is not None:
            upper = "" if self.most_decimals is None else f", {self.most_decimals} decimals at most"
            return f"to {self.significant} significant digits{upper}"
        return f"to {self.decimals or 0} decimals"
