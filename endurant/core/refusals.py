"""Refusals: each has a code, parameters, and a sentence that says what is wrong and where.

Each layer raises them; the API and the command line translate them in one place.
"""

from __future__ import annotations

from typing import Self

from endurant.core.messages import Message


class Refusal(Exception):
    """A request that cannot be carried out.

    Give the code of a message of the catalogue and the parameters of its sentence. `field` names
    the field and `specimen` the label that the refusal is about; sentences may use them too.
    """

    kind = "refused"

    def __init__(
        self,
        message: str | Message,
        /,
        *,
        field: str | None = None,
        specimen: str | None = None,
        **params: object,
    ) -> None:
        if isinstance(message, str):
            about = {} if specimen is None else {"specimen": specimen}
            message = Message(message, {**about, **params})
        super().__init__(message)
        self.message = message
        self.field = field
        self.specimen = specimen

    def __reduce__(self) -> tuple[object, ...]:
        state = {"field": self.field, "specimen": self.specimen}
        return (type(self), (self.message,), state)

    @property
    def code(self) -> str:
        """The code of the message, on which programs and tests decide."""
        return self.message.code

    @property
    def sentence(self) -> str:
        """The sentence for the person who sent the request."""
        return self.message.text

    def within(self, code: str, /, **params: object) -> Self:
        """Return this refusal with its sentence placed inside another one."""
        message = self.message.within(code, **params)
        return type(self)(message, field=self.field, specimen=self.specimen)

    def __str__(self) -> str:
        return f"{self.code}: {self.sentence}"


class Invalid(Refusal):
    """A field, a file or a document is not valid."""

    kind = "invalid"


class NotFound(Refusal):
    """There is no such record, or the person may not see it."""

    kind = "not-found"


class Forbidden(Refusal):
    """The person may not do this."""

    kind = "forbidden"


class Conflict(Refusal):
    """The state has changed: another person acted first, or the step comes too late."""

    kind = "conflict"


class Crossed(Conflict):
    """Two transactions needed the same rows: nothing was changed, and a retry can succeed."""


class NeedsReason(Conflict):
    """The action departs from the method: possible with a reason, which the report states."""

    kind = "needs-reason"


class Unavailable(Refusal):
    """A device or the database does not answer."""

    kind = "unavailable"
