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


class GarbledMessage(ValueError):
    """A line that does not follow the protocol, or was damaged in transmission."""


@dataclass(frozen=True)
class Message:
    """One line: its word and fields; values hold no spaces."""

    word: str
    fields: dict[str, str] = field(default_factory=dict)

    def text(self, name: str) -> str:
        """A field; raises GarbledMessage when it is missing."""
        if name not in self.fields:
            raise GarbledMessage(f"{self.word} lacks {name}")
        return self.fields[name]

    def number(self, name: str) -> float:
        """A field as a finite number; raises GarbledMessage when it is none."""
        try:
            number = float(self.text(name))
        except ValueError as error:
            raise GarbledMessage(f"{self.word} {name} is not a number") from error
        if not isfinite(number):
            raise GarbledMessage(f"{self.word} {name} is not a finite number")
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
    """The message of a line; raises GarbledMessage."""
    try:
        payload, mark, checksum = line.decode("ascii").strip().rpartition(" *")
    except UnicodeDecodeError as error:
        raise GarbledMessage("bytes that are not text") from error
    if not mark or f"{crc_hqx(payload.encode('ascii'), 0xFFFF):04X}" != checksum:
        raise GarbledMessage("wrong checksum")
    word, *pairs = payload.split(" ")
    fields = {}
    for pair in pairs:
        name, equals, value = pair.partition("=")
        if not equals:
            raise GarbledMessage(f"{pair[:20]} is not a field")
        fields[name] = value
    return Message(word, fields)
