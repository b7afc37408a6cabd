"""A trace from a CSV file, with an account of what was taken for what."""

from __future__ import annotations

import io
import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from endurant.core.csv_dialect import DELIMITERS, Dialect, dialect_of, text_of
from endurant.core.quantities import factor_between, split_header_unit
from endurant.core.quoting import listed, quoted
from endurant.core.refusals import Invalid
from endurant.core.trace import Samples

MAX_ROWS = 1_000_000
_LINES_BEFORE_HEADER = 40
FEWEST_HEADERS = 2
_NUMBERED = re.compile(r"[ _#]+\d+$")
"""The number of a specimen behind a name, as in "Force 2"."""


@dataclass(frozen=True)
class Column:
    """A column that the importer knows: its name in a test document, unit and other names."""

    name: str
    unit: str
    also: frozenset[str]


KNOWN_COLUMNS = (
    Column("time_s", "s", frozenset({"time", "elapsed time", "t"})),
    Column(
        "extension_mm",
        "mm",
        frozenset({"extension", "displacement", "crosshead", "travel", "elongation", "position"}),
    ),
    Column("force_n", "N", frozenset({"force", "load", "pull"})),
    Column("strain", "dimensionless", frozenset({"extensometer strain"})),
    Column("pressure_kpa", "kPa", frozenset({"pressure", "burst pressure"})),
    Column("height_mm", "mm", frozenset({"height", "bulge height"})),
    Column("displacement_mm", "mm", frozenset({"middle", "deflection", "sag"})),
)
BY_NAME = {column.name: column for column in KNOWN_COLUMNS}


@dataclass(frozen=True)
class Taken:
    """Columns by their name in a test document, and sentences on how they were read."""

    columns: dict[str, Samples]
    said: list[str]


def read_trace_csv(
    data: bytes,
    requested: Sequence[str] = ("extension_mm", "force_n"),
    mapped: Mapping[str, str] | None = None,
) -> Taken:
    """Read the known columns of a CSV file; units in the header are converted.

    `mapped` says which header (without its unit) is which column, and goes before what the
    header looks like. Raises Invalid that names the row and column, as a person counts them.
    """
    return read_trace(read_form(data, mapped or {}), requested)


def read_trace(form: Form, requested: Sequence[str]) -> Taken:
    """Read the one trace of a file whose form is known; raises Invalid as `read_trace_csv` does."""
    _check_columns(form.columns, form.headers, requested)
    rows = form.rows
    if not rows:
        raise Invalid("csv.no-samples", field="file")
    table = _read_table(form)
    return take(form, table)


@dataclass(frozen=True)
class Form:
    """How a file is written: where its header stands, its dialect, and the known columns.

    `header_at` is the last line of the header, counted from 0: a row of units below the names
    belongs to it. `above` is the line before the header, empty where there is none.
    """

    rows: list[str]
    headers: list[str]
    header_at: int
    dialect: Dialect
    columns: dict[int, Column]
    leading: int = 0
    above: str = ""


def take(form: Form, table: Samples) -> Taken:
    """Return the known columns of a table, shape (n, columns), in the units of a test document."""
    columns: dict[str, Samples] = {}
    said = [_form_text(form, len(table))]
    for place, column in form.columns.items():
        unit = split_header_unit(form.headers[place])[1]
        factor = 1.0 if unit is None else _factor(form.headers[place], unit, column)
        columns[column.name] = table[:, place] * factor
        said.append(_column_text(form.headers[place], column, unit, factor))
    ignored = [
        header for place, header in enumerate(form.headers) if place not in form.columns and header
    ]
    if ignored:
        said.append(f"not used: {listed(ignored)}")
    return Taken(columns, said)


