"""Saying no: every refusal is one sentence that says what, where and what was expected.

Each layer raises these; the API and the command line translate them in one place.
"""

from __future__ import annotations

from collections.abc import Iterable

MOST_QUOTED = 40
"""Characters of what somebody gave that a refusal repeats."""


def quoted(given: object) -> str:
    """What was given, in quotation marks, on one line and no longer than `MOST_QUOTED`."""
    text = " ".join(printable(str(given)[: 2 * MOST_QUOTED]).split())
    return f"“{text}”" if len(text) <= MOST_QUOTED else f"“{text[: MOST_QUOTED - 1]}…”"


def listed(names: Iterable[str], most: int = 12) -> str:
    """Names as they were given, parted by commas: the first of them, each cut to what is quoted."""
    shown = [quoted(name)[1:-1] for name in names]
    more = len(shown) - most
    return ", ".join(shown[:most]) + (f" and {more} more" if more > 0 else "")


def printable(text: str) -> str:
    """Text that can be written as UTF-8: half of a surrogate pair is shown as a mark."""
    return text.encode("utf-8", "replace").decode("utf-8")


class Refusal(Exception):
    """Something was asked that cannot be done. `sentence` is written for the person who asked."""

    code = "refused"

    def __init__(
        self, sentence: str, *, field: str | None = None, specimen: str | None = None
    ) -> None:
        super().__init__(sentence)
        self.sentence = sentence
        self.field = field
        self.specimen = specimen


class Invalid(Refusal):
    """A field, a file or a document is not valid."""

    code = "invalid"


class NotFound(Refusal):
    """There is no such thing, or it is not for this person to see."""

    code = "not-found"


class Forbidden(Refusal):
    """The person may not do this."""

    code = "forbidden"


class Conflict(Refusal):
    """It was possible a moment ago: someone else acted first, or the state has moved on."""

    code = "conflict"


class Crossed(Conflict):
    """Two transactions wanted the same rows: nothing was changed, and the same works again."""


class NeedsReason(Conflict):
    """It departs from what is asked for: possible with a reason, which the report will give."""

    code = "needs-reason"


class Unavailable(Refusal):
    """Something outside does not answer: a device, the database."""

    code = "unavailable"
