"""Does the record still say what it said: the chain, every fact, the raw data, the figures."""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from functools import partial
from typing import Any

from sqlalchemy import exists, func, select
from sqlalchemy.orm import Session, aliased

from endurant.core.document import analyse, read_document
from endurant.core.refusals import Refusal, Unavailable
from endurant.store.audit import Chain, read_chain
from endurant.store.equipment import Photo, PhotoUse
from endurant.store.samples import FRAME_CHANNELS, entry_sha256, sha256, unpack
from endurant.store.seal_book import SealBook
from endurant.store.seals import (
    FACTS,
    WHOLE,
    hour_key,
    hour_of,
    key_of,
    named,
    stored_hours,
    stored_rows,
    stored_wholes,
    whole_key,
)
from endurant.store.tables import EnclosureReading, Recording, Report, Run
from endurant.store.uploads import SourceFile
from endurant.work.base.transactions import transaction
from endurant.work.facts.results import with_raw_data
from endurant.work.upkeep.rebuild import stale_cards
from endurant.work.use_cases.photographs.encoding import size_of

Progress = Callable[[str], None]
Check = Callable[[], Iterable[str]]


@dataclass(frozen=True)
class Verified:
    """What came of looking at the whole record; `head` is to be kept outside of it."""

    sentences: list[str]
    entries: int
    head: str


def verify(
    since: str | None = None,
    progress: Progress = lambda _: None,
    found: Progress = lambda _: None,
) -> Verified:
    """One sentence for everything that does not hold; none when the record is sound.

    `since` is a head that was printed before: it must still stand in the chain, or its end was
    cut off. What is checked is read from the database in pieces; `progress` is told of each, and
    `found` of each sentence as it comes. What was changed can fail in every way there is: a part
    that cannot be checked to its end is a sentence too, and the others go on.
    """
    chain = Chain()

    def entries() -> Iterator[str]:
        nonlocal chain
        with transaction() as session:
            heads = dict(_printed_heads(session))
            looked_for = {head for head in (since, *heads.values()) if head}
            chain = read_chain(session, looked_for)
            yield from chain.broken
            if since is not None and since not in chain.hashes:
                yield f"the head {since[:12]} is not in the audit trail: its end is missing"
            yield from _heads_of_reports(session, heads, chain)

    def facts() -> Iterator[str]:
        with transaction() as session:
            yield from _facts(session, chain.seals)

    parts: tuple[tuple[str, Check], ...] = (
        ("the chain of audit entries", entries),
        ("every fact against its entry", facts),
        ("raw data", _raw_data),
        ("source files", _source_files),
        ("photographs", _photographs),
        ("results of released reports", _reports),
        ("lists and clocks", stale_cards),
    )
    sentences: list[str] = []
    for name, check in parts:
        progress(name)
        for sentence in _guarded(name, check):
            sentences.append(sentence)
            found(sentence)
    return Verified(sentences, chain.length, chain.head)


def _guarded(name: str, check: Check) -> Iterator[str]:
    """What a check finds; whatever else it ends in is a sentence."""
    try:
        yield from check()
    except Unavailable:
        raise
    except Refusal as refusal:
        yield f"{name} cannot be checked to the end: {refusal.sentence}"
    except Exception as error:
        yield f"{name} cannot be checked to the end: {type(error).__name__}"


def _printed_heads(session: Session) -> Iterator[tuple[int, str | None]]:
    """The head of the chain that each report names, read a few reports at a time."""
    rows = session.execute(select(Report.id, Report.content).execution_options(yield_per=10))
    for report_id, content in rows:
        try:
            plain = json.loads(content)
        except ValueError:
            plain = None
        head = plain.get("record_head") if isinstance(plain, dict) else None
        yield report_id, head if isinstance(head, str) else None


def _heads_of_reports(session: Session, heads: dict[int, str | None], chain: Chain) -> list[str]:
    """A report names the head of the chain at its release, which must still stand there."""
    return [
        f"report {report.number} revision {report.revision} was released on an entry that is "
        "no longer in the chain"
        for report in session.scalars(select(Report))
        if (head := heads.get(report.id)) is not None and head not in chain.hashes
    ]


def _facts(session: Session, seals: SealBook) -> Iterator[str]:
    """Every row against the newest seal of it, and every seal against a row."""
    for key, text, stored in _stored(session, seals):
        seal = seals.look_up(key)
        if seal is None:
            yield f"{text} was added outside the application: no audit entry names it"
        elif seal != stored:
            yield f"{text} was changed outside the application: it differs from its audit entry"
    for key in seals.unseen():
        yield f"{named(key)} is missing: an audit entry names it"


def _stored(session: Session, seals: SealBook) -> Iterator[tuple[str, str, str | None]]:
    """Key, words and hash of everything that is sealed."""
    for table in FACTS:
        for row_id, seal in stored_rows(session, table):
            key = key_of(table, row_id)
            yield key, named(key), seal
        for column in WHOLE.get(table, ()):
            for row_id, held in stored_wholes(session, table, column):
                key = whole_key(table, column, row_id)
                yield key, f"the {column.replace('_', ' ')} of {named(key_of(table, row_id))}", held
    newest = {
        enclosure_id: hour_of(at)
        for enclosure_id, at in session.execute(
            select(EnclosureReading.enclosure_id, func.max(EnclosureReading.at)).group_by(
                EnclosureReading.enclosure_id
            )
        )
    }
    for enclosure_id, hour, seal in stored_hours(session):
        key = hour_key(enclosure_id, hour)
        if hour == newest[enclosure_id] and key not in seals:
            continue  # an hour is sealed once the next one has begun
        yield key, f"the log of enclosure {enclosure_id} from {hour:%Y-%m-%d %H:%M} UTC", seal


