"""Every fact is sealed: its hash stands in the audit entry of the transaction that wrote it.

A session notices which rows of the fact tables it wrote; `audit.record` takes their hashes into
the entry, and what is left at the end of the transaction gets an entry of its own. So a row that
was changed, added or deleted behind the program's back differs from the chain, either way round.
Readings of enclosures are sealed by the hour, once the hour is over.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator, Mapping
from datetime import UTC, datetime, timedelta
from functools import cache
from typing import Any

from sqlalchemy import event, inspect, select
from sqlalchemy.orm import InstrumentedAttribute, Mapper, Session

from endurant.store.attachments import Attachment
from endurant.store.authorisations import Authorisation
from endurant.store.clients import Client
from endurant.store.custody import CustodyEvent
from endurant.store.equipment import (
    ColumnMapping,
    InstrumentEvent,
    MeltDensity,
    PhotoUse,
    ReferenceCheck,
    ReferenceReading,
    Supply,
)
from endurant.store.nonconformities import AffectedResult, Nonconformity
from endurant.store.products import Product, Study
from endurant.store.tables import (
    Base,
    BenchEvent,
    ConditioningPeriod,
    Enclosure,
    EnclosureReading,
    Gauge,
    Instrument,
    Job,
    Laboratory,
    MoveSequence,
    Person,
    Report,
    ReportWithdrawal,
    Run,
    Specimen,
    Station,
    Test,
    Void,
    Weighing,
)

FACTS: tuple[type[Base], ...] = (
    Laboratory,
    Person,
    Job,
    Test,
    Specimen,
    Void,
    Enclosure,
    Weighing,
    ConditioningPeriod,
    Instrument,
    Gauge,
    Station,
    Run,
    BenchEvent,
    MoveSequence,
    InstrumentEvent,
    ReferenceCheck,
    ReferenceReading,
    Supply,
    PhotoUse,
    ColumnMapping,
    MeltDensity,
    Authorisation,
    Product,
    Study,
    Client,
    Nonconformity,
    AffectedResult,
    Attachment,
    CustodyEvent,
    Report,
    ReportWithdrawal,
)
"""The tables whose rows are facts, in an order in which they can be told."""

PASSING: Mapping[type[Base], frozenset[str]] = {
    Person: frozenset({"password_hash"}),
    Job: frozenset({"damp"}),
    Enclosure: frozenset({"line_message"}),
    Supply: frozenset({"used"}),
    Station: frozenset({"leased_by", "leased_until"}),
    Run: frozenset(
        {
            "busy_station_id",
            "busy_specimen_id",
            "line",
            "line_message",
            "stop_requested",
            "samples",
            "entry",
            "source_file",
        }
    ),
    Report: frozenset({"content", "pdf", "client_pdf"}),
    Attachment: frozenset({"content"}),
}
"""Columns that are no facts, or are held by a hash of their own."""

WHOLE: Mapping[type[Base], tuple[str, ...]] = {
    Run: ("source_file",),
    Report: ("pdf", "client_pdf"),
    Attachment: ("content",),
}
"""Long columns that are written once; each is sealed by itself."""

SEALED_AS: Mapping[str, Mapping[str, str]] = {
    "job": {"client_remark": "client_words", "lab_settings": "house"},
    "specimen": {"position": "place", "further_positions": "further_places"},
    "void": {"remark": "words"},
    "enclosure": {"capacity": "places", "requested_setting": "asked_setting"},
    "conditioning_period": {
        "placed_at": "hung_at",
        "removed_at": "taken_at",
        "placed_by_id": "hung_by_id",
    },
    "instrument": {"range_min": "least", "range_max": "most"},
    "gauge": {"range_min": "least", "range_max": "most"},
    "run": {"source_notes": "source_said", "other_readings": "beside"},
    "bench_event": {"undoes": "takes_back"},
    "instrument_event": {"text": "words"},
    "reference_check": {"last_message": "last_says"},
    "reference_reading": {"message": "says"},
    "custody_event": {"location": "place", "remark": "words"},
}
"""By table, columns that are sealed by an older name, so that every older seal still holds."""

SEALED_TABLES: Mapping[str, str] = {"conditioning_period": "stay"}
"""Tables that are sealed by an older name."""

HOUR = timedelta(hours=1)
_TOUCHED, _HOURS, _CHANGED = "touched facts", "touched hours", "changed rows"

Seals = dict[str, str | None]


@cache
def fact_columns(table: type[Base]) -> tuple[InstrumentedAttribute[Any], ...]:
    """The columns of a table that are facts, in the order they are declared."""
    mapper: Mapper[Any] = inspect(table)
    passing = PASSING.get(table, frozenset())
    return tuple(
        getattr(table, attribute.key)
        for attribute in mapper.column_attrs
        if attribute.key not in passing
    )


@cache
def _kinds(table: type[Base]) -> tuple[tuple[str, type], ...]:
    """The names of the columns that are facts, and what they hold."""
    return tuple((column.key, column.type.python_type) for column in fact_columns(table))


def key_of(table: type[Base], row_id: object) -> str:
    """What a row is called in the seals: "run 12"."""
    return f"{SEALED_TABLES.get(table.__tablename__, table.__tablename__)} {row_id}"


def named(key: str) -> str:
    """How a person reads the key of a row: "conditioning period 12"."""
    table, _, row_id = key.partition(" ")
    newer = {sealed: name for name, sealed in SEALED_TABLES.items()}
    return f"{newer.get(table, table).replace('_', ' ')} {row_id}"


def whole_key(table: type[Base], column: str, row_id: object) -> str:
    """What a long column is called in the seals: "report pdf 3"."""
    return f"{table.__tablename__} {column} {row_id}"


def hash_of_row(table: type[Base], values: Mapping[str, Any]) -> str:
    """SHA-256 over the facts of a row.

    What is null says nothing, so that a column that is added later changes no older seal.
    """
    facts = {}
    older = SEALED_AS.get(table.__tablename__, {})
    for name, kind in _kinds(table):
        value = values[name]
        if value is not None:
            facts[older.get(name, name)] = _plain(value, kind)
    text = json.dumps(facts, sort_keys=True, ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()


def hash_of_bytes(data: bytes | None) -> str | None:
    """SHA-256 of a long column; None where there is none."""
    return None if data is None else hashlib.sha256(data).hexdigest()


def _plain(value: Any, kind: type) -> Any:
    if isinstance(value, datetime):
        return value.astimezone(UTC).isoformat(timespec="microseconds")
    if kind is float:
        return float(value)
    if kind is bool:
        return bool(value)
    return int(value) if kind is int else value


def watch_facts(session: Session) -> None:
    """Let a session notice the rows of fact tables that it writes."""
    event.listen(session, "after_flush", _notice)


def _notice(session: Session, _context: object) -> None:
    affected = session.info.setdefault(_TOUCHED, {})
    for row in session.new:
        if isinstance(row, FACTS):
            affected[row] = "new"
    for row in session.dirty:
        if isinstance(row, FACTS) and _changed(row):
            affected.setdefault(row, "changed")
    for row in session.deleted:
        if isinstance(row, FACTS):
            affected[row] = "deleted"
    session.info.setdefault(_CHANGED, {}).update(dict.fromkeys(affected))


def changed_rows(session: Session) -> list[Base]:
    """The rows of fact tables that this session wrote since this was last asked."""
    session.flush()
    return list(session.info.pop(_CHANGED, {}))


def _changed(row: Base) -> bool:
    state = inspect(row)
    return any(state.attrs[column.key].history.has_changes() for column in fact_columns(type(row)))


def touch_hours(session: Session, enclosure_id: int, moments: list[datetime]) -> None:
    """Readings were added at these moments; their hours are sealed again once they are over.

    The hour before the first is looked at too: it ended when this reading came.
    """
    hours = session.info.setdefault(_HOURS, set())
    for moment in moments:
        hour = hour_of(moment)
        hours.update({(enclosure_id, hour), (enclosure_id, hour - HOUR)})


def hour_of(moment: datetime) -> datetime:
    """The hour that a moment lies in."""
    return moment.astimezone(UTC).replace(minute=0, second=0, microsecond=0)


def hour_key(enclosure_id: int, hour: datetime) -> str:
    """What an hour of readings is called in the seals."""
    return f"enclosure_reading {enclosure_id} {hour:%Y-%m-%dT%H}"


def hash_of_readings(rows: list[tuple[datetime, float, float | None]]) -> str:
    """SHA-256 over the readings of an hour, in the order of their moments."""
    readings = [
        [
            at.astimezone(UTC).isoformat(timespec="microseconds"),
            float(temperature),
            None if humidity is None else float(humidity),
        ]
        for at, temperature, humidity in sorted(rows, key=lambda row: row[0])
    ]
    return hashlib.sha256(json.dumps(readings).encode()).hexdigest()


def take_seals(session: Session, now: datetime) -> Seals:
    """The hashes of what this session wrote since it was last asked."""
    session.flush()
    seals: Seals = {}
    for row, how in session.info.pop(_TOUCHED, {}).items():
        table = type(row)
        if how == "deleted":
            seals[key_of(table, row.id)] = None
            continue
        seals[key_of(table, row.id)] = hash_of_row(table, _values(row, table))
        for column in WHOLE.get(table, ()):
            if column in inspect(row).dict and (how == "new" or getattr(row, column) is not None):
                seals[whole_key(table, column, row.id)] = hash_of_bytes(getattr(row, column))
    for enclosure_id, hour in sorted(session.info.pop(_HOURS, set())):
        is_over = hour + HOUR <= now or _has_readings_after(session, enclosure_id, hour)
        if is_over and (rows := readings_of(session, enclosure_id, hour)):
            seals[hour_key(enclosure_id, hour)] = hash_of_readings(rows)
    return seals


def _has_readings_after(session: Session, enclosure_id: int, hour: datetime) -> bool:
    """An hour was over once already where the clock was set back since."""
    table = EnclosureReading
    later = select(table.at).where(table.enclosure_id == enclosure_id, table.at >= hour + HOUR)
    return session.scalar(later.limit(1)) is not None


def _values(row: Base, table: type[Base]) -> dict[str, Any]:
    return {name: getattr(row, name) for name, _ in _kinds(table)}


def readings_of(
    session: Session, enclosure_id: int, hour: datetime
) -> list[tuple[datetime, float, float | None]]:
    """The readings of one hour of an enclosure."""
    table = EnclosureReading
    rows = session.execute(
        select(table.at, table.temperature_c, table.humidity_percent)
        .where(table.enclosure_id == enclosure_id, table.at >= hour, table.at < hour + HOUR)
        .order_by(table.at)
    )
    return [(row[0], row[1], row[2]) for row in rows]


def seals_of_everything(session: Session, now: datetime) -> Iterator[Seals]:
    """The hashes of all that is there, some thousand at a time: where sealing begins."""
    for table in FACTS:
        seals: Seals = {}
        for row_id, seal in stored_rows(session, table):
            seals[key_of(table, row_id)] = seal
            if len(seals) >= 2000:
                yield seals
                seals = {}
        for column in WHOLE.get(table, ()):
            for row_id, held in stored_wholes(session, table, column):
                seals[whole_key(table, column, row_id)] = held
        if seals:
            yield seals
    seals = {
        hour_key(enclosure_id, hour): seal
        for enclosure_id, hour, seal in stored_hours(session)
        if hour + HOUR <= now
    }
    if seals:
        yield seals


def stored_rows(session: Session, table: type[Base]) -> Iterator[tuple[int, str]]:
    """Id and hash of every row of a fact table, read a few hundred at a time."""
    names = [column.key for column in fact_columns(table)]
    columns: list[Any] = list(fact_columns(table))
    for row in session.execute(select(*columns).execution_options(yield_per=500)):
        values: dict[str, Any] = dict(zip(names, row, strict=True))
        yield values["id"], hash_of_row(table, values)


def stored_wholes(
    session: Session, table: type[Base], column: str
) -> Iterator[tuple[int, str | None]]:
    """Id and hash of every long column that holds something, one at a time."""
    held: InstrumentedAttribute[Any] = getattr(table, column)
    row_id: InstrumentedAttribute[Any] = getattr(table, "id")  # noqa: B009 every fact has one
    rows = session.execute(
        select(row_id, held).where(held.is_not(None)).execution_options(yield_per=1)
    )
    for row in rows:
        yield row[0], hash_of_bytes(row[1])


def stored_hours(session: Session) -> Iterator[tuple[int, datetime, str]]:
    """Enclosure, hour and hash of every hour of readings."""
    table = EnclosureReading
    rows = session.execute(
        select(table.enclosure_id, table.at, table.temperature_c, table.humidity_percent)
        .order_by(table.enclosure_id, table.at)
        .execution_options(yield_per=2000)
    )
    held: list[tuple[datetime, float, float | None]] = []
    of: tuple[int, datetime] | None = None
    for enclosure_id, at, temperature, humidity in rows:
        hour = (enclosure_id, hour_of(at))
        if of is not None and hour != of:
            yield of[0], of[1], hash_of_readings(held)
            held = []
        of = hour
        held.append((at, temperature, humidity))
    if of is not None:
        yield of[0], of[1], hash_of_readings(held)
