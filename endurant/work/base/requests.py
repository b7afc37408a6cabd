"""Words from outside: what every request that changes something is read into."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated, Any, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, model_validator

from endurant.core.complaints import complaint
from endurant.core.conditioning.document import EARLIEST, LATEST
from endurant.core.decimal_commas import with_figures


class RequestBody(BaseModel):
    """Unknown fields are refused, and text that cannot be written as UTF-8."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)

    @model_validator(mode="before")
    @classmethod
    def _text_can_be_written(cls, data: Any) -> Any:
        """Half of a surrogate pair is no character, wherever it stands."""
        if not _is_writable(data):
            raise complaint("request.not-text")
        return data

    @model_validator(mode="before")
    @classmethod
    def _figures_with_a_comma(cls, data: Any) -> Any:
        """A figure that comes as text may have a comma, as one that is typed on screen may."""
        return with_figures(cls, data)

    @model_validator(mode="after")
    def _names_are_one_line(self) -> Self:
        """What stands in headings, file names and tables has no line break in it."""
        for name in ONE_LINE:
            text = getattr(self, name, None)
            if isinstance(text, str) and not text.isprintable():
                raise complaint("request.line-break", name=name)
        return self


ONE_LINE = (
    *("client", "product", "name", "lot", "material", "login", "serial", "title", "shelf"),
    *("order_number", "client_reference"),
)
"""Fields that are names, wherever they are asked for."""


def _is_writable(value: Any) -> bool:
    if isinstance(value, str):
        return value.isascii() or not any("\ud800" <= letter <= "\udfff" for letter in value)
    if isinstance(value, dict):
        return all(_is_writable(name) and _is_writable(part) for name, part in value.items())
    if isinstance(value, list):
        return all(isinstance(part, float | int) or _is_writable(part) for part in value)
    return True


def _within_reach(given: datetime) -> datetime:
    """A moment with its zone, in UTC, between 1900 and 2200."""
    if given.tzinfo is None:
        raise complaint("request.no-time-zone")
    if not EARLIEST.year <= given.year < LATEST.year:
        raise complaint("request.time-out-of-range")
    return given.astimezone(UTC)


Moment = Annotated[datetime, AfterValidator(_within_reach)]
"""A moment that somebody gave; it has a zone, and calendars can count from it."""
