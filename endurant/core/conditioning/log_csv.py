"""The log of an enclosure from a CSV file, with an account of what was taken for what."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta, tzinfo
from itertools import islice, pairwise
from math import isfinite

from endurant.core.conditioning.stays import Reading
from endurant.core.csv_dialect import DELIMITERS, Dialect, text_of
from endurant.core.quantities import split_header_unit
from endurant.core.refusals import Invalid, listed, quoted

MOST_ROWS = 500_000
MOST_COLUMNS = 200
COLDEST_C, HOTTEST_C = -120.0, 400.0
FAHRENHEIT = ("f", "°f", "deg f", "degf", "fahrenheit")
CELSIUS = ("c", "°c", "deg c", "degc", "celsius")
NAMES = {
    "time": ("time", "date", "datetime", "date time", "timestamp", "date/time"),
    "temperature": ("temperature", "temp", "temperature_c", "temperature_f", "t"),
    "humidity": ("humidity", "humidity_percent", "rh", "relative humidity", "humid"),
}
HINTS_AT_MINUTES = 15.0


@dataclass(frozen=True)
class TakenLog:
    """Readings in UTC (time, °C, %RH or None), rising in time, and how they were read."""

    rows: list[Reading]
    said: list[str]


@dataclass(frozen=True)
class _Columns:
    time: int
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
    columns = _columns(table[0])
    rows: list[Reading] = []
    for number, cells in enumerate(table[1:], start=2):
        if not any(cell.strip() for cell in cells):
            continue
        row = _row(cells, columns, number, zone, dialect)
        if rows and row[0] <= rows[-1][0]:
            how = "the same time as" if row[0] == rows[-1][0] else "earlier than"
            raise Invalid(
                f"row {number} is at {cells[columns.time].strip()}, {how} the row before; "
                "times rise from row to row",
                field="file",
            )
        rows.append(row)
    if not rows:
        raise Invalid("the file has a header and no readings", field="file")
    return TakenLog(rows, _said(table[0], columns, rows))


def _table(data: bytes) -> tuple[list[list[str]], Dialect]:
    text = text_of(data)
    first = text.split("\n", 1)[0]
    delimiter = max(DELIMITERS, key=first.count)
    dialect = Dialect(delimiter, "." if delimiter == "," else ",")
    table = list(islice(dialect.rows(io.StringIO(text)), MOST_ROWS + 1))
    if len(table) > MOST_ROWS:
        raise Invalid(f"more than {MOST_ROWS} rows; so many are read at once", field="file")
    if not table or not table[0]:
        raise Invalid("the file is empty", field="file")
    if len(table[0]) > MOST_COLUMNS:
        raise Invalid(
            f"the header names {len(table[0])} columns; {MOST_COLUMNS} at most are read",
            field="file",
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
            raise Invalid(
                f"the header holds {listed(header)}; no {column} is "
                "among them; expected time,temperature_c,humidity_percent",
                field="file",
            )
    return _Columns(places["time"], places["temperature"], places.get("humidity"), fahrenheit)


def _is_fahrenheit(cell: str, name: str, unit: str) -> bool:
    if name == "temperature_f" or unit in FAHRENHEIT:
        return True
    if name == "temperature_c" or unit in CELSIUS or not unit:
        return False
    raise Invalid(
        f"the temperature of {quoted(cell.strip())} is in {unit}; expected °C or °F", field="file"
    )


def _row(
    cells: Sequence[str],
    columns: _Columns,
    number: int,
    zone: tzinfo | None,
    dialect: Dialect,
) -> Reading:
    most = max(columns.time, columns.temperature, columns.humidity or 0)
    if len(cells) <= most:
        raise Invalid(f"row {number} has {len(cells)} cells; the header names more", field="file")
    given = _number(cells[columns.temperature], "temperature", number, dialect)
    celsius = round((given - 32) / 1.8, 4) if columns.fahrenheit else given
    if not COLDEST_C <= celsius <= HOTTEST_C:
        raise Invalid(
            f"row {number}: {celsius:g} °C; expected {COLDEST_C:g} to {HOTTEST_C:g} °C",
            field="file",
        )
    humidity = None
    if columns.humidity is not None and cells[columns.humidity].strip():
        humidity = _number(cells[columns.humidity], "humidity", number, dialect)
        if not 0 <= humidity <= 100:
            raise Invalid(f"row {number}: {humidity:g} %RH; expected 0 to 100", field="file")
    return _moment(cells[columns.time], number, zone), celsius, humidity


def _number(cell: str, name: str, number: int, dialect: Dialect) -> float:
    shown = cell.strip().removesuffix("%").strip()
    try:
        figure = dialect.number(shown)
    except ValueError:
        figure = float("nan")
    if not isfinite(figure):
        raise Invalid(
            f"row {number}: the {name} is {quoted(shown)}; expected a number", field="file"
        )
    return figure


def _moment(cell: str, number: int, zone: tzinfo | None) -> datetime:
    shown = cell.strip()
    try:
        moment = datetime.fromisoformat(shown)
    except ValueError:
        raise Invalid(
            f"row {number}: the time is {quoted(shown)}; expected one such as 2026-03-02T08:00:00Z",
            field="file",
        ) from None
    if moment.tzinfo is None:
        if zone is None:
            raise Invalid(
                f"row {number}: the time {shown[:30]} has no offset; expected Z or one such as "
                "+01:00",
                field="file",
            )
        moment = moment.replace(tzinfo=zone)
    try:
        return moment.astimezone(UTC)
    except OverflowError:
        raise Invalid(f"row {number}: no log has the time {shown[:30]}", field="file") from None


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
    most = timedelta(minutes=HINTS_AT_MINUTES)
    gaps = [
        (later[0] - row[0]) / timedelta(minutes=1)
        for row, later in pairwise(rows)
        if later[0] - row[0] > most
    ]
    if gaps:
        said.append(
            f"{len(gaps)} gap{'s' if len(gaps) > 1 else ''} longer than "
            f"{HINTS_AT_MINUTES:g} min, the longest {max(gaps):.0f} min; they prove nothing"
        )
    return said
