"""Moments as planning documents write them: the one place where they are text.

A document and its answer write a moment in ISO 8601, in UTC with a Z. Whoever compares or moves
steps reads it here, and goes on with a datetime.
"""

from __future__ import annotations

from datetime import UTC, datetime


def moment_of(text: str) -> datetime:
    """Return the moment that a document writes in ISO 8601, with its zone.

    Raises ValueError for another text.
    """
    return datetime.fromisoformat(text)


def text_of(moment: datetime) -> str:
    """Return a moment as a document writes it: ISO 8601 in UTC, with a Z."""
    return moment.astimezone(UTC).isoformat().replace("+00:00", "Z")
