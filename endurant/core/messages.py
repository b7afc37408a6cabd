"""Messages for people: each has a code, parameters, and its sentence in the catalogue.

Programs decide on the code. The sentence stands in `messages.po`, where it can be read, corrected
and translated without a change of code.
"""

from __future__ import annotations

import string
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import date, datetime
from functools import cache
from importlib.resources import files
from math import isfinite
from typing import Any

from babel.messages.pofile import read_po
from pydantic import JsonValue

from endurant.core.field_names import spoken
from endurant.core.quoting import listed, printable, quoted
from endurant.core.rounding import in_numbers

LONGEST_PARAMETER = 300
"""Characters of a text parameter that a sentence or a document of a refusal holds."""


@dataclass(frozen=True)
class Message:
    """One message: its code, the values of its sentence, and the messages that place it.

    `around` holds the code and parameters of each sentence that has this one as its `{message}`,
    from the inside out: "Row 3: …" inside "parcel.csv: …".
    """

    code: str
    params: Mapping[str, Any] = field(default_factory=dict)
    around: tuple[Message, ...] = ()

    @property
    def text(self) -> str:
        """The sentence in English."""
        sentence = _in_words(self.code, self.params)
        for outer in self.around:
            sentence = _in_words(outer.code, {**outer.params, "message": sentence})
        return sentence

    def within(self, code: str, /, **params: object) -> Message:
        """Return this message placed inside another sentence; its code stays."""
        return Message(self.code, self.params, (*self.around, Message(code, params)))

    def plain_params(self) -> dict[str, JsonValue]:
        """Return the parameters as JSON holds them."""
        return {name: _plain(value) for name, value in self.params.items()}

    def __str__(self) -> str:
        return self.text


def worded(code: str, **params: object) -> str:
    """Return the text of the catalogue for `code`, with its values filled in."""
    return _in_words(code, params)


_CONVERSIONS: dict[str, Callable[[Any], str]] = {
    "q": quoted,
    "l": listed,
    "n": in_numbers,
    "f": spoken,
}


class _Sentence(string.Formatter):
    """A sentence with its values: `!q` quotes, `!l` lists, `!n` writes a number, `!f` a field.

    A moment is written in the local time of the laboratory, which is that of its server.
    """

    def convert_field(self, value: Any, conversion: str | None) -> Any:
        if conversion is None:
            return value
        return _CONVERSIONS[conversion](value)

    def format_field(self, value: Any, format_spec: str) -> Any:
        if isinstance(value, datetime) and value.tzinfo is not None:
            value = value.astimezone()
        if format_spec:
            return format(value, format_spec)
        if isinstance(value, list | tuple):
            return ", ".join(map(str, value))
        return printable(str(value))


_SENTENCE = _Sentence()


def _in_words(code: str, params: Mapping[str, Any]) -> str:
    return _SENTENCE.vformat(sentences()[code], (), params)


@cache
def sentences() -> dict[str, str]:
    """Return the catalogue: the sentence of each code, with its parameters in braces."""
    with files("endurant.core").joinpath("messages.po").open("rb") as file:
        catalogue = read_po(file, locale="en")
    return {str(entry.id): str(entry.string) for entry in catalogue if entry.id}


def _plain(value: Any) -> JsonValue:
    if value is None or isinstance(value, bool | int):
        return value
    if isinstance(value, float):
        return value if isfinite(value) else str(value)
    if isinstance(value, datetime | date):
        return value.isoformat()
    if isinstance(value, list | tuple):
        return [_plain(each) for each in value]
    return printable(str(value))[:LONGEST_PARAMETER]
