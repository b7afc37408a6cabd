"""The seal of a row: what it is taken over, and that it outlives new names and new columns."""

from __future__ import annotations

import hashlib
import json
import re
from datetime import UTC, datetime, timedelta, timezone
from pathlib import Path
from typing import Any

import pytest

from endurant.store.seals import (
    FACTS,
    PASSING,
    SEALED_AS,
    SEALED_TABLES,
    WHOLE,
    fact_columns,
    hash_of_bytes,
    hash_of_readings,
    hash_of_row,
    hour_key,
    hour_of,
    key_of,
    named,
    whole_key,
)
from endurant.store.tables import (
    Base,
    ConditioningPeriod,
    Enclosure,
    Report,
    Run,
    Specimen,
    Void,
)

MOMENT = datetime(2026, 3, 2, 8, 30, tzinfo=UTC)


def values_of(table: type[Base], **given: Any) -> dict[str, Any]:
    """The facts of a row, null where nothing is given."""
    return {column.key: given.get(column.key) for column in fact_columns(table)}


def void(**given: Any) -> dict[str, Any]:
    usual = {"id": 1, "specimen_id": 4, "code": "set-aside", "remark": "nicked", "at": MOMENT}
    return values_of(Void, **(usual | given))


def test_a_seal_is_over_the_names_that_the_first_releases_wrote() -> None:
    """Worked out here by hand: older seals of a database hold after an upgrade."""
    facts = {
        "id": 1,
        "specimen_id": 4,
        "code": "set-aside",
        "words": "nicked",
        "at": "2026-03-02T08:30:00.000000+00:00",
    }
    text = json.dumps(facts, sort_keys=True, ensure_ascii=False)
    assert hash_of_row(Void, void()) == hashlib.sha256(text.encode()).hexdigest()


@pytest.mark.parametrize(
    "change",
    [
        {"remark": "nicked twice"},
        {"code": "jaw-slip"},
        {"at": MOMENT + timedelta(microseconds=1)},
        {"withdrawn_at": MOMENT},
        {"by_id": 2},
        {"open_for": 4},
    ],
)
def test_any_other_fact_is_another_seal(change: dict[str, Any]) -> None:
    assert hash_of_row(Void, void(**change)) != hash_of_row(Void, void())


def test_a_moment_is_sealed_by_when_it_was_and_not_by_how_it_is_written() -> None:
    elsewhere = MOMENT.astimezone(timezone(timedelta(hours=5, minutes=30)))
    assert hash_of_row(Void, void(at=elsewhere)) == hash_of_row(Void, void())


def test_a_column_that_is_added_later_and_empty_changes_no_seal() -> None:
    with_null = values_of(Specimen, id=3, code="J-1-W1", treated=None)
    without = {name: value for name, value in with_null.items() if value is not None}
    complete = dict.fromkeys(with_null) | without
    assert hash_of_row(Specimen, complete) == hash_of_row(Specimen, with_null)
    assert hash_of_row(Specimen, with_null | {"treated": False}) != hash_of_row(Specimen, with_null)


def test_a_number_is_sealed_as_its_column_holds_it() -> None:
    whole = values_of(Specimen, id=3, code="J-1-W1", x_mm=120)
    assert hash_of_row(Specimen, whole) == hash_of_row(Specimen, whole | {"x_mm": 120.0})
    assert hash_of_row(Specimen, whole) != hash_of_row(Specimen, whole | {"x_mm": 120.5})


@pytest.mark.parametrize("table", FACTS)
def test_every_older_name_is_of_a_column_that_exists(table: type[Base]) -> None:
    names = {column.key for column in fact_columns(table)}
    older = SEALED_AS.get(table.__tablename__, {})
    assert set(older) <= names
    assert not set(older.values()) & (names - set(older))
    assert not names & PASSING.get(table, frozenset())
    assert "id" in names


def test_older_names_are_of_sealed_tables() -> None:
    sealed = {table.__tablename__ for table in FACTS}
    assert set(SEALED_AS) <= sealed
    assert set(SEALED_TABLES) <= sealed
    assert not set(SEALED_TABLES.values()) & sealed


def test_a_row_is_called_by_the_table_it_was_sealed_in_and_read_by_todays() -> None:
    assert key_of(ConditioningPeriod, 12) == "stay 12"
    assert named("stay 12") == "conditioning period 12"
    assert key_of(Run, 3) == named("run 3") == "run 3"
    assert named("bench_event 4") == "bench event 4"
    assert whole_key(Report, "pdf", 3) == "report pdf 3"


def test_what_passes_is_sealed_nowhere_or_by_a_hash_of_its_own() -> None:
    assert "line_message" not in {column.key for column in fact_columns(Enclosure)}
    for table, columns in WHOLE.items():
        assert set(columns) <= PASSING[table]


def test_a_long_column_has_the_hash_of_its_bytes() -> None:
    assert hash_of_bytes(None) is None
    assert hash_of_bytes(b"") == hashlib.sha256(b"").hexdigest()


def test_readings_are_sealed_by_the_hour_they_lie_in() -> None:
    assert hour_of(MOMENT) == MOMENT.replace(minute=0)
    late = MOMENT.replace(minute=59, second=59, microsecond=999_999)
    assert hour_of(late) == hour_of(MOMENT)
    assert hour_of(MOMENT.astimezone(timezone(timedelta(hours=5, minutes=30)))) == hour_of(MOMENT)
    assert hour_key(2, hour_of(MOMENT)) == "enclosure_reading 2 2026-03-02T08"


def test_an_hour_of_readings_is_one_seal_in_whatever_order_they_come() -> None:
    rows: list[tuple[datetime, float, float | None]] = [
        (MOMENT + timedelta(minutes=n), 20.0 + n / 10, 65.0) for n in range(4)
    ]
    sealed = hash_of_readings(list(rows))
    assert hash_of_readings(list(reversed(rows))) == sealed
    assert hash_of_readings(rows[:-1]) != sealed
    flattened = [(at, 20.0, humidity) for at, _, humidity in rows]
    assert hash_of_readings(flattened) != sealed
    dry: list[tuple[datetime, float, float | None]] = [(at, c, None) for at, c, _ in rows]
    assert hash_of_readings(dry) != sealed


def test_what_is_not_sealed_is_in_the_documented_list() -> None:
    text_of = Path("docs/security.md").read_text()
    said = text_of.split("| Not sealed |")[1].split("\n\n")[0]
    listed = set(re.findall(r"^\\| `(\w+)`", said, re.MULTILINE))
    sealed = {table.__tablename__ for table in FACTS} | {"audit_entry", "audit_head"}
    assert {table.name for table in Base.metadata.sorted_tables} - sealed == listed
