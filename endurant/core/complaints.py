"""What validation finds wrong with a document, as messages of the catalogue."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from pydantic_core import PydanticCustomError

from endurant.core.messages import Message
from endurant.core.quoting import quoted

_CARRIED = "message"
"""The kind of a validation error that carries a message of ours."""

_FIELD_MESSAGES = {
    "missing": "field.missing",
    "extra_forbidden": "field.unknown",
    "finite_number": "field.number-expected",
    "float_type": "field.number-expected",
    "float_parsing": "field.number-expected",
    "int_type": "field.whole-number-expected",
    "int_parsing": "field.whole-number-expected",
    "int_from_float": "field.whole-number-expected",
    "bool_type": "field.yes-or-no-expected",
    "bool_parsing": "field.yes-or-no-expected",
    "string_type": "field.text-expected",
    "list_type": "field.list-expected",
    "dict_type": "field.object-expected",
    "model_type": "field.object-expected",
    "model_attributes_type": "field.object-expected",
    "greater_than": "field.too-low",
    "greater_than_equal": "field.below-min",
    "less_than": "field.too-high",
    "less_than_equal": "field.above-max",
    "literal_error": "field.not-a-choice",
    "string_too_short": "field.empty",
    "string_too_long": "field.too-long",
    "too_long": "field.too-many",
    "too_short": "field.too-few",
}
"""The message for each kind of error of the validation library."""


def complaint(code: str, /, *, field: str | None = None, **params: object) -> PydanticCustomError:
    """Return the error that a validator raises for a message of the catalogue.

    `field` names the field that is wrong where the validator is that of a whole model.
    """
    return carrying(Message(code, params), field)


def carrying(message: Message, field: str | None = None) -> PydanticCustomError:
    """Return the error that a validator raises for a message that exists already."""
    context: dict[str, Any] = {"sentence": message.text, "message": message}
    if field is not None:
        context["field"] = field
    return PydanticCustomError(_CARRIED, "{sentence}", context)


def message_of(error: Mapping[str, Any], where: str) -> Message:
    """Return the message for one validation error; `where` names the value in the user's words."""
    context = error.get("ctx", {})
    if error["type"] == _CARRIED:
        carried: Message = context["message"]
        return carried.within("field.at", where=where) if where else carried
    where = where or "The document"
    code = _FIELD_MESSAGES.get(error["type"])
    if code is None:
        reason = str(error["msg"])
        return Message("field.invalid", {"where": where, "reason": reason})
    bounds = {
        name: f"{bound:g}" if isinstance(bound, float) else bound for name, bound in context.items()
    }
    return Message(code, {**bounds, "where": where, "given": _shown(error.get("input"))})


def _shown(given: object) -> str:
    if given is None:
        return "empty"
    if isinstance(given, bool):
        return "true" if given else "false"
    if isinstance(given, int | float):
        return f"{given}"[:40]
    if isinstance(given, str):
        return quoted(given)
    return "a list" if isinstance(given, list | tuple) else "an object"
