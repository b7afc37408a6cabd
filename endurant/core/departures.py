"""Departures from a method: rules that a test does not keep, each with a reason by a person."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from endurant.core.messages import Message


@dataclass(frozen=True)
class Departure:
    """A rule that is not kept.

    `code` is stored with the reason that is given; the message tells the person what is off.
    """

    code: str
    message: Message

    @classmethod
    def of(cls, code: str, /, *, sentence: str = "", **params: object) -> Departure:
        """Return the departure; its sentence is `departure.` and its code, if none is named."""
        return cls(code, Message(sentence or f"departure.{code}", params))

    @property
    def text(self) -> str:
        """The sentence for the person who decides."""
        return self.message.text


def in_sentences(departures: Iterable[Departure]) -> str:
    """Return the sentences of departures one after the other, each once."""
    return " ".join(dict.fromkeys(each.text for each in departures))
