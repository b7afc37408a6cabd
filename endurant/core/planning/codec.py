"""Moments as planning documents write them: the one place where they are text.

A document and its answer write a moment in ISO 8601, in UTC with a Z. Whoever compares or moves
steps reads it here, and goes on with a datetime.
"""

from __future__ import annotations

from datetime import UTC, datetime


def moment_of(text: str) -> datetime:
    """The moment that a document writes, with its zone; raises ValueError for another text."""
    return datetime.fromisoformat(text)


def text_of(moment: datetime) -> str:
    """A moment as a document writes it, in UTC."""
    return moment.astimezone(UTC).isoformat().replace("+00:00", "Z")
