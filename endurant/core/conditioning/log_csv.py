"""The log of an enclosure from a CSV file, with an account of what was taken for what."""

from __future__ import annotations

import io
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta, tzinfo
from itertools import islice, pairwise
from math import isfinite

from endurant.core.conditioning.periods import Reading
from endurant.core.csv_dialect import DELIMITERS, Dialect, text_of
from endurant.core.quantities import split_header_unit
from endurant.core.quoting import quoted
from endurant.core.refusals import Invalid
from endurant.core.workbooks import is_workbook, recorded_sheets

MAX_ROWS = 500_000
MAX_COLUMNS = 200
COLDEST_C, HOTTEST_C = -120.0, 400.0
FAHRENHEIT = ("f", "°f", "deg f", "degf", "fahrenheit")
CELSIUS = ("c", "°c", "deg c", "degc", "celsius")
NAMES = {
    "time": ("time", "date", "datetime", "date time", "timestamp", "date/time"),
    "temperature": ("temperature", "temp", "temperature_c", "temperature_f", "t"),
    "humidity": ("humidity", "humidity_percent", "rh", "relative humidity", "humid"),
}
HINTS_AT_MINUTES = 15.0
LINES_BEFORE_HEADER = 40
WRITTEN = ("%d.%m.%Y %H:%M:%S", "%d.%m.%Y %H:%M", "%d %b %Y %H:%M:%S", "%d %b %Y %H:%M")
"""How a laboratory may write a time, besides ISO 8601; a day in figures always stands first."""


@dataclass(frozen=True)
class TakenLog:
    """Readings in UTC (time, °C, %RH or None), rising in time, and how they were read."""

    rows: list[Reading]
    said: list[str]


@dataclass(frozen=True)
class _Columns:
    """Where each quantity stands; `clock` is the time of day where the date stands apart."""

    time: int
    clock: int | None
    temperature: int
    humidity: int | None
    fahrenheit: bool


def read_log_csv(data: bytes, zone: tzinfo | None = None) -> TakenLog:
    """Read a log; `zone` is that of times without an offset.

    Raises Invalid that names the row as a person counts it: for a time that goes back or stands
    twice, a cell that is no number, a temperature or humidity that cannot be, and for times
    without an offset when no zone is given.
    """
    table, dialect = _table(data)
    at = _header_at(table) or 0
    columns = _columns(table[at])
    rows: list[Reading] = []
    for number, cells in enumerate(table[at + 1 :], start=at + 2):
        if not any(cell.strip() for cell in cells):
            continue
        row = _row(cells, columns, number, zone, dialect)
        if rows and row[0] <= rows[-1][0]:
            code = "log-file.same-time" if row[0] == rows[-1][0] else "log-file.earlier-time"
            raise Invalid(code, row=number, time=_time_text(cells, columns), field="file")
        rows.append(row)
    if not rows:
        raise Invalid("log-file.no-readings", field="file")
    return TakenLog(rows, _said(table[at], columns, rows))


def _header_at(table: Sequence[Sequence[str]]) -> int | None:
    """The first row that names a time and a temperature; lines of a logger before it are left."""
    for at, cells in enumerate(table[:LINES_BEFORE_HEADER]):
        names = [split_header_unit(cell)[0].strip().lower() for cell in cells]
        if all(set(NAMES[column]) & set(names) for column in ("time", "temperature")):
            return at
    return None


def _table(data: bytes) -> tuple[list[list[str]], Dialect]:
    text = text_of(recorded_sheets(data)[0][1] if is_workbook(data) else data)
    first = text.split("\n", LINES_BEFORE_HEADER)[:LINES_BEFORE_HEADER]
    named = (sign for sign in DELIMITERS if _header_at(list(Dialect(sign).rows(first))) is not None)
    delimiter = next(named, None) or max(DELIMITERS, key=first[0].count)
    dialect = Dialect(delimiter, "." if delimiter == "," else ",")
    table = list(islice(dialect.rows(io.StringIO(text)), MAX_ROWS + 1))
    if len(table) > MAX_ROWS:
        raise Invalid("log-file.too-many-rows", max=MAX_ROWS, field="file")
    if not table or not table[0]:
        raise Invalid("log-file.empty", field="file")
    if len(table[0]) > MAX_COLUMNS:
        raise Invalid(
            "log-file.too-many-columns", count=len(table[0]), max=MAX_COLUMNS, field="file"
        )
    return table, dialect


