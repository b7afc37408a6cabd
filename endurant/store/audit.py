"""The chain of audit entries: added in the transaction of the change, checked on request."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.store import clock
from endurant.store.tables import AuditEntry, AuditHead

START_HASH = "0" * 64


def record(
    session: Session,
    *,
    person_id: int | None,
    action: str,
    entity: str,
    entity_id: int,
    words: str,
    job_id: int | None = None,
    before: Mapping[str, Any] | None = None,
    after: Mapping[str, Any] | None = None,
    why: str | None = None,
) -> None:
    """Add an entry to the end of the chain; the row of the head is locked until commit."""
    head = session.execute(select(AuditHead).with_for_update()).scalar_one()
    entry = AuditEntry(
        id=head.last_id + 1,
        at=clock.now(),
        person_id=person_id,
        action=action,
        entity=entity,
        entity_id=entity_id,
        job_id=job_id,
        words=words,
        facts=json.dumps(
            {"before": before, "after": after, "why": why},
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
    told = [
        entry.id,
        entry.at.isoformat(),
        entry.person_id,
        entry.action,
        entry.entity,
        entry.entity_id,
        entry.job_id,
        entry.words,
        entry.facts,
        entry.previous_hash,
    ]
    return hashlib.sha256(json.dumps(told, ensure_ascii=False).encode()).hexdigest()


def broken_links(session: Session) -> list[str]:
    """One sentence for each place where the chain does not hold; empty when it does."""
    found = []
    expected_id, previous = 1, START_HASH
    for entry in session.scalars(select(AuditEntry).order_by(AuditEntry.id)):
        if entry.id != expected_id:
            found.append(f"audit entry {expected_id} is missing")
        if entry.previous_hash != previous:
            found.append(f"audit entry {entry.id} does not follow the one before it")
        if hash_of(entry) != entry.hash:
            found.append(f"audit entry {entry.id} was changed after it was written")
        expected_id, previous = entry.id + 1, entry.hash
    head = session.execute(select(AuditHead)).scalar_one()
    if (head.last_id, head.last_hash) != (expected_id - 1, previous):
        found.append("the end of the audit chain is not where it was left")
    return found
