"""Workbooks (XLSX) as tables: what an instrument or an office exports is read like a CSV file."""

from __future__ import annotations

import csv
import io
import zipfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import time, timedelta
from itertools import chain, repeat
from typing import Any

from openpyxl import load_workbook
from openpyxl.utils.exceptions import InvalidFileException

from endurant.core.refusals import Invalid

BEGINS = b"PK\x03\x04"
"""What a workbook begins with, as every zipped file does."""
MAX_UNPACKED = 50_000_000


@dataclass(frozen=True)
class Bounds:
    """How much of a workbook is read before it is refused."""

    rows: int
    columns: int
    cells: int


OFFICE = Bounds(rows=20_000, columns=64, cells=400_000)
"""A table that a person keeps."""
RECORDED = Bounds(rows=200_000, columns=256, cells=600_000)
"""What an instrument recorded."""


def is_workbook(data: bytes) -> bool:
    """Return whether data may be a workbook."""
    return data.startswith(BEGINS)


def table_of(data: bytes) -> bytes:
    """Return the first sheet of a workbook as CSV in UTF-8; any other data as it is.

    A formula that was saved without its value stays a formula. Raises Invalid for a workbook
    that cannot be read, or is too large.
    """
    return _sheets(data, OFFICE, first_only=True)[0][1] if is_workbook(data) else data


def recorded_sheets(data: bytes) -> list[tuple[str, bytes]]:
    """Return each sheet of a workbook that holds anything, by its title, as CSV in UTF-8.

    Raises Invalid for a workbook that cannot be read, or is too large.
    """
    sheets = [sheet for sheet in _sheets(data, RECORDED, first_only=False) if sheet[1].strip()]
    if not sheets:
        raise Invalid("csv.empty", field="file")
    return sheets


def _sheets(data: bytes, bounds: Bounds, *, first_only: bool) -> list[tuple[str, bytes]]:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            if sum(part.file_size for part in packed.infolist()) > MAX_UNPACKED:
                raise Invalid("workbook.too-large", field="file")
            has_formulas = any(
                b"<f" in packed.read(part)
                for part in packed.namelist()
                if part.startswith("xl/worksheets/")
            )
        values = load_workbook(io.BytesIO(data), read_only=True, data_only=True).worksheets
        formulas: Sequence[Any] = [None] * len(values)
        if has_formulas:
            formulas = load_workbook(io.BytesIO(data), read_only=True).worksheets
        chosen = list(zip(values, formulas, strict=True))[: 1 if first_only else None]
        if not chosen:
            raise Invalid("workbook.unreadable", field="file")
        return [(sheet.title, _csv_of(sheet, formula, bounds)) for sheet, formula in chosen]
    except (zipfile.BadZipFile, InvalidFileException, KeyError, ValueError, IndexError) as error:
        raise Invalid("workbook.unreadable", field="file") from error


def _csv_of(sheet: Any, formulas: Any, bounds: Bounds) -> bytes:
    written = io.StringIO()
    out = csv.writer(written, lineterminator="\n")
    cells = 0
    below = repeat(()) if formulas is None else chain(_rows(formulas, bounds), repeat(()))
    for number, (row, formula) in enumerate(zip(_rows(sheet, bounds), below, strict=False)):
        if number > bounds.rows:
            raise Invalid("workbook.too-many-rows", max=bounds.rows, field="file")
        if len(row) > bounds.columns and row[bounds.columns] is not None:
            raise Invalid("workbook.too-many-columns", max=bounds.columns, field="file")
        shown = [_shown(cell, formula[place : place + 1]) for place, cell in enumerate(row)]
        while shown and not shown[-1]:
            shown.pop()
        cells += len(shown)
        if cells > bounds.cells:
            raise Invalid("workbook.too-many-cells", max=bounds.cells, field="file")
        out.writerow(shown)
    return written.getvalue().encode()


def _rows(sheet: Any, bounds: Bounds) -> Iterator[tuple[object, ...]]:
    rows: Iterator[tuple[object, ...]] = sheet.iter_rows(
        values_only=True, max_row=bounds.rows + 2, max_col=bounds.columns + 1
    )
    return rows


def _shown(cell: object, formula: Sequence[object]) -> str:
    """A cell as text; where a formula has no value, the formula."""
    if cell is not None:
        return _plain(cell)
    return str(formula[0]) if formula and isinstance(formula[0], str) else ""


def _plain(cell: object) -> str:
    """A whole number without its point (a revision is 2, not 2.0); a duration in seconds."""
    if isinstance(cell, time):
        cell = timedelta(
            hours=cell.hour,
            minutes=cell.minute,
            seconds=cell.second,
            microseconds=cell.microsecond,
        )
    if isinstance(cell, timedelta):
        cell = cell.total_seconds()
    return str(int(cell)) if isinstance(cell, float) and cell.is_integer() else str(cell)
