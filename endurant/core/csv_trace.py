"""A trace from a CSV file, with an account of what was taken for what."""

from __future__ import annotations

import csv
import io
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from endurant.core.quantities import factor_between, split_header_unit
from endurant.core.refusals import Invalid, listed, quoted
from endurant.core.trace import Samples

MOST_ROWS = 1_000_000
MOST_BYTES = 64 * 1024 * 1024
_DELIMITERS = (";", "\t", ",")
_LINES_BEFORE_HEADER = 40


@dataclass(frozen=True)
class Column:
    """A column that the importer knows: its name in a test document, unit and other names."""

    name: str
    unit: str
    also: frozenset[str]


COLUMNS = (
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
BY_NAME = {column.name: column for column in COLUMNS}


@dataclass(frozen=True)
class Taken:
    """Columns by their name in a test document, and sentences on how they were read."""

    columns: dict[str, Samples]
    said: list[str]


def read_trace_csv(
    data: bytes,
    wanted: Sequence[str] = ("extension_mm", "force_n"),
    mapped: Mapping[str, str] | None = None,
) -> Taken:
    """Read the known columns of a CSV file; units in the header are converted.

    `mapped` says which header (without its unit) is which column, and goes before what the
    header looks like. Raises Invalid that names the row and column, as a person counts them.
    """
    form = read_form(data, mapped or {})
    _check_columns(form.found, form.headers, wanted)
    rows = form.rows
    if not rows:
        raise Invalid(
            "the file has a header and no rows; expected at least two samples", field="file"
        )
    table = _read_table(rows, form.delimiter, form.decimal, form.headers, form.header_at)
    return take(form, table)


@dataclass(frozen=True)
class Form:
    """How a file is written: where its header stands, its delimiter, and the known columns."""

    rows: list[str]
    headers: list[str]
    header_at: int
    delimiter: str
    decimal: str
    found: dict[int, Column]


def take(form: Form, table: Samples) -> Taken:
    """The known columns of a table in the units of a test document, with an account of it."""
    columns: dict[str, Samples] = {}
    said = [_said_form(form.delimiter, form.decimal, form.header_at, len(table))]
    for place, column in form.found.items():
        unit = split_header_unit(form.headers[place])[1]
        factor = 1.0 if unit is None else _factor(form.headers[place], unit, column)
        columns[column.name] = table[:, place] * factor
        said.append(_said_column(form.headers[place], column, unit, factor))
    ignored = [
        header for place, header in enumerate(form.headers) if place not in form.found and header
    ]
    if ignored:
        said.append(f"not used: {listed(ignored)}")
    return Taken(columns, said)


def text_of(data: bytes) -> str:
    """The text of a CSV file; raises Invalid for one that is too large or no text."""
    if len(data) > MOST_BYTES:
        raise Invalid(
            f"the file has {len(data) / 1e6:.0f} MB; {MOST_BYTES / 1e6:.0f} MB at most are read",
            field="file",
        )
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    if "\0" in text:
        raise Invalid("this is no CSV file: it holds bytes that are no text", field="file")
    return text


def read_form(data: bytes, mapped: Mapping[str, str], also: Collection[str] = ()) -> Form:
    """Find out how a file is written; raises Invalid.

    `also` are headers that tell a header row as well as those of known columns do.
    """
    for header, name in mapped.items():
        if name not in BY_NAME:
            raise Invalid(
                f"{quoted(header)} cannot be taken as {quoted(name)}; "
                f"expected one of {', '.join(BY_NAME)}",
                field="map",
            )
    lines = text_of(data).splitlines()
    while lines and not lines[-1].strip():
        lines.pop()
    if not lines:
        raise Invalid("the file is empty; expected a header row and the samples", field="file")
    header_at, delimiter, headers = _find_header(lines, mapped, also)
    found = {
        place: column
        for place, header in enumerate(headers)
        if (column := _known(header, mapped)) is not None
    }
    names = [_plain_name(header) for header in headers]
    for header in mapped:
        if _plain_name(header) not in names:
            raise Invalid(
                f"the header holds {listed(headers)}; none of these is {quoted(header)}",
                field="map",
            )
    rows = lines[header_at + 1 :]
    if len(rows) > MOST_ROWS:
        raise Invalid(
            f"the file has {len(rows)} rows; {MOST_ROWS} samples at most are read. "
            "Record at a lower rate, or cut the file at the end of the test",
            field="file",
        )
    decimal = "," if delimiter != "," and any("," in line for line in rows[:50]) else "."
    return Form(rows, headers, header_at, delimiter, decimal, found)


def _find_header(
    lines: Sequence[str], mapped: Mapping[str, str], also: Collection[str]
) -> tuple[int, str, list[str]]:
    """The first line that names two known columns; lines before it are leading text."""
    plain = {_plain_name(one) for one in also}
    for place, line in enumerate(lines[:_LINES_BEFORE_HEADER]):
        for delimiter in _DELIMITERS:
            cells = [cell.strip() for cell in next(csv.reader([line], delimiter=delimiter), [])]
            known = [
                _known(cell, mapped) is not None or _plain_name(cell) in plain for cell in cells
            ]
            if sum(known) >= 2:
                return place, delimiter, cells
    raise Invalid(
        "no header row was found; expected a row with names such as "
        "“Extension (mm)” and “Load (N)” above the samples",
        field="file",
    )


def _plain_name(header: str) -> str:
    """A header without its unit, in small letters."""
    return split_header_unit(header)[0].strip().strip('"').lower()


def _known(header: str, mapped: Mapping[str, str]) -> Column | None:
    plain = _plain_name(header)
    for given, name in mapped.items():
        if _plain_name(given) == plain:
            return BY_NAME[name]
    return next(
        (column for column in COLUMNS if plain == column.name or plain in column.also), None
    )


def _check_columns(found: dict[int, Column], headers: Sequence[str], wanted: Sequence[str]) -> None:
    names = [column.name for column in found.values()]
    for name in wanted:
        if name not in names:
            raise Invalid(
                f"the header holds {listed(headers)}; none of these is {name}", field=name
            )
    for name in names:
        if names.count(name) > 1:
            raise Invalid(
                f"two columns of the header look like {name}; one is expected", field=name
            )


def _read_table(
    rows: Sequence[str], delimiter: str, decimal: str, headers: Sequence[str], header_at: int
) -> Samples:
    """All cells as numbers; the slow way round finds the cell to complain about."""
    text = "\n".join(rows)
    if decimal == ",":
        text = text.replace(",", ".")
    try:
        table = np.loadtxt(io.StringIO(text), delimiter=delimiter, ndmin=2, comments=None)
    except ValueError as error:
        raise _complaint(rows, delimiter, decimal, headers, header_at) from error
    if table.shape != (len(rows), len(headers)) or not bool(np.isfinite(table).all()):
        raise _complaint(rows, delimiter, decimal, headers, header_at)
    return np.asarray(table, dtype=np.float64)


def _complaint(
    rows: Sequence[str], delimiter: str, decimal: str, headers: Sequence[str], header_at: int
) -> Invalid:
    for number, cells in enumerate(csv.reader(rows, delimiter=delimiter), start=header_at + 2):
        if len(cells) != len(headers) or any(not cell.strip() for cell in cells):
            filled = sum(bool(cell.strip()) for cell in cells)
            more = ""
            if delimiter == "," and len(cells) > len(headers):
                more = "; with decimal commas, part the columns by semicolons"
            return Invalid(
                f"row {number} holds {filled} figures, the header names {len(headers)} columns; "
                f"the columns must be equally long{more}",
                field="file",
            )
        for header, cell in zip(headers, cells, strict=True):
            shown = cell.strip()
            try:
                finite = np.isfinite(float(shown.replace(",", ".") if decimal == "," else shown))
            except ValueError:
                finite = False
            if not finite:
                return Invalid(
                    f"row {number}, column {quoted(header)}: {quoted(shown)} is no number",
                    field="file",
                )
    return Invalid("the rows of the file cannot be read as numbers", field="file")


def _factor(header: str, unit: str, column: Column) -> float:
    try:
        return factor_between(unit, column.unit)
    except Invalid as refusal:
        raise Invalid(
            f"column {quoted(header)}: {refusal.sentence}", field=column.name
        ) from refusal


def _said_form(delimiter: str, decimal: str, header_at: int, rows: int) -> str:
    names = {";": "semicolons", "\t": "tabs", ",": "commas"}
    said = f"{rows} samples; columns parted by {names[delimiter]}, decimal {decimal!r}"
    return said if header_at == 0 else f"{said}; {header_at} leading lines passed over"


def _said_column(header: str, column: Column, unit: str | None, factor: float) -> str:
    said = f"{quoted(header)} taken as {column.name}"
    if unit is None:
        return f"{said}, no unit named, {column.unit} assumed"
    return said if factor == 1 else f"{said}, times {factor:g}"
