"""Plain data as models: JSON text read, and what is wrong with it said in words."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ValidationError
from pydantic_core import from_json

from endurant.core.refusals import Invalid

MOST_BYTES = 64_000_000


def parse_json(text: str | bytes) -> Any:
    """JSON text as plain data; raises Invalid that says at which line it stops making sense."""
    if len(text) > MOST_BYTES:
        raise Invalid(too_large(len(text)))
    try:
        return from_json(text)
    except ValueError as error:
        raise Invalid(f"this is no JSON: {error}") from error


def too_large(size: int) -> str:
    """The sentence that refuses a document by its size in bytes."""
    return (
        f"the document has {size / 1e6:.0f} MB; {MOST_BYTES / 1e6:.0f} MB at most are read at once"
    )


def read_model(model: type[BaseModel], data: Any, where: str, specimen: str | None = None) -> Any:
    """`data` as `model`; the first thing wrong with it is said in words. Raises Invalid."""
    if not isinstance(data, dict):
        raise Invalid(f"{where}: expected an object with named fields", specimen=specimen)
    try:
        return model.model_validate(data)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        path = [str(step) for step in first["loc"]]
        if "field" in first.get("ctx", {}):
            path.append(first["ctx"]["field"])
        context = first.get("ctx", {})
        said = context.get("sentence")
        if said is not None and "field" in context:
            raise Invalid(f"{where}: {said}", field=path[-1], specimen=specimen) from error
        named = [step for step in path if not step.isdigit()] or [where]
        place = next((f" at place {int(step) + 1}" for step in path if step.isdigit()), "")
        raise Invalid(
            f"{where}: {'.'.join(named)}{place}: {_say(first)}", field=named[-1], specimen=specimen
        ) from error


def _say(error: Any) -> str:
    """What pydantic found, in our words."""
    given = error.get("input")
    shown = f"; “{str(given)[:40]}” was given" if isinstance(given, str | int | float) else ""
    context = {
        name: f"{bound:g}" if isinstance(bound, float) else bound
        for name, bound in error.get("ctx", {}).items()
    }
    words = {
        "missing": "is missing",
        "extra_forbidden": "is not a field that is known here",
        "finite_number": "must be a finite number",
        "float_type": "must be a number",
        "int_type": "must be a whole number",
        "string_type": "must be text",
        "list_type": "must be a list",
        "greater_than": f"must be above {context.get('gt')}",
        "greater_than_equal": f"must be {context.get('ge')} or more",
        "less_than": f"must be below {context.get('lt')}",
        "less_than_equal": f"must be {context.get('le')} or less",
        "literal_error": f"must be {context.get('expected')}",
        "string_too_short": "must not be empty",
        "string_too_long": f"may have {context.get('max_length')} characters at most",
    }
    kind = error["type"]
    if kind == "column":
        return str(context.get("sentence", error["msg"]))
    if kind in ("missing", "extra_forbidden"):
        return words[kind]
    library_words = str(error["msg"])
    return words.get(kind, library_words[:1].lower() + library_words[1:]) + shown
