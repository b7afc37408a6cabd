"""Every kind of change by hand shows: one row each, and the words that `verify` finds for it."""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import datetime

import pytest
from sqlalchemy import JSON, text
from sqlalchemy.engine import Connection
from sqlalchemy.orm import Session

from endurant.store.engine import engine_for
from endurant.store.seals import FACTS, fact_columns, stored_rows
from endurant.work.upkeep.verify import verify
from tests.laboratory import Bench

CHANGES: dict[str, tuple[str, str]] = {
    "a client's name": ("UPDATE job SET client = 'Someone else'", "job 1 was changed"),
    "a product": ("UPDATE job SET product = 'Another cloth'", "job 1 was changed"),
    "a lot": ("UPDATE job SET lot = 'T-2'", "job 1 was changed"),
    "the material": ("UPDATE job SET material = 'knitted'", "job 1 was changed"),
    "the state on arrival": ("UPDATE job SET arrival_state = 'wet'", "job 1 was changed"),
    "the width of a sample": ("UPDATE job SET width_mm = 1500", "job 1 was changed"),
    "when it was received": (
        "UPDATE job SET received_at = received_at - INTERVAL 1 DAY",
        "job 1 was changed",
    ),
    "when it is due": ("UPDATE job SET due_at = due_at + INTERVAL 9 DAY", "job 1 was changed"),
    "when it was cut": ("UPDATE job SET cut_at = cut_at + INTERVAL 1 DAY", "job 1 was changed"),
    "that it was released": ("UPDATE job SET released_at = NULL", "job 1 was changed"),
    "limits": ("UPDATE test SET limits = '[]'", "test 1 was changed"),
    "a parameter": (
        "UPDATE test SET parameters = JSON_SET(parameters, '$.peak_floor', 0.5)",
        "test 1 was changed",
    ),
    "a method": ("UPDATE test SET method = 'astm-d2261'", "test 1 was changed"),
    "which way a specimen lay": (
        "UPDATE specimen SET direction = 'weft' WHERE id = 1",
        "specimen 1 was changed",
    ),
    "where it was cut": ("UPDATE specimen SET x_mm = x_mm + 5 WHERE id = 1", "specimen 1 was"),
    "a spare": ("UPDATE specimen SET spare = 1 WHERE id = 1", "specimen 1 was changed"),
    "a measured size": (
        """UPDATE specimen SET dimensions = '{"width_mm": [49]}' WHERE id = 2""",
        "specimen 2 was changed",
    ),
    "who ran a specimen": ("UPDATE run SET by_id = 2 WHERE id = 1", "run 1 was changed"),
    "when it ran": (
        "UPDATE run SET started_at = started_at - INTERVAL 1 HOUR WHERE id = 1",
        "run 1 was changed",
    ),
    "what it was made under": ("UPDATE run SET settings = '{}' WHERE id = 1", "run 1 was changed"),
    "the file it came from": (
        "UPDATE run SET source_name = 'other.csv' WHERE id = 1",
        "run 1 was changed",
    ),
    "the file's content": (
        "UPDATE source_file SET content = 'x'",
        "the source file of run 1 was changed",
    ),
    "samples": (
        "UPDATE recording r JOIN recording o ON o.run_id = 2 SET r.packed = o.packed"
        " WHERE r.run_id = 1",
        "the samples of run 1 are not those that were stored",
    ),
    "samples and their hash": (
        "UPDATE run r JOIN run o ON o.id = 2 JOIN recording s ON s.run_id = 1"
        " JOIN recording t ON t.run_id = 2 SET s.packed = t.packed, s.sha256 = t.sha256,"
        " r.sha256 = o.sha256, r.samples = o.samples WHERE r.id = 1",
        "run 1 was changed",
    ),
    "samples that are no samples": (
        "UPDATE recording SET packed = 'rubbish' WHERE run_id = 1",
        "the data of run 1 cannot be read",
    ),
    "how many samples": ("UPDATE run SET samples = 3 WHERE id = 1", "the samples of run 1"),
    "samples taken away": ("DELETE FROM recording WHERE run_id = 1", "the data of run 1 is gone"),
    "a run taken away": ("DELETE FROM run WHERE id = 3", "run 3 is missing"),
    "a run added": (
        "INSERT INTO run (specimen_id, state, line, line_message, settings, checks, source_notes,"
        " started_at, stop_requested, by_id, samples) VALUES"
        " (12, 'settled', 'up', '', '{}', '[]', '[]', NOW(), 0, 1, 0)",
        "was added outside the application",
    ),
    "the code of a void": ("UPDATE void SET code = 'tear-off-line'", "void 1 was changed"),
    "a void deleted": ("DELETE FROM void", "void 1 is missing"),
    "a void taken back": ("UPDATE void SET open_for = NULL", "void 1 was changed"),
    "a period moved back": (
        "UPDATE conditioning_period SET placed_at = placed_at - INTERVAL 2 DAY WHERE id = 1",
        "conditioning period 1 was changed",
    ),
    "a period deleted": (
        "DELETE FROM conditioning_period WHERE id = 2",
        "conditioning period 2 is missing",
    ),
    "a log flattened": (
        "UPDATE enclosure_reading SET temperature_c = 20, humidity_percent = 65",
        "the log of enclosure 1 from",
    ),
    "a reading of a log deleted": (
        "DELETE FROM enclosure_reading ORDER BY at LIMIT 1",
        "the log of enclosure 1 from",
    ),
    "a set point": ("UPDATE enclosure SET set_point = '{}'", "enclosure 1 was changed"),
    "a calibration": (
        "UPDATE instrument SET calibration_due_at = calibration_due_at + INTERVAL 1 YEAR",
        "instrument 1 was changed",
    ),
    "a certificate": ("UPDATE instrument SET certificate = 'C-2'", "instrument 1 was changed"),
    "a laboratory rule": (
        "UPDATE laboratory SET comparison = 'unrounded'",
        "laboratory 1 was changed",
    ),
    "a role": ("UPDATE person SET role = 'manager' WHERE id = 1", "person 1 was changed"),
    "a person's name": ("UPDATE person SET name = 'Nobody' WHERE id = 1", "person 1 was changed"),
    "a report's verdict": ("UPDATE report SET verdict = 'does not meet'", "report 1 was changed"),
    "a report's releaser": ("UPDATE report SET released_by_id = 1", "report 1 was changed"),
    "a report's content": (
        "UPDATE report SET content = REPLACE(content, 'Test cloth', 'Best cloth')",
        "report R-0401 revision 1 was changed",
    ),
    "a report's content with its hash": (
        "UPDATE report SET content = REPLACE(content, 'Test cloth', 'Best cloth'),"
        " sha256 = SHA2(content, 256)",
        "report 1 was changed",
    ),
    "a report's content made nonsense": (
        "UPDATE report SET content = '[1]', sha256 = SHA2('[1]', 256)",
        "report R-0401 revision 1 cannot be checked to the end",
    ),
    "an atmosphere that nobody knows": (
        "UPDATE enclosure SET atmosphere = 'moon'",
        "lists and clocks cannot be checked to the end",
    ),
    "a report's PDF": ("UPDATE report SET pdf = 'x'", "the pdf of report 1 was changed"),
    "a client report": (
        "UPDATE report SET client_pdf = 'x'",
        "the client pdf of report 1 was changed",
    ),
    "a report deleted": ("DELETE FROM report", "report 1 is missing"),
    "an entry's words": (
        "UPDATE audit_entry SET text = 'nothing happened' WHERE id = 7",
        "audit entry 7 was changed",
    ),
    "an entry's moment": (
        "UPDATE audit_entry SET at = at - INTERVAL 1 HOUR WHERE id = 7",
        "audit entry 7 was changed",
    ),
    "an entry taken out": ("DELETE FROM audit_entry WHERE id = 8", "audit entry 8 is missing"),
    "the chain's head": ("UPDATE audit_head SET last_id = last_id - 1", "the end of the audit"),
}


