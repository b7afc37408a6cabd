"""Tables as workbooks (XLSX), and workbooks as tables: for people who keep theirs that way."""

from __future__ import annotations

import csv
import io
import zipfile
from collections.abc import Mapping, Sequence

from openpyxl import Workbook, load_workbook
from openpyxl.cell import Cell, WriteOnlyCell
from openpyxl.styles import Font
from openpyxl.utils.exceptions import InvalidFileException
from openpyxl.worksheet._write_only import WriteOnlyWorksheet

from endurant.core.csv_dialect import Cell as Value
from endurant.core.refusals import Invalid
from endurant.core.tables import Table

BEGINS = b"PK\x03\x04"
"""What a workbook begins with, as every zipped file does."""
MAX_UNPACKED = 50_000_000
MAX_COLUMNS = 64
MAX_CELLS = 400_000
MAX_ROWS = 20_000
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


def table_of(data: bytes) -> bytes:
    """The first sheet of a workbook as CSV in UTF-8; any other data as it is.

    Raises Invalid for a workbook that cannot be read, or is too large.
    """
    if not data.startswith(BEGINS):
        return data
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            if sum(part.file_size for part in packed.infolist()) > MAX_UNPACKED:
                raise Invalid("workbook.too-large", field="file")
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=True)
        sheet = book.worksheets[0]
        rows = sheet.iter_rows(values_only=True, max_row=MAX_ROWS + 2, max_col=MAX_COLUMNS + 1)
        cells = 0
        written = io.StringIO()
        out = csv.writer(written, lineterminator="\n")
        for number, row in enumerate(rows):
            if number > MAX_ROWS:
                raise Invalid("workbook.too-many-rows", max=MAX_ROWS, field="file")
            if len(row) > MAX_COLUMNS and row[MAX_COLUMNS] is not None:
                raise Invalid("workbook.too-many-columns", max=MAX_COLUMNS, field="file")
            used = max((place for place, cell in enumerate(row, 1) if cell is not None), default=0)
            written_row = row[:used]
            cells += used
            if cells > MAX_CELLS:
                raise Invalid("workbook.too-many-cells", max=MAX_CELLS, field="file")
            out.writerow(["" if cell is None else _plain(cell) for cell in written_row])
    except (zipfile.BadZipFile, InvalidFileException, KeyError, ValueError, IndexError) as error:
        raise Invalid("workbook.unreadable", field="file") from error
    return written.getvalue().encode()


def _plain(cell: object) -> str:
    """A whole number without its point: a revision is 2, not 2.0."""
    return str(int(cell)) if isinstance(cell, float) and cell.is_integer() else str(cell)