def _columns(header: Sequence[str]) -> _Columns:
    places: dict[str, int] = {}
    fahrenheit = False
    for place, cell in enumerate(header):
        name, unit = split_header_unit(cell)
        plain = name.strip().lower()
        unit = (unit or "").strip().lower()
        for column, names in NAMES.items():
            if plain in names and column not in places:
                places[column] = place
                if column == "temperature":
                    fahrenheit = _is_fahrenheit(cell, plain, unit)
    for column in ("time", "temperature"):
        if column not in places:
            raise Invalid("log-file.column-missing", header=header, column=column, field="file")
    plain_names = [split_header_unit(cell)[0].strip().lower() for cell in header]
    clock = None
    if "date" in plain_names and "time" in plain_names:
        places["time"], clock = plain_names.index("date"), plain_names.index("time")
    humidity = places.get("humidity")
    return _Columns(places["time"], clock, places["temperature"], humidity, fahrenheit)


def _is_fahrenheit(cell: str, name: str, unit: str) -> bool:
    if name == "temperature_f" or unit in FAHRENHEIT:
        return True
    if name == "temperature_c" or unit in CELSIUS or not unit:
        return False
    raise Invalid("log-file.temperature-unit", cell=cell.strip(), unit=unit, field="file")


def _row(
    cells: Sequence[str],
    columns: _Columns,
    number: int,
    zone: tzinfo | None,
    dialect: Dialect,
) -> Reading:
    upper = max(columns.time, columns.clock or 0, columns.temperature, columns.humidity or 0)
    if len(cells) <= upper:
        raise Invalid("log-file.too-many-cells", row=number, count=len(cells), field="file")
    given = _number(cells[columns.temperature], "temperature", number, dialect)
    celsius = round((given - 32) / 1.8, 4) if columns.fahrenheit else given
    if not COLDEST_C <= celsius <= HOTTEST_C:
        raise Invalid(
            "log-file.temperature-out-of-range",
            row=number,
            celsius=celsius,
            min=COLDEST_C,
            max=HOTTEST_C,
            field="file",
        )
    humidity = None
    if columns.humidity is not None and cells[columns.humidity].strip():
        humidity = _number(cells[columns.humidity], "humidity", number, dialect)
        if not 0 <= humidity <= 100:
            raise Invalid(
                "log-file.humidity-out-of-range", row=number, humidity=humidity, field="file"
            )
    return _moment(_time_text(cells, columns), number, zone), celsius, humidity


def _time_text(cells: Sequence[str], columns: _Columns) -> str:
    shown = cells[columns.time].strip()
    return shown if columns.clock is None else f"{shown} {cells[columns.clock].strip()}"


def _number(cell: str, name: str, number: int, dialect: Dialect) -> float:
    shown = cell.strip().removesuffix("%").strip()
    try:
        figure = dialect.number(shown)
    except ValueError:
        figure = float("nan")
    if not isfinite(figure):
        raise Invalid("log-file.not-a-number", row=number, name=name, given=shown, field="file")
    return figure


def _moment(cell: str, number: int, zone: tzinfo | None) -> datetime:
    shown = cell.strip()
    moment = _written(shown)
    if moment is None:
        raise Invalid("log-file.not-a-time", row=number, given=shown, field="file")
    if moment.tzinfo is None:
        if zone is None:
            raise Invalid("log-file.no-offset", row=number, given=shown, field="file")
        moment = moment.replace(tzinfo=zone)
    try:
        return moment.astimezone(UTC)
    except OverflowError:
        raise Invalid("log-file.time-out-of-range", row=number, given=shown, field="file") from None


def _written(text: str) -> datetime | None:
    with suppress(ValueError):
        return datetime.fromisoformat(text)
    plain = " ".join(text.replace(",", " ").split())
    for form in WRITTEN:
        with suppress(ValueError):
            return datetime.strptime(plain, form)
    return None


def _said(header: Sequence[str], columns: _Columns, rows: Sequence[Reading]) -> list[str]:
    said = [
        f"{len(rows)} readings from {rows[0][0]:%Y-%m-%d %H:%M} to {rows[-1][0]:%Y-%m-%d %H:%M} UTC"
    ]
    named = header[columns.temperature].strip()
    said.append(
        f"{quoted(named)} read as °F and converted to °C"
        if columns.fahrenheit
        else f"{quoted(named)} read as °C"
    )
    if columns.humidity is None:
        said.append("no humidity in this log")
    else:
        said.append(f"{quoted(header[columns.humidity].strip())} read as %RH")
    upper = timedelta(minutes=HINTS_AT_MINUTES)
    gaps = [
        (later[0] - row[0]) / timedelta(minutes=1)
        for row, later in pairwise(rows)
        if later[0] - row[0] > upper
    ]
    if gaps:
        said.append(
            f"{len(gaps)} gap{'s' if len(gaps) > 1 else ''} longer than "
            f"{HINTS_AT_MINUTES:g} min, the longest {max(gaps):.0f} min; they prove nothing"
        )
    return said
