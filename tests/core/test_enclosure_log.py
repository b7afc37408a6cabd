"""Logs of enclosures as files hold them: read, converted, or refused by row."""

from __future__ import annotations

from contextlib import suppress
from datetime import UTC, datetime, timedelta, timezone

import pytest
from hypothesis import given
from hypothesis import strategies as st

from endurant.core.conditioning.log_csv import read_log_csv
from endurant.core.refusals import Invalid
from endurant.core.simulate.room import SimulatedRoom
from endurant.core.tables import Table
from endurant.reports.workbook import workbook_of

HEAD = "time,temperature_c,humidity_percent\n"
FIRST = "2026-03-02T08:00:00Z,20.3,64.8\n"


def read(text: str, hours: int | None = None) -> list[tuple[datetime, float, float | None]]:
    zone = None if hours is None else timezone(timedelta(hours=hours))
    return read_log_csv(text.encode(), zone).rows


def test_a_plain_log_is_read_as_it_stands() -> None:
    rows = read(HEAD + FIRST + "2026-03-02T08:10:00+00:00,20.4,65\n\n")
    assert rows == [
        (datetime(2026, 3, 2, 8, 0, tzinfo=UTC), 20.3, 64.8),
        (datetime(2026, 3, 2, 8, 10, tzinfo=UTC), 20.4, 65.0),
    ]


def test_fahrenheit_is_converted_and_said() -> None:
    taken = read_log_csv(b"Time,Temp (\xc2\xb0F),RH (%)\n2026-03-02T08:00Z,68,65\n")
    assert taken.rows[0][1] == pytest.approx(20)
    assert any("read as °F and converted" in line for line in taken.said)
    assert read("time,temperature_f\n2026-03-02T08:00Z,212\n")[0][1:] == (100.0, None)


def test_semicolons_and_decimal_commas_are_read() -> None:
    assert read("time;temp;rh\n2026-03-02T08:00Z;20,5;64,25\n")[0][1:] == (20.5, 64.25)


@pytest.mark.parametrize(
    "row",
    [
        "02.03.2026 08:00;20,5",
        "2 Mar 2026, 08:00:00;20,5",
        "2026-03-02 08:00;20,5",
    ],
)
def test_times_are_read_as_laboratories_write_them(row: str) -> None:
    assert read(f"Logger 7\nRoom: textile\nTime;Temp (°C)\n{row}\n", 0)[0] == (
        datetime(2026, 3, 2, 8, 0, tzinfo=UTC),
        20.5,
        None,
    )


def test_a_date_and_a_time_in_columns_of_their_own_are_one_time() -> None:
    rows = read("No;Date;Time;Temp\n1;02.03.2026;08:00;20\n2;02.03.2026;08:10;21\n", 1)
    assert [row[0].minute for row in rows] == [0, 10]
    assert rows[0][0] == datetime(2026, 3, 2, 7, 0, tzinfo=UTC)


def test_a_log_may_be_a_workbook() -> None:
    table = Table(("Time", "Temp", "RH"), [("2026-03-02T08:00Z", 20.5, 64)])
    taken = read_log_csv(workbook_of({"Log": [table]}))
    assert taken.rows == [(datetime(2026, 3, 2, 8, 0, tzinfo=UTC), 20.5, 64.0)]


def test_times_without_an_offset_need_a_zone() -> None:
    naive = HEAD + "2026-03-02T08:00:00,20.3,64.8\n"
    assert read(naive, 1)[0][0] == datetime(2026, 3, 2, 7, 0, tzinfo=UTC)
    with pytest.raises(Invalid, match="log-file.no-offset"):
        read(naive)


def test_gaps_are_counted_and_kept() -> None:
    taken = read_log_csv((HEAD + FIRST + "2026-03-02T09:10:00Z,20,65\n").encode())
    assert any("1 gap longer than 15 min, the longest 70 min" in line for line in taken.said)


@pytest.mark.parametrize(
    ("text", "wording"),
    [
        (HEAD + FIRST + "2026-03-02T07:50:00Z,20,65\n", "log-file.earlier-time"),
        (HEAD + FIRST + "2026-03-02T09:00:00+01:00,20,65\n", "log-file.same-time"),
        (HEAD + "2026-03-02T08:00:00Z,warm,65\n", "log-file.not-a-number"),
        (HEAD + "2026-03-02T08:00:00Z,nan,65\n", "log-file.not-a-number"),
        (HEAD + "2026-03-02T08:00:00Z,20,165\n", "log-file.humidity-out-of-range"),
        (HEAD + "2026-03-02T08:00:00Z,2000,50\n", "log-file.temperature-out-of-range"),
        (HEAD + "yesterday,20,50\n", "log-file.not-a-time"),
        (HEAD + "03/02/2026 08:00,20,50\n", "log-file.not-a-time"),
        (HEAD + "0001-01-01T00:00+14:00,20,50\n", "log-file.time-out-of-range"),
        (HEAD + "2026-03-02T08:00:00Z\n", "log-file.too-many-cells"),
        (HEAD, "log-file.no-readings"),
        ("when,how warm\n1,2\n", "log-file.column-missing"),
        ("time,humidity\n1,2\n", "log-file.column-missing"),
        ("time,temp (K)\n2026-03-02T08:00Z,293\n", "log-file.temperature-unit"),
        ("", "log-file.empty"),
        ("a\0b", "csv.not-text"),
    ],
)
def test_what_makes_no_sense_is_refused_by_row(text: str, wording: str) -> None:
    with pytest.raises(Invalid, match=wording):
        read(text)


@given(st.binary(max_size=300))
def test_rubbish_is_read_or_refused_and_nothing_else(data: bytes) -> None:
    with suppress(Invalid):
        assert read_log_csv(data).rows


def test_a_simulated_room_keeps_its_tolerance_and_says_the_same_twice() -> None:
    room = SimulatedRoom(20, 65, 0.6, 1.4, 11)
    for minute in range(0, 3 * 1440, 5):
        read = room.read(minute * 60.0)
        assert abs(read.temperature_c - 20) < 2
        assert read.humidity_percent is not None
        assert abs(read.humidity_percent - 65) < 4
    assert room.read(1e6) == room.read(1e6)
    assert room.read(1e6, 4).temperature_c == pytest.approx(room.read(1e6).temperature_c + 4)
