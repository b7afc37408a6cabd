"""The texts of a guide as the file of its page, for a method that is begun from another."""

from __future__ import annotations

import json

from endurant.core.methods.guide import Guide
from endurant.core.methods.guide_texts import FIELDS


def write_texts(guide: Guide) -> str:
    """Return the texts of a guide as the file of a page holds them."""
    lines = []
    for field in FIELDS:
        value = getattr(guide, field)
        if isinstance(value, str):
            lines += [f"{field} = {_quoted(value)}"] if value else []
        else:
            lines += [f"{field} = [", *(f"    {_quoted(text)}," for text in value), "]"]
    return "\n".join(lines) + "\n"


def _quoted(text: str) -> str:
    return json.dumps(text, ensure_ascii=False)
