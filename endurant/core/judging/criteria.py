"""What a property must be: a limit of every kind, and how it is read."""

from __future__ import annotations

import re
from decimal import Decimal
from typing import Annotated, Any, Literal, Self

from pydantic import AfterValidator, Field, model_validator

from endurant.core.complaints import complaint
from endurant.core.fields import Positive, Strict, Whole
from endurant.core.messages import worded
from endurant.core.quantities import (
    last_place,
    read_grade,
)

Operator = Literal[">=", "<=", "between"]


On = Literal["mean", "median", "every", "class", "grade", "count", "no-failures", "report-only"]


FIGURES = ("mean", "median", "every")


_PLAIN_NUMBER = re.compile(r"-?\d{1,12}(\.\d{1,9})?|[1-4]-[2-5]")


_SIGNS = {">=": "≥", "<=": "≤"}


_OWN_OPERATOR: dict[str, Operator] = {"class": "<=", "grade": ">=", "count": ">="}


def _limit_text(text: str) -> str:
    if not _PLAIN_NUMBER.fullmatch(text):
        raise complaint("limit.not-a-number", given=text)
    return text


LimitText = Annotated[str, AfterValidator(_limit_text)]
"""A limit as it is written: its last place says to where figures are rounded."""


class Criterion(Strict):
    """What a property must be.

    A mean, a median or every single value against a limit or between two; a class, a grade,
    a count; no failures of so many; or nothing, when it is only reported.
    """

    on: On = Field("mean", description="Which figure is judged.")
    op: Operator | None = Field(None, description="At least, at most, or between two limits.")
    limit: LimitText | None = Field(
        None, description="The limit as text, so that its last place is known."
    )
    low: LimitText | None = Field(None, description="The lower limit of two.")
    high: LimitText | None = Field(None, description="The upper limit of two.")
    none_below_percent: Positive | None = Field(
        None, description="No single value below this many percent of the limit."
    )
    of: Whole | None = Field(None, description="How many are tested without a failure.")

    @model_validator(mode="before")
    @classmethod
    def _own_operator(cls, data: Any) -> Any:
        """Give a class, a grade, a count and a plain limit their own operator."""
        if not isinstance(data, dict) or data.get("op") is not None:
            return data
        on = data.get("on", "mean")
        if not isinstance(on, str):
            return data
        if on in _OWN_OPERATOR:
            return data | {"op": _OWN_OPERATOR[on]}
        return data | {"op": ">="} if on in FIGURES else data

    @model_validator(mode="after")
    def _fields_go_together(self) -> Self:
        """Each kind has its own fields, and no others."""
        requested = _fields_used(self)
        for name in ("limit", "low", "high", "of"):
            given = getattr(self, name) is not None
            if given and name not in requested:
                raise complaint("limit.part-not-allowed", part=name, statistic=self.on)
            if not given and name in requested:
                raise complaint("limit.part-missing", part=name, statistic=self.on)
        if self.on in _OWN_OPERATOR and self.op != _OWN_OPERATOR[self.on]:
            raise complaint(
                "limit.operator-differs", expected=_OWN_OPERATOR[self.on], statistic=self.on
            )
        if self.on in ("no-failures", "report-only") and self.op is not None:
            raise complaint("limit.operator-not-allowed", statistic=self.on)
        if self.none_below_percent is not None and (
            self.on not in ("mean", "median") or self.op != ">="
        ):
            raise complaint("limit.none-below-not-allowed")
        if self.on == "grade":
            read_grade(self.limit)
        elif any("-" in (text or "")[1:] for text in (self.limit, self.low, self.high)):
            raise complaint("limit.plain-number-expected")
        if self.op == "between" and Decimal(self.low or 0) > Decimal(self.high or 0):
            raise complaint("limit.low-above-high")
        return self

    def in_words(self, unit: str) -> str:
        """The limit as it is read, such as mean ≥ 25.0 N, with a no-break space before the unit."""
        after = f"\u00a0{unit}" if unit and unit != "grade" else ""
        if self.on == "report-only":
            return "report only"
        if self.on == "no-failures":
            return worded("limit-rule.no-failures-of", of=self.of)
        if self.op == "between":
            return worded(
                "limit-rule.from-to", on=self.on, low=self.low, high=self.high, after=after
            )
        wording = f"{self.on} {_SIGNS[self.op or '>=']} {self.limit}{after}"
        if self.none_below_percent is not None:
            wording += worded("limit-rule.none-below", none_below_percent=self.none_below_percent)
        return wording

    def limits(self) -> list[tuple[Operator, str]]:
        """Return the limits that a figure is held against, each with its operator."""
        if self.op == "between":
            return [(">=", self.low or ""), ("<=", self.high or "")]
        return [(self.op or ">=", self.limit or "")]

    def places(self) -> int:
        """Decimals to which a figure is rounded: those of the finer limit."""
        return max(last_place(text) for _, text in self.limits())


def _fields_used(criterion: Criterion) -> tuple[str, ...]:
    if criterion.on == "report-only":
        return ()
    if criterion.on == "no-failures":
        return ("of",)
    return ("low", "high") if criterion.op == "between" else ("limit",)
