"""What a person gave, as a message repeats it."""

from __future__ import annotations

from collections.abc import Iterable

MAX_QUOTED = 40
"""Characters of a given text that a message repeats."""


def quoted(given: object) -> str:
    """Return the given value in quotation marks, on one line, at most `MAX_QUOTED` long."""
    text = " ".join(printable(str(given)[: 2 * MAX_QUOTED]).split())
    return f"“{text}”" if len(text) <= MAX_QUOTED else f"“{text[: MAX_QUOTED - 1]}…”"


def listed(names: Iterable[str], max_names: int = 12) -> str:
    """Return the first names, separated by commas, each cut to what is quoted."""
    shown = [quoted(name)[1:-1] for name in names]
    more = len(shown) - max_names
    return ", ".join(shown[:max_names]) + (f" and {more} more" if more > 0 else "")


def printable(text: str) -> str:
    """Return text that can be written as UTF-8: half of a surrogate pair becomes a mark."""
    return text.encode("utf-8", "replace").decode("utf-8")
