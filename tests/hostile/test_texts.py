"""Text deeper, wider or longer than anybody means it: JSON, CSV, and names in a calendar."""

from __future__ import annotations

import csv
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from typing import Any

import pytest
from icalendar import Calendar

from endurant.core.conditioning import log_csv
from endurant.core.conditioning.log_csv import read_log_csv
from endurant.core.csv_dialect import DELIMITERS
from endurant.core.csv_import import import_csv
from endurant.core.csv_trace import headers_of, read_trace_csv
from endurant.core.quoting import MAX_QUOTED
from endurant.core.reading import parse_json
from endurant.core.refusals import Invalid
from endurant.reports.calendar import calendar_of
from endurant.work.use_cases.planning.today import BlockView

WIDE = b"a," * 300_000 + b"\n" + b"1," * 300_000
LONGEST_SENTENCE = 400


@pytest.mark.parametrize(
    "data",
    [
        b"[" * 500_000,
        b'{"a":' * 300_000,
        b"1" * 1_000_000,
        b'"\\ud800"',
        b"\xff\xfe[\x00]\x00",
        b'{"a": 1} trailing',
    ],
    ids=["deep list", "deep object", "long number", "half a sign", "UTF-16", "more after it"],
)
def test_json_that_nobody_means_is_refused_in_a_sentence(data: bytes) -> None:
    with pytest.raises(Invalid, match="json.not-json") as refusal:
        parse_json(data)
    assert len(refusal.value.sentence) < LONGEST_SENTENCE


@pytest.mark.parametrize(
    "read",
    [
        read_trace_csv,
        headers_of,
        lambda data: read_log_csv(data, None),
        lambda data: import_csv([("a.csv", data)], "iso-13937-2"),
    ],
    ids=["trace", "headers", "log", "import"],
)
@pytest.mark.parametrize(
    "data",
    [
        WIDE,
        WIDE.replace(b",", b";"),
        b'"' + b"x" * 2_000_000,
        b"\0" * 1000,
        b"\n" * 100_000,
        b"",
    ],
    ids=[
        "wide",
        "wide with semicolons",
        "one quote",
        "zeros",
        "blank",
        "empty",
    ],
)
def test_csv_that_nobody_means_is_refused_in_a_sentence(
    read: Callable[[bytes], Any], data: bytes
) -> None:
    with pytest.raises(Invalid) as refusal:
        read(data)
    sentence = refusal.value.sentence
    assert len(sentence) < LONGEST_SENTENCE
    assert "\n" not in sentence
    assert "x" * (MAX_QUOTED + 1) not in sentence


def test_no_more_rows_of_a_log_are_taken_apart_than_are_read(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(log_csv, "MAX_ROWS", 10)
    taken = 0
    plain = csv.reader

    def counted(lines: Any, **how: Any) -> Iterator[list[str]]:
        nonlocal taken
        for row in plain(lines, **how):
            taken += 1
            yield row

    monkeypatch.setattr(csv, "reader", counted)
    data = b"time,temperature_c\n" + b"2026-03-02T08:00:00Z,20\n" * 5000
    with pytest.raises(Invalid, match="more than 10 rows"):
        read_log_csv(data)
    assert taken == 11 + len(DELIMITERS) * log_csv.LINES_BEFORE_HEADER


def test_a_name_writes_no_line_of_its_own_into_a_calendar() -> None:
    at = datetime(2026, 3, 2, 8, tzinfo=UTC)
    name = "Tear\r\nBEGIN:VALARM\nATTENDEE:mailto:x"
    block = BlockView(
        id="1",
        test=name,
        step="test",
        job_number="J-1",
        job_id=1,
        test_id=1,
        pinned=False,
        begins=at,
        start=at,
        end=at,
        hands_on_end=at,
        person=name,
        person_id=1,
        place=name,
        why=name,
        late=False,
        at="bench",
    )
    lines = calendar_of(name, [block], at).splitlines()
    assert not any(line.startswith((b"BEGIN:VALARM", b"ATTENDEE")) for line in lines)
    (event,) = Calendar.from_ical(b"\r\n".join(lines)).walk("VEVENT")
    assert "VALARM" in str(event["summary"])
