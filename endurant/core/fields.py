"""The kinds of number and text that documents hold, and the base of all models of the core."""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import BaseModel, ConfigDict, Field, model_validator

from endurant.core.bounds import first_out_of_range
from endurant.core.complaints import carrying

LARGEST = 1e12
"""No reading of a bench is larger; a larger one is a slip, and its square would overflow."""


Number = Annotated[float, Field(strict=True, allow_inf_nan=False, ge=-LARGEST, le=LARGEST)]


Positive = Annotated[float, Field(strict=True, allow_inf_nan=False, gt=0, le=LARGEST)]


NotNegative = Annotated[float, Field(strict=True, allow_inf_nan=False, ge=0, le=LARGEST)]


Whole = Annotated[int, Field(strict=True, ge=1, le=1_000_000_000)]


Sections = Annotated[list[Positive], Field(min_length=1, max_length=200)]


Name = Annotated[str, Field(strict=True, min_length=1, max_length=80)]


class Strict(BaseModel):
    """Unknown fields are refused, as are numbers that no bench reads; it is never changed."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    @model_validator(mode="after")
    def _numbers_in_bounds(self) -> Self:
        """Every number lies within the bounds of the unit that its field's name ends in."""
        for name, value in self.__dict__.items():
            if value is None or isinstance(value, str):
                continue
            wrong = first_out_of_range(name, value)
            if wrong is not None:
                raise carrying(wrong, name)
        return self
