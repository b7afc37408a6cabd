"""Workbooks and tables that are far larger inside than out, or speak to a spreadsheet."""

from __future__ import annotations

import io
import zipfile

import pytest
from openpyxl import Workbook, load_workbook

from endurant.core.csv_dialect import Cell, as_it_was, csv_text, harmless
from endurant.core.refusals import Invalid
from endurant.core.tables import Table
from endurant.core.workbooks import MAX_UNPACKED, OFFICE, table_of
from endurant.reports.workbook import workbook_of


def book_of(*rows: list[object]) -> bytes:
    book = Workbook()
    sheet = book.active
    assert sheet is not None
    for row in rows:
        sheet.append(row)
    written = io.BytesIO()
    book.save(written)
    return written.getvalue()


def with_sheet(data: bytes, sheet: bytes) -> bytes:
    """The same workbook with another first sheet."""
    written = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(data)) as given,
        zipfile.ZipFile(written, "w", zipfile.ZIP_DEFLATED) as out,
    ):
        for part in given.namelist():
            is_sheet = part == "xl/worksheets/sheet1.xml"
            out.writestr(part, sheet if is_sheet else given.read(part))
    return written.getvalue()


def test_a_workbook_that_unfolds_to_too_much_is_refused_unread() -> None:
    data = with_sheet(book_of(["a"]), b" " * (MAX_UNPACKED + 1))
    assert len(data) < 200_000
    with pytest.raises(Invalid, match="workbook.too-large"):
        table_of(data)


def test_a_workbook_with_a_cell_far_to_the_right_is_refused() -> None:
    with pytest.raises(Invalid, match=f"more than {OFFICE.columns} columns"):
        table_of(book_of([None] * OFFICE.columns + ["far"]))
    wide = b'<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">'
    wide += b'<sheetData><row r="1"><c r="XFD1"><v>1</v></c></row></sheetData></worksheet>'
    assert table_of(with_sheet(book_of(["a"]), wide)).count(b",") <= OFFICE.columns


def test_a_workbook_whose_last_row_is_far_down_gives_no_more_than_is_read() -> None:
    deep = b'<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">'
    deep += b'<sheetData><row r="1048576"><c r="A1048576"><v>1</v></c></row></sheetData>'
    deep += b"</worksheet>"
    with pytest.raises(Invalid, match="rows"):
        table_of(with_sheet(book_of(["a"]), deep))


@pytest.mark.parametrize("data", [b"PK\x03\x04", b"PK\x03\x04" + bytes(200)])
def test_what_only_begins_like_a_workbook_is_refused_in_words(data: bytes) -> None:
    with pytest.raises(Invalid, match="workbook.unreadable"):
        table_of(data)


def test_text_that_looks_like_a_figure_or_a_formula_is_text_in_a_workbook() -> None:
    row: list[Cell] = ["1E5", "nan", "0012", "=1+1", 24.5, 3, None]
    book = workbook_of({"all": [Table(["lot"] * 7, [row]), Table(["more"], [["x"]])]})
    sheet = load_workbook(io.BytesIO(book)).worksheets[0]
    values = list(sheet.iter_rows(values_only=True))
    assert values[1] == tuple(row)
    assert [values[3][0], values[4][0]] == ["more", "x"]
    kinds = [cell.data_type for cell in list(sheet.iter_rows())[1]]
    assert kinds == ["s", "s", "s", "s", "n", "n", "n"]


@pytest.mark.parametrize("cell", ["=1+1", "+A1", "-A1", "@SUM(A1)", "\t=1", "'=1"])
def test_no_cell_is_a_formula_and_each_comes_back_as_it_was(cell: str) -> None:
    text = csv_text(["name"], [[cell]])
    assert not text.splitlines()[1].lstrip('"').startswith(("=", "+", "-", "@"))
    assert as_it_was(harmless(cell)) == cell
    assert harmless("-24.5") == "-24.5"


def test_a_formula_that_was_saved_without_its_value_stays_a_formula() -> None:
    assert table_of(book_of(["material", "min"], ["=A1", 2.0])) == b"material,min\n=A1,2\n"
