"""The line protocol of simple devices: one line of text a message, each with a checksum.

A line is a word, then fields `name=value` parted by spaces, then `*` and four hexadecimal
digits of CRC-16 (CCITT) over everything before the `*`. See docs/device-protocol.md.
"""

from __future__ import annotations

import re
from binascii import crc_hqx
from dataclasses import dataclass, field
from math import isfinite

from endurant.core.refusals import Invalid

LONGEST_LINE = 4096
_IN_A_LINE = re.compile(r"[!-)+-~]{0,3600}")
"""Printable, no space, and no star, which begins the checksum."""


class Rubbish(ValueError):
    """A line that is no line of this protocol, or was damaged on the way."""


@dataclass(frozen=True)
class Message:
    """One line: its word and fields; values hold no spaces."""

    word: str
    fields: dict[str, str] = field(default_factory=dict)

    def text(self, name: str) -> str:
        """A field; raises Rubbish when it is missing."""
        if name not in self.fields:
            raise Rubbish(f"{self.word} without {name}")
        return self.fields[name]

    def number(self, name: str) -> float:
        """A field as a finite number; raises Rubbish when it is none."""
        try:
            number = float(self.text(name))
        except ValueError as error:
            raise Rubbish(f"{self.word} {name} is no number") from error
        if not isfinite(number):
            raise Rubbish(f"{self.word} {name} is no finite number")
        return number


def encode(message: Message) -> bytes:
    """The line of a message, with checksum and line feed.

    Raises Invalid for a value that would part the line, or start another one.
    """
    for value in (message.word, *message.fields, *message.fields.values()):
        if not _IN_A_LINE.fullmatch(value):
            raise Invalid("device.word-expected", value=value)
    join = " ".join([message.word, *(f"{name}={value}" for name, value in message.fields.items())])
    return f"{join} *{crc_hqx(join.encode('ascii', 'replace'), 0xFFFF):04X}\n".encode(
        "ascii", "replace"
    )


def decode(line: bytes) -> Message:
    """The message of a line; raises Rubbish."""
    try:
        payload, mark, checksum = line.decode("ascii").strip().rpartition(" *")
    except UnicodeDecodeError as error:
        raise Rubbish("bytes that are no text") from error
    if not mark or f"{crc_hqx(payload.encode('ascii'), 0xFFFF):04X}" != checksum:
        raise Rubbish("checksum does not fit")
    word, *pairs = payload.split(" ")
    fields = {}
    for pair in pairs:
        name, equals, value = pair.partition("=")
        if not equals:
            raise Rubbish(f"{pair[:20]} is no field")
        fields[name] = value
    return Message(word, fields)
