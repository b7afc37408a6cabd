"""Plain data as models: JSON text read, and what is wrong with it said in words."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from typing import Any

from pydantic import BaseModel, ValidationError
from pydantic_core import from_json

from endurant.core.complaints import message_of
from endurant.core.quoting import quoted
from endurant.core.refusals import Invalid

MAX_BYTES = 64_000_000


def parse_json(text: str | bytes) -> Any:
    """JSON text as plain data; raises Invalid that says at which line it stops making sense."""
    if len(text) > MAX_BYTES:
        raise too_large(len(text))
    try:
        return from_json(text)
    except ValueError as error:
        raise Invalid("json.not-json", error=error) from error


def too_large(size: int) -> Invalid:
    """Return the refusal of a document by its size in bytes."""
    return Invalid("document.too-large", size_mb=size / 1e6, max_mb=MAX_BYTES / 1e6)


def read_model(
    model: type[BaseModel],
    data: Any,
    where: str,
    specimen: str | None = None,
    *,
    left_open: Collection[str] = (),
) -> Any:
    """`data` as `model`; the first thing wrong with it is said in words. Raises Invalid.

    An unknown field is named before a missing one, which it may have been meant for. None when
    nothing is wrong but that fields which may be `left_open` are missing.
    """
    if not isinstance(data, dict):
        raise Invalid("document.object-expected", where=where, specimen=specimen)
    try:
        return model.model_validate(data)
    except ValidationError as error:
        mistakes = [
            mistake
            for mistake in error.errors(include_url=False)
            if mistake["type"] != "missing" or mistake["loc"][0] not in left_open
        ]
        if not mistakes:
            return None
        unknown = (mistake for mistake in mistakes if mistake["type"] == "extra_forbidden")
        first = next(unknown, mistakes[0])
        raise refusal_of(first, model, data, where, specimen) from error


def refusal_of(
    mistake: Any, model: type[BaseModel], data: Any, where: str, specimen: str | None = None
) -> Invalid:
    """The refusal of one mistake that the models found, with its place in the user's words."""
    context = mistake.get("ctx", {})
    path = [step for step in mistake["loc"] if isinstance(step, int) or "[" not in step]
    if "field" in context:
        path.append(context["field"])
    wording, names = in_users_words(path, data, getattr(model, "columns", {}))
    field = names[-1] if names else where
    message = message_of(mistake, wording).within("field.inside", where=where)
    return Invalid(message, field=field, specimen=specimen)


def in_users_words(
    path: Sequence[str | int],
    data: Any,
    columns: Mapping[str, Sequence[str]],
    said: Callable[[str], str] = str,
) -> tuple[str, list[str]]:
    """Return a place in a document as its writer would call it, and the names of its fields.

    A row is called by what it is a row of, a reading in a table by the column that it stands
    in, and everything else by its field: "log row 3: humidity_percent", "rows row 2
    (tear_force): criterion.limit", "width_mm at place 2". Names of fields are said as `said` does.
    """
    wording, names = "", []
    spot, table = data, ""
    for step in path:
        inside = spot[step] if _holds(spot, step) else None
        if isinstance(step, str):
            name = quoted(step)[1:-1]
            names.append(name)
            joint = "" if not wording or wording.endswith(": ") else "."
            wording += joint + said(name)
            table = step
        elif table in columns and isinstance(spot, list) and spot and _is_row(spot[0]):
            wording += f" row {step + 1}: "
        elif table in columns and step < len(columns[table]):
            names.append(columns[table][step])
            wording += columns[table][step]
        elif isinstance(inside, dict):
            called = next((inside[key] for key in CALLED_BY if key in inside), None)
            wording += f" row {step + 1}"
            wording += f" ({quoted(called)[1:-1]}): " if isinstance(called, str) else ": "
        else:
            wording += f" at place {step + 1}"
        spot = inside
    return wording.rstrip(": "), names


CALLED_BY = ("label", "property", "name", "test")
"""The fields that a row of a document is called by."""


def _is_row(value: object) -> bool:
    return isinstance(value, list | tuple)


def _holds(spot: Any, step: str | int) -> bool:
    if isinstance(spot, dict):
        return step in spot
    return isinstance(spot, list | tuple) and isinstance(step, int) and step < len(spot)