@pytest.fixture
def by_hand(database: str, bench: Bench) -> Iterator[Connection]:
    """A released job in the record, and a hand that no trigger holds back."""
    job = bench.job_ready_to_test()
    bench.bring_in(job, "W1", keep=False)
    bench.post(f"/specimens/{bench.specimen(job, 'W1')['id']}/void", {"code": "jaw-slip"})
    for label in ("W2", "W3", "W4", "W5", "W6", *(f"F{number}" for number in range(1, 6))):
        bench.bring_in(job, label)
    rows = "".join(
        f"2026-01-0{day}T{hour:02}:{minute:02}:00Z,{20 + minute / 100},65.1\n"
        for day, hour, minute in ((1, 8, 0), (1, 8, 30), (1, 9, 15), (1, 10, 5))
    )
    log = f"time,temperature_c,humidity_percent\n{rows}".encode()
    bench.post("/enclosures/1/log", files={"file": ("log.csv", log)})
    assert bench.as_("maren").release(job["id"]).status_code == 200
    with engine_for(database).connect() as connection:
        connection.execute(text("SET FOREIGN_KEY_CHECKS = 0"))
        shown = connection.execute(text("SHOW TRIGGERS")).mappings()
        triggers = [row["Trigger"] for row in shown]
        made = [
            connection.execute(text(f"SHOW CREATE TRIGGER {name}")).mappings().one()
            for name in triggers
        ]
        for name in triggers:
            connection.execute(text(f"DROP TRIGGER {name}"))
        yield connection
        connection.rollback()
        for trigger in made:
            connection.execute(text(trigger["SQL Original Statement"]))
        connection.commit()


