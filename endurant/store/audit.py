"""The chain of audit entries: added in the transaction of the change, checked on request."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.messages import Message
from endurant.store import clock
from endurant.store.seal_book import SealBook
from endurant.store.seals import Seals, seals_of_everything, take_seals
from endurant.store.tables import AuditEntry, AuditHead

START_HASH = "0" * 64
MAX_WORDS = 400


def record(
    session: Session,
    *,
    person_id: int | None,
    action: str,
    entity: str,
    entity_id: int,
    message: Message,
    job_id: int | None = None,
    before: Mapping[str, Any] | None = None,
    after: Mapping[str, Any] | None = None,
    why: str | None = None,
) -> None:
    """Add an entry to the end of the chain; the row of the head is locked until commit.

    `message` is kept as its sentence, and as its code with parameters among the facts. The entry
    takes the seals of every fact that the session has written so far.
    """
    coded = {"code": message.code, "params": message.plain_params()}
    _add(
        session,
        seals=take_seals(session, clock.now()),
        person_id=person_id,
        action=action,
        entity=entity,
        entity_id=entity_id,
        job_id=job_id,
        text=message.text[:MAX_WORDS],
        facts={"before": before, "after": after, "why": why, "says": coded},
    )


def seal_the_rest(session: Session) -> None:
    """At the end of a transaction: an entry for the facts that no other entry has sealed."""
    seals = take_seals(session, clock.now())
    if seals:
        _add_seals(session, seals, Message("audit.sealed-beside"))


def seal_everything(session: Session) -> None:
    """Where sealing begins: entries that hold the hash of every fact that is there."""
    for seals in seals_of_everything(session, clock.now()):
        _add_seals(session, seals, Message("audit.sealed-as-found"))


def _add_seals(session: Session, seals: Seals, message: Message) -> None:
    _add(
        session,
        seals=seals,
        person_id=None,
        action="seal",
        entity="record",
        entity_id=0,
        job_id=None,
        text=message.text,
        facts={},
    )


def _add(
    session: Session,
    *,
    seals: Seals,
    person_id: int | None,
    action: str,
    entity: str,
    entity_id: int,
    job_id: int | None,
    text: str,
    facts: Mapping[str, Any],
) -> None:
    head = session.execute(select(AuditHead).with_for_update()).scalar_one()
    entry = AuditEntry(
        id=head.last_id + 1,
        at=clock.now(),
        person_id=person_id,
        action=action,
        entity=entity,
        entity_id=entity_id,
        job_id=job_id,
        text=text,
        facts=json.dumps(
            {**facts, "seals": seals} if seals else facts,
            ensure_ascii=False,
            sort_keys=True,
            default=str,
        ),
        previous_hash=head.last_hash,
    )
    entry.hash = hash_of(entry)
    session.add(entry)
    head.last_id, head.last_hash = entry.id, entry.hash
    session.flush()


def hash_of(entry: AuditEntry) -> str:
    """SHA-256 over everything an entry says and the hash of the entry before."""
    facts = [
        entry.id,
        entry.at.isoformat(),
        entry.person_id,
        entry.action,
        entry.entity,
        entry.entity_id,
        entry.job_id,
        entry.text,
        entry.facts,
        entry.previous_hash,
    ]
    return hashlib.sha256(json.dumps(facts, ensure_ascii=False).encode()).hexdigest()


@dataclass
class Chain:
    """What the chain of entries says, read from its beginning to its end.

    `seals` holds the newest seal of every fact; `hashes` those that were looked for and stand
    in the chain; `broken` one sentence for each place where it does not hold.
    """

    length: int = 0
    head: str = START_HASH
    seals: SealBook = field(default_factory=SealBook)
    hashes: set[str] = field(default_factory=set)
    broken: list[str] = field(default_factory=list)


def read_chain(session: Session, looked_for: Collection[str] = ()) -> Chain:
    """Read the whole chain, some hundred entries at a time."""
    chain = Chain()
    requested = set(looked_for)
    entries = session.scalars(
        select(AuditEntry).order_by(AuditEntry.id).execution_options(yield_per=500)
    )
    for entry in entries:
        if entry.id != chain.length + 1:
            chain.broken.append(f"audit entry {chain.length + 1} is missing")
        if entry.previous_hash != chain.head:
            chain.broken.append(f"audit entry {entry.id} does not follow the one before it")
        if hash_of(entry) != entry.hash:
            chain.broken.append(f"audit entry {entry.id} was changed after it was written")
        chain.length, chain.head = entry.id, entry.hash
        if entry.hash in requested:
            chain.hashes.add(entry.hash)
        chain.seals.update(_seals_of(entry))
        session.expunge(entry)
    head = session.execute(select(AuditHead)).scalar_one()
    if (head.last_id, head.last_hash) != (chain.length, chain.head):
        chain.broken.append("the end of the audit chain is not where it was left")
    return chain


def _seals_of(entry: AuditEntry) -> Seals:
    if '"seals"' not in entry.facts:
        return {}
    try:
        loads = json.loads(entry.facts)
    except ValueError:
        return {}
    seals = loads.get("seals", {}) if isinstance(loads, dict) else {}
    return seals if isinstance(seals, dict) else {}


def head_of(session: Session) -> str:
    """The hash of the newest entry: what is kept outside, to prove the end of the chain by."""
    return session.execute(select(AuditHead.last_hash)).scalar_one()