def _raw_data() -> Iterator[str]:
    """Samples and readings against their hashes, run by run."""
    with transaction() as session:
        runs = list(session.scalars(select(Run.id).order_by(Run.id)))
    for run_id in runs:
        with transaction() as session:
            columns = (Recording.packed, Run.entry, Run.sha256, Run.samples, Run.channels)
            kept = aliased(Recording)
            other = exists().where(kept.run_id == Run.id)
            query = select(*columns, other).outerjoin(Run.recording).where(Run.id == run_id)
            row = session.execute(query).one_or_none()
        if row is None:
            continue
        raw, entry, stored_sha256, count, channels, has_other = row
        try:
            if raw is not None:
                table = unpack(raw, len(channels or FRAME_CHANNELS))
                if sha256(table) != stored_sha256 or len(table) != count:
                    yield f"the samples of run {run_id} are not those that were stored"
            elif entry is not None and entry_sha256(entry) != stored_sha256:
                yield f"the readings of run {run_id} are not those that were stored"
            elif entry is None and stored_sha256 is not None and has_other:
                yield f"the samples of run {run_id} are not those that were stored"
            elif entry is None and stored_sha256 is not None:
                yield f"the data of run {run_id} is gone"
        except Exception as error:  # data that was changed can fail in every way there is
            yield f"the data of run {run_id} cannot be read: {type(error).__name__}"


def _source_files() -> Iterator[str]:
    """Every file that a run was imported from, against the hash that the run names."""
    with transaction() as session:
        rows = session.execute(
            select(Run.id, Run.source_sha256).where(Run.source_sha256.is_not(None)).order_by(Run.id)
        )
        named = {row[0]: str(row[1]) for row in rows}
    for run_id, name in named.items():
        with transaction() as session:
            content = session.scalar(select(SourceFile.content).where(SourceFile.sha256 == name))
        if content is None:
            yield f"the source file of run {run_id} is gone"
        elif hashlib.sha256(content).hexdigest() != name:
            yield f"the source file of run {run_id} was changed"


def _photographs() -> Iterator[str]:
    """Every photograph that is used: the hash it is kept by, its size, and the small one."""
    with transaction() as session:
        named = func.max(PhotoUse.small_sha256)
        rows = session.execute(select(PhotoUse.sha256, named).group_by(PhotoUse.sha256))
        uses: dict[str, str | None] = {row[0]: row[1] for row in rows}
        unused = session.scalars(select(Photo.sha256).where(Photo.sha256.not_in(uses or [""])))
        names = sorted({*uses, *unused})
    for name in names:
        with transaction() as session:
            columns = (Photo.jpeg, Photo.small, Photo.width, Photo.height)
            row = session.execute(select(*columns).where(Photo.sha256 == name)).one_or_none()
        called = f"the photograph {name[:12]}"
        if row is None:
            yield f"{called} is missing: a specimen names it"
            continue
        jpeg, small, width, height = row
        if name not in uses:
            yield f"{called} was added outside the application: no specimen names it"
        elif hashlib.sha256(jpeg).hexdigest() != name:
            yield f"{called} is not the one that was stored"
        elif size_of(jpeg) != (width, height):
            yield f"{called} is said to be {width} x {height}, which it is not"
        elif uses[name] is not None and hashlib.sha256(small).hexdigest() != uses[name]:
            yield f"{called}: its small picture is not the one that was stored"


def _reports() -> Iterator[str]:
    """The content of every report against its hash, and its figures computed again."""
    with transaction() as session:
        reports = list(session.scalars(select(Report.id).order_by(Report.id)))
    for report_id in reports:
        with transaction() as session:
            report = session.get_one(Report, report_id)
            name = f"report {report.number} revision {report.revision}"
            content, sha256, verdict = report.content, report.sha256, report.verdict
        check = partial(_report, name, content, sha256, verdict)
        yield from _guarded(name, check)


def _report(name: str, content: str, sha256: str, verdict: str) -> Iterator[str]:
    if hashlib.sha256(content.encode()).hexdigest() != sha256:
        yield f"{name} was changed"
        return
    plain = json.loads(content)
    if plain["verdict"] != verdict:
        yield f"{name}: its verdict is {verdict}, its content says {plain['verdict']}"
    for test in plain["tests"]:
        yield from _recomputed(name, test)


def _recomputed(name: str, test: dict[str, Any]) -> Iterator[str]:
    """The figures of a released test, computed again from its own raw data."""
    try:
        with transaction() as session:
            document = with_raw_data(session, test["document"])
        again = analyse(read_document(document)).as_json()
    except Refusal as refusal:
        yield f"{name}: the results cannot be computed again: {refusal.sentence}"
        return
    stated = test["result"]
    values = {entry["label"]: entry["values"] for entry in stated["specimens"]}
    for entry in again["specimens"]:
        for figure, value in entry["values"].items():
            before = values[entry["label"]][figure]["value"]
            if not _same(value["value"], before):
                yield (
                    f"{name}: {entry['label']} {figure} comes out as {value['value']}, "
                    f"the report says {before}"
                )
    for now, row in zip(again["summary"], stated["summary"], strict=False):
        if now["reported"] != row["reported"]:
            yield (
                f"{name}: {row['property']} comes out as {now['reported']}, "
                f"the report says {row['reported']}"
            )


def _same(now: float | None, before: float | None) -> bool:
    if now is None or before is None:
        return now is before
    return math.isclose(now, before, rel_tol=1e-12)