def test_every_kind_of_change_by_hand_is_found(by_hand: Connection) -> None:
    """The parts share one laboratory, which takes longer to make than any of them."""
    every_column_of_every_filled_table_changes_its_seal(by_hand)
    each_change_is_found_in_words(by_hand)
    a_tail_that_was_cut_shows_against_a_head_kept_outside(by_hand)


def each_change_is_found_in_words(by_hand: Connection) -> None:
    assert verify().sentences == []
    tables = [
        *("laboratory", "person", "job", "test", "specimen", "void", "enclosure"),
        *(
            "enclosure_reading",
            "conditioning_period",
            "instrument",
            "run",
            "recording",
            "source_file",
            "report",
            "audit_entry",
            "audit_head",
        ),
    ]
    for table in tables:
        by_hand.execute(text(f"CREATE TABLE kept_{table} AS SELECT * FROM {table}"))
    missed = []
    for kind, (statement, wording) in CHANGES.items():
        by_hand.execute(text(statement))
        by_hand.commit()
        sentences = verify().sentences
        if not any(wording in sentence for sentence in sentences):
            missed.append(f"{kind}: {sentences}")
        changed = set(re.findall(r"(?:UPDATE|FROM|INTO|JOIN) (\w+)", statement))
        assert changed
        for table in changed:
            by_hand.execute(text(f"DELETE FROM {table}"))
            by_hand.execute(text(f"INSERT INTO {table} SELECT * FROM kept_{table}"))
        by_hand.commit()
    assert verify().sentences == []
    for table in tables:
        by_hand.execute(text(f"DROP TABLE kept_{table}"))
    assert missed == []
    assert len(CHANGES) >= 36


def a_tail_that_was_cut_shows_against_a_head_kept_outside(by_hand: Connection) -> None:
    head = verify().head
    assert verify(since=head).sentences == []
    entry = by_hand.execute(text("SELECT id, hash FROM audit_entry WHERE action = 'release'")).one()
    by_hand.execute(text(f"DELETE FROM audit_entry WHERE id >= {entry.id}"))
    by_hand.execute(text("DELETE FROM report"))
    last = by_hand.execute(text("SELECT id, hash FROM audit_entry ORDER BY id DESC LIMIT 1")).one()
    by_hand.execute(
        text("UPDATE audit_head SET last_id = :id, last_hash = :hash"), dict(last._mapping)
    )
    by_hand.commit()
    assert any("its end is missing" in sentence for sentence in verify(since=head).sentences)


OTHER: dict[type, str] = {
    bool: "1 - COALESCE({0}, 0)",
    int: "COALESCE({0}, 0) + 977",
    float: "COALESCE({0}, 0) + 1.5",
    str: "CONCAT(IF(LEFT(COALESCE({0}, ''), 1) = 'x', 'y', 'x'), SUBSTRING(COALESCE({0}, ''), 2))",
    bytes: "CONCAT(COALESCE({0}, ''), 'x')",
    datetime: "COALESCE({0}, NOW(6)) + INTERVAL 1 DAY",
    object: """'{{"other": 1}}'""",
}
"""Another value than the one that is there, by what a column holds."""


def every_column_of_every_filled_table_changes_its_seal(by_hand: Connection) -> None:
    tried = set()
    for table in FACTS:
        name = table.__tablename__
        row_id = by_hand.scalar(text(f"SELECT id FROM {name} ORDER BY id LIMIT 1"))
        if row_id is None:
            continue
        for column in fact_columns(table):
            kind = column.type.python_type
            is_plain = kind is object and not isinstance(column.type, JSON)
            other = OTHER[datetime if is_plain else kind].format(f"`{column.key}`")
            with Session(by_hand, join_transaction_mode="create_savepoint") as session:
                before = dict(stored_rows(session, table))
                if column.key == "id":
                    continue
                statement = f"UPDATE {name} SET `{column.key}` = {other} WHERE id = :id"
                session.execute(text(statement), {"id": row_id})
                after = dict(stored_rows(session, table))
                assert before[row_id] != after[row_id], f"{name}.{column.key}"
                session.rollback()
            tried.add(f"{name}.{column.key}")
    assert len(tried) > 120
