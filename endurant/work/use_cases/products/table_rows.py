"""The rows of a table of products: found below its header, and refused by the cell.

A table is read as people keep theirs: parted by commas, semicolons or tabs, in UTF-8, UTF-16 or
Windows-1252, with a title above the header, blank rows, and blanks around names.
"""

from __future__ import annotations

import csv
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from endurant.core.csv_dialect import DELIMITERS, as_it_was, text_of
from endurant.core.messages import Message
from endurant.core.refusals import Invalid, Refusal
from endurant.work.use_cases.products.table_columns import (
    COLUMNS,
    NEEDED,
    OLDER_COLUMNS,
    parameter_headings,
)

LINES_BEFORE_HEADER = 20
_THOUSANDS = re.compile(r"-?\d{1,3},\d{3}")
_COMMA = re.compile(r"-?\d+,\d+")


@dataclass(frozen=True)
class TableRow:
    """One row: its number, the letter of each column, and its cells without blanks around them."""

    number: int
    letters: Mapping[str, str]
    cells: Mapping[str, str]
    comma_parts: bool

    def __getitem__(self, column: str) -> str:
        return self.cells.get(column, "")

    def where(self, column: str) -> str:
        """Return the cell of a column as a spreadsheet calls it, such as "D2"."""
        return f"{self.letters.get(column, '')}{self.number}"

    def refuse(self, column: str, code: str, /, **params: object) -> Invalid:
        """Return a refusal of this cell."""
        message = Message(code, params)
        return Invalid(message, field="file").within(
            "products.in-cell", cell=self.where(column), column=column
        )

    def at(self, column: str, refusal: Refusal) -> Refusal:
        """Return a refusal of the rules, placed at this cell; its code stays."""
        return refusal.within("products.in-cell", cell=self.where(column), column=column)

    def number_text(self, column: str) -> str | None:
        """The number of a cell with a decimal point; None where it is empty."""
        text = self[column].replace("\u2212", "-").replace(" ", "")
        if not text:
            return None
        if self.comma_parts and _THOUSANDS.fullmatch(text):
            raise self.refuse(column, "products.number-ambiguous", given=text)
        return text.replace(",", ".") if _COMMA.fullmatch(text) else text


def rows_of(data: bytes) -> Iterator[TableRow]:
    """The rows below the header, which is the first row that names the columns needed."""
    delimiter, lines, at = _header(text_of(data))
    names = [_column(cell) for cell in lines[at]]
    letters = {name: _letter(place) for place, name in enumerate(names) if name}
    for number, line in enumerate(lines[at + 1 :], start=at + 2):
        cells = {
            name: as_it_was(cell.strip()).strip()
            for name, cell in zip(names, line, strict=False)
            if name
        }
        if any(cells.values()):
            yield TableRow(number, letters, cells, delimiter == ",")


def _header(text: str) -> tuple[str, list[list[str]], int]:
    found: list[str] = []
    for delimiter in DELIMITERS:
        lines = list(csv.reader(text.splitlines(keepends=True), delimiter=delimiter))
        for at, line in enumerate(lines[:LINES_BEFORE_HEADER]):
            names = [_column(cell) for cell in line]
            known = [name for name in NEEDED if name in names]
            if len(known) == len(NEEDED):
                return delimiter, lines, at
            found = max(found, known, key=len)
    missing = next(name for name in NEEDED if name not in found)
    raise Invalid("products.column-missing", missing=missing, known=list(COLUMNS), field="file")


def _column(cell: str) -> str:
    """The column that a heading names, however its capitals and blanks are written."""
    heading = " ".join(cell.replace("_", " ").casefold().split())
    known = heading in COLUMNS or heading in OLDER_COLUMNS or heading in parameter_headings()
    return heading if known else ""


def _letter(place: int) -> str:
    """The letter of a column, as a spreadsheet has it."""
    text = ""
    while place >= 0:
        text = chr(ord("A") + place % 26) + text
        place = place // 26 - 1
    return text
