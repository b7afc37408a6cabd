"""Tables as workbooks (XLSX): for people who keep theirs that way."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence

from openpyxl import Workbook
from openpyxl.cell import Cell, WriteOnlyCell
from openpyxl.styles import Font
from openpyxl.worksheet._write_only import WriteOnlyWorksheet

from endurant.core.csv_dialect import Cell as Value
from endurant.core.tables import Table

MAX_OF_A_TITLE = 31


def workbook_of(tables: Mapping[str, Sequence[Table]]) -> bytes:
    """A workbook with a sheet for each title, its tables one below the other.

    Figures are numbers in it, text is text: the lot 1E5 is no hundred thousand, and nothing that
    begins like a formula is computed.
    """
    book = Workbook(write_only=True)
    for title, below in tables.items():
        sheet = book.create_sheet(title[:MAX_OF_A_TITLE])
        for number, table in enumerate(below):
            if number:
                sheet.append([])
            sheet.append([_cell(sheet, name, is_head=True) for name in table.header])
            for row in table.rows:
                sheet.append([_cell(sheet, value) for value in row])
    written = io.BytesIO()
    book.save(written)
    return written.getvalue()


def _cell(sheet: WriteOnlyWorksheet, value: Value, *, is_head: bool = False) -> Cell:
    cell = WriteOnlyCell(sheet, value=value)
    if is_head:
        cell.font = Font(bold=True)
    if isinstance(value, str):
        cell.data_type = "s"
    return cell