def read_form(data: bytes, mapped: Mapping[str, str], also: Collection[str] = ()) -> Form:
    """Find out how a file is written; raises Invalid.

    `also` are headers that tell a header row as well as those of known columns do.
    """
    for header, name in mapped.items():
        if name not in BY_NAME:
            raise Invalid(
                "csv.column-unknown", header=header, name=name, known=list(BY_NAME), field="map"
            )
    lines = text_of(data).splitlines()
    while lines and not lines[-1].strip():
        lines.pop()
    if not lines:
        raise Invalid("csv.empty", field="file")
    header_at, delimiter, headers = _find_header(lines, mapped, also)
    columns = {
        place: column
        for place, header in enumerate(headers)
        if (column := _known(header, mapped)) is not None
    }
    names = [_plain_name(header) for header in headers]
    leading, above = header_at, lines[header_at - 1] if header_at else ""
    below = lines[header_at + 1 : header_at + 2]
    units = _units_row(below, Dialect(delimiter), columns)
    if units:
        header_at += 1
        headers = [_with_unit(header, units, place) for place, header in enumerate(headers)]
    for header in mapped:
        if _plain_name(header) not in names:
            raise Invalid("csv.header-missing", headers=headers, header=header, field="map")
    rows = lines[header_at + 1 :]
    if len(rows) > MAX_ROWS:
        raise Invalid("csv.too-many-samples", count=len(rows), max=MAX_ROWS, field="file")
    dialect = dialect_of(delimiter, rows)
    return Form(rows, headers, header_at, dialect, columns, leading, above)


def _units_row(
    below: Sequence[str], dialect: Dialect, columns: Mapping[int, Column]
) -> dict[int, str]:
    """The units that stand alone in the row below the names; none where it holds figures."""
    cells = [cell.strip() for line in below for cell in next(dialect.rows([line]), [])]
    if any(_is_figure(cell) for cell in cells):
        return {}
    bare = {place: cell.strip("()[] ") for place, cell in enumerate(cells)}
    return (
        bare
        if any(_is_unit(bare.get(place, ""), column) for place, column in columns.items())
        else {}
    )


def _cells(line: str, delimiter: str) -> list[str]:
    return [cell.strip() for cell in next(Dialect(delimiter).rows([line]), [])]


def _are_units(cells: Sequence[str]) -> bool:
    """Whether a row holds units and nothing else."""
    bare = [cell.strip("()[] ") for cell in cells if cell.strip("()[] ")]
    return bool(bare) and all(
        any(_is_unit(text, column) for column in KNOWN_COLUMNS) for text in bare
    )


def _is_figure(cell: str) -> bool:
    try:
        float(cell.replace(",", "."))
    except ValueError:
        return False
    return True


def _is_unit(text: str, column: Column) -> bool:
    try:
        return bool(text) and factor_between(text, column.unit) > 0
    except Invalid:
        return False


def _with_unit(header: str, units: Mapping[int, str], place: int) -> str:
    """A name with the unit that stands below it, unless it has one already."""
    unit = units.get(place, "")
    return f"{header} ({unit})" if unit and split_header_unit(header)[1] is None else header


def _find_header(
    lines: Sequence[str], mapped: Mapping[str, str], also: Collection[str]
) -> tuple[int, str, list[str]]:
    """The first line that names two known columns; lines before it are leading text."""
    plain = {_plain_name(specimen) for specimen in also}
    for place, line in enumerate(lines[:_LINES_BEFORE_HEADER]):
        for delimiter in DELIMITERS:
            cells = [cell.strip() for cell in next(Dialect(delimiter).rows([line]), [])]
            known = [
                _known(cell, mapped) is not None or _plain_name(cell) in plain for cell in cells
            ]
            if sum(known) >= 2:
                return place, delimiter, cells
    raise Invalid("csv.no-header", field="file")


def _plain_name(header: str) -> str:
    """A header without its unit, in small letters."""
    return split_header_unit(header)[0].strip().strip('"').lower()


def _known(header: str, mapped: Mapping[str, str]) -> Column | None:
    plain = _plain_name(header)
    for given, name in mapped.items():
        if _plain_name(given) == plain:
            return BY_NAME[name]
    bare = _NUMBERED.sub("", plain)
    return next(
        (
            column
            for column in KNOWN_COLUMNS
            if column.name in {plain, bare} or {plain, bare} & column.also
        ),
        None,
    )


