"""The words of a method's page, one file a method, so that they are read and corrected as text."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files
from typing import Any

FIELDS = ("purpose", "specimen", "watch", "steps", "computes", "mistakes")


@cache
def guide_texts(name: str) -> dict[str, Any]:
    """Return the texts of one page as the fields of its guide; lists become tuples.

    Raises FileNotFoundError for a page without a file, ValueError for a field that a guide does
    not have.
    """
    text = files("endurant.core.methods").joinpath(f"texts/{name}.toml").read_text("utf-8")
    fields = tomllib.loads(text)
    unknown = fields.keys() - set(FIELDS)
    if unknown:
        raise ValueError(f"texts/{name}.toml: {sorted(unknown)}")
    return {
        field: tuple(value) if isinstance(value, list) else value for field, value in fields.items()
    }
