"""How CSV files are written: the one reader and the one writer of them.

A file parts its cells by semicolons, tabs or commas; with the first two, decimals may stand
after a comma.
"""

from __future__ import annotations

import codecs
import csv
import io
import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from endurant.core.refusals import Invalid

MAX_BYTES = 64 * 1024 * 1024
DELIMITERS = (";", "\t", ",")
_PARTED_BY = {";": "semicolons", "\t": "tabs", ",": "commas"}
_LOOKED_AT = 200
"""So many bytes tell UTF-16 without its mark: every other one of plain text is 0."""
_NUMBER = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?")


@dataclass(frozen=True)
class Dialect:
    """What parts the cells, and what stands before decimals."""

    delimiter: str
    decimal: str = "."

    def rows(self, lines: Iterable[str]) -> Iterator[list[str]]:
        """Return the cells of each line; raises Invalid for what is no CSV."""
        try:
            yield from csv.reader(lines, delimiter=self.delimiter)
        except csv.Error as error:
            raise Invalid("csv.not-csv", error=error, field="file") from error

    def plain(self, text: str) -> str:
        """Return text whose numbers have a decimal point."""
        return text.replace(",", ".") if self.decimal == "," else text

    def number(self, cell: str) -> float:
        """Return the number in a cell; raises ValueError."""
        return float(self.plain(cell.strip()))

    def in_words(self) -> str:
        """Return how the file is written."""
        return f"columns separated by {_PARTED_BY[self.delimiter]}, decimal {self.decimal!r}"


def dialect_of(delimiter: str, rows: Sequence[str]) -> Dialect:
    """Return the dialect of rows that are parted in a known way."""
    with_comma = delimiter != "," and any("," in line for line in rows[:50])
    return Dialect(delimiter, "," if with_comma else ".")


def text_of(data: bytes) -> str:
    """Return the text of a CSV file; raises Invalid for a file that is too large or no text."""
    if len(data) > MAX_BYTES:
        raise Invalid(
            "csv.too-large",
            size_mb=len(data) / 1000000.0,
            max_mb=MAX_BYTES / 1000000.0,
            field="file",
        )
    text = _decoded(data)
    if "\0" in text:
        raise Invalid("csv.not-text", field="file")
    return text


def _decoded(data: bytes) -> str:
    """The text in UTF-16 with its mark or without, in UTF-8, in Windows-1252, or byte by byte."""
    if data.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        return data.decode("utf-16", errors="replace")
    for first, encoding in ((1, "utf-16-le"), (0, "utf-16-be")):
        zeros, others = data[first:_LOOKED_AT:2], data[1 - first : _LOOKED_AT : 2]
        if len(zeros) > 1 and not any(zeros) and all(others):
            return data.decode(encoding, errors="replace")
    for encoding in ("utf-8-sig", "cp1252"):
        try:
            return data.decode(encoding)
        except UnicodeDecodeError:
            continue
    return data.decode("latin-1")


def harmless(text: str) -> str:
    """Return a cell that a spreadsheet would take for a formula as plain text; numbers stay."""
    formula = text.lstrip("'").startswith(("=", "+", "-", "@", "\t", "\r"))
    return f"'{text}" if formula and not _NUMBER.fullmatch(text) else text


def as_it_was(cell: str) -> str:
    """Return a cell that was made harmless as it was before."""
    bare = cell.removeprefix("'")
    return bare if bare != cell and harmless(bare) == cell else cell


Cell = str | int | float | None
"""What stands in a table: text, a figure, or nothing."""


def csv_text(header: Sequence[str], rows: Iterable[Sequence[Cell]]) -> str:
    """Return a header and its rows as CSV; no cell is a formula to whatever opens it."""
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow([harmless(name) for name in header])
    writer.writerows([_csv_cell(cell) for cell in row] for row in rows)
    return text.getvalue()


def _csv_cell(cell: Cell) -> str:
    """Text made harmless; a figure with every digit; nothing for none."""
    if cell is None:
        return ""
    return harmless(cell) if isinstance(cell, str) else repr(cell)