def _check_columns(
    columns: dict[int, Column], headers: Sequence[str], requested: Sequence[str]
) -> None:
    names = [column.name for column in columns.values()]
    for name in requested:
        if name not in names:
            raise Invalid("csv.column-missing", headers=headers, column=name, field=name)
    for name in names:
        if names.count(name) > 1:
            raise Invalid("csv.column-twice", column=name, field=name)


def _read_table(form: Form) -> Samples:
    """All cells as numbers; the slow way round finds the cell to complain about."""
    text = form.dialect.plain("\n".join(form.rows))
    try:
        table = np.loadtxt(
            io.StringIO(text), delimiter=form.dialect.delimiter, ndmin=2, comments=None
        )
    except ValueError as error:
        raise _complaint(form) from error
    if table.shape != (len(form.rows), len(form.headers)) or not bool(np.isfinite(table).all()):
        raise _complaint(form)
    return np.asarray(table, dtype=np.float64)


def _complaint(form: Form) -> Invalid:
    for number, cells in enumerate(form.dialect.rows(form.rows), start=form.header_at + 2):
        if len(cells) != len(form.headers) or any(not cell.strip() for cell in cells):
            filled = sum(bool(cell.strip()) for cell in cells)
            has_commas = form.dialect.delimiter == "," and len(cells) > len(form.headers)
            return Invalid(
                "csv.value-count-decimal-commas" if has_commas else "csv.value-count",
                row=number,
                count=filled,
                expected=len(form.headers),
                field="file",
            )
        for header, cell in zip(form.headers, cells, strict=True):
            try:
                finite = np.isfinite(form.dialect.number(cell))
            except ValueError:
                finite = False
            if not finite:
                return Invalid(
                    "csv.not-a-number", row=number, column=header, given=cell.strip(), field="file"
                )
    return Invalid("csv.rows-unreadable", field="file")


def _factor(header: str, unit: str, column: Column) -> float:
    try:
        return factor_between(unit, column.unit)
    except Invalid as refusal:
        refusal.field = column.name
        raise refusal.within("csv.in-column", column=header) from refusal


def _form_text(form: Form, rows: int) -> str:
    said = f"{rows} samples; {form.dialect.in_words()}"
    if not form.leading:
        return said
    return f"{said}; {form.leading} leading lines passed over"


def _column_text(header: str, column: Column, unit: str | None, factor: float) -> str:
    said = f"{quoted(header)} taken as {column.name}"
    if unit is None:
        return f"{said}, no unit named, {column.unit} assumed"
    return said if factor == 1 else f"{said}, times {factor:g}"


def headers_of(data: bytes) -> tuple[list[str], list[str | None]]:
    """Return the headers of a file, with the column that each looks like.

    They are the first row of names above a row of numbers. Raises Invalid where there is none.
    """
    lines = text_of(data).splitlines()[: _LINES_BEFORE_HEADER + 2]
    for number, line in enumerate(lines[:-1]):
        for delimiter in DELIMITERS:
            first, *later = lines[number + 1 : number + 3]
            cells = _cells(line, delimiter)
            below = _cells(first, delimiter)
            if later and _are_units(below):
                below = _cells(later[0], delimiter)
            if len(cells) < FEWEST_HEADERS or len(below) != len(cells):
                continue
            dialect = dialect_of(delimiter, [delimiter.join(below)])
            if _are_figures(dialect, below) and not any(_is_figure(cell) for cell in cells):
                known = [_known(cell, {}) for cell in cells]
                return cells, [None if column is None else column.name for column in known]
    raise Invalid("csv.no-names", field="file")


def _are_figures(dialect: Dialect, cells: Sequence[str]) -> bool:
    try:
        return all(np.isfinite(dialect.number(cell)) for cell in cells)
    except ValueError:
        return False
