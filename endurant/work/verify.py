"""Does the record still say what it said: the chain, every fact, the raw data, the figures."""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.document import analyse, read_document
from endurant.core.refusals import Refusal
from endurant.store.audit import Chain, read_chain
from endurant.store.engine import transaction
from endurant.store.samples import entry_sha256, sha256, unpack
from endurant.store.seals import (
    FACTS,
    WHOLE,
    Seals,
    hour_key,
    key_of,
    stored_hours,
    stored_rows,
    stored_wholes,
    whole_key,
)
from endurant.store.tables import Report, Run

Progress = Callable[[str], None]


@dataclass(frozen=True)
class Verified:
    """What came of looking at the whole record; `head` is to be kept outside of it."""

    found: list[str]
    entries: int
    head: str


def verify(since: str | None = None, progress: Progress = lambda _: None) -> Verified:
    """One sentence for everything that does not hold; none when the record is sound.

    `since` is a head that was printed before: it must still stand in the chain, or its end was
    cut off. What is checked is read from the database in pieces; `progress` is told of each.
    """
    with transaction() as session:
        heads = {report.id: _printed_head(report) for report in session.scalars(select(Report))}
        progress("the chain of audit entries")
        looked_for = {head for head in (since, *heads.values()) if head}
        chain = read_chain(session, looked_for)
        found = list(chain.broken)
        if since is not None and since not in chain.hashes:
            found.append(f"the head {since[:12]} stands nowhere in the chain: its end was cut off")
        found += _heads_of_reports(session, heads, chain)
        progress("every fact against its entry")
        found += _facts(session, chain.seals)
    progress("raw data")
    found += list(_raw_data())
    progress("figures of released reports")
    found += list(_reports())
    return Verified(found, chain.length, chain.head)


def _printed_head(report: Report) -> str | None:
    try:
        head = json.loads(report.content).get("record_head")
    except ValueError:
        return None
    return head if isinstance(head, str) else None


def _heads_of_reports(session: Session, heads: dict[int, str | None], chain: Chain) -> list[str]:
    """A report names the head of the chain at its release, which must still stand there."""
    return [
        f"report {report.number} revision {report.revision} was released on an entry that is "
        "no longer in the chain"
        for report in session.scalars(select(Report))
        if (head := heads.get(report.id)) is not None and head not in chain.hashes
    ]


def _facts(session: Session, seals: Seals) -> Iterator[str]:
    """Every row against the newest seal of it, and every seal against a row."""
    left = {key for key, seal in seals.items() if seal is not None}
    for key, words, stored in _stored(session, seals):
        seal = seals.get(key)
        left.discard(key)
        if seal is None:
            yield f"{words} was added by hand: no entry speaks of it"
        elif seal != stored:
            yield f"{words} was changed by hand: it is not what its entry says"
    for key in sorted(left):
        yield f"{key} is gone: an entry speaks of it, and nobody took it away"


def _stored(session: Session, seals: Seals) -> Iterator[tuple[str, str, str | None]]:
    """Key, words and hash of everything that is sealed."""
    for table in FACTS:
        for row_id, found in stored_rows(session, table):
            key = key_of(table, row_id)
            yield key, key, found
        for column in WHOLE.get(table, ()):
            for row_id, held in stored_wholes(session, table, column):
                key = whole_key(table, column, row_id)
                yield key, f"the {column.replace('_', ' ')} of {key_of(table, row_id)}", held
    hours = list(stored_hours(session))
    newest = {enclosure_id: hour for enclosure_id, hour, _ in hours}
    for enclosure_id, hour, found in hours:
        key = hour_key(enclosure_id, hour)
        if hour == newest[enclosure_id] and key not in seals:
            continue  # an hour is sealed once the next one has begun
        yield key, f"the log of enclosure {enclosure_id} from {hour:%Y-%m-%d %H:%M} UTC", found


def _raw_data() -> Iterator[str]:
    """Samples and readings against their hashes, run by run."""
    with transaction() as session:
        runs = list(session.scalars(select(Run.id).order_by(Run.id)))
    for run_id in runs:
        with transaction() as session:
            columns = (Run.raw, Run.entry, Run.sha256, Run.samples)
            row = session.execute(select(*columns).where(Run.id == run_id)).one_or_none()
        if row is None:
            continue
        raw, entry, told, count = row
        try:
            if raw is not None:
                table = unpack(raw)
                if sha256(table) != told or len(table) != count:
                    yield f"the samples of run {run_id} are not those that were stored"
            elif entry is not None and entry_sha256(entry) != told:
                yield f"the readings of run {run_id} are not those that were stored"
            elif entry is None and told is not None:
                yield f"the data of run {run_id} is gone"
        except Exception as error:  # data that was changed can fail in every way there is
            yield f"the data of run {run_id} cannot be read: {type(error).__name__}"


def _reports() -> Iterator[str]:
    """The content of every report against its hash, and its figures computed again."""
    with transaction() as session:
        reports = list(session.scalars(select(Report.id).order_by(Report.id)))
    for report_id in reports:
        with transaction() as session:
            report = session.get_one(Report, report_id)
            name = f"report {report.number} revision {report.revision}"
            content, told, verdict = report.content, report.sha256, report.verdict
        if hashlib.sha256(content.encode()).hexdigest() != told:
            yield f"{name} was changed"
            continue
        plain = json.loads(content)
        if plain["verdict"] != verdict:
            yield f"{name}: its verdict is {verdict}, its content says {plain['verdict']}"
        for test in plain["tests"]:
            yield from _recomputed(name, test)


def _recomputed(name: str, test: dict[str, Any]) -> Iterator[str]:
    """The figures of a released test, computed again from its own raw data."""
    try:
        again = analyse(read_document(test["document"])).as_json()
    except Refusal as refusal:
        yield f"{name}: its figures cannot be computed again: {refusal.sentence}"
        return
    told = test["result"]
    values = {entry["label"]: entry["values"] for entry in told["specimens"]}
    for entry in again["specimens"]:
        for figure, value in entry["values"].items():
            before = values[entry["label"]][figure]["value"]
            if not _same(value["value"], before):
                yield (
                    f"{name}: {entry['label']} {figure} comes out as {value['value']}, "
                    f"the report says {before}"
                )
    for now, row in zip(again["summary"], told["summary"], strict=False):
        if now["reported"] != row["reported"]:
            yield (
                f"{name}: {row['property']} comes out as {now['reported']}, "
                f"the report says {row['reported']}"
            )


def _same(now: float | None, before: float | None) -> bool:
    if now is None or before is None:
        return now is before
    return math.isclose(now, before, rel_tol=1e-12)
