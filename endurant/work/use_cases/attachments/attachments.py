"""Files are attached to a job, a client, an instrument or a product, and removed with a reason."""

from __future__ import annotations

import hashlib
from datetime import datetime
from typing import Literal

from sqlalchemy import func, select
from sqlalchemy.orm import Session, undefer

from endurant.core.messages import Message
from endurant.core.refusals import Conflict, Invalid, NotFound
from endurant.store import clock
from endurant.store.attachments import Attachment
from endurant.store.audit import record
from endurant.store.clients import Client
from endurant.store.products import Product
from endurant.store.tables import Gauge, Instrument, Job
from endurant.work.base.actors import Actor
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.use_cases.attachments.content import CheckedFile

MAX_OF_ONE = 100

Subject = Literal["job", "client", "instrument", "product"]


class AttachmentView(View):
    """A file that goes with something: its name, what it is, and who attached it."""

    id: int
    name: str
    media_type: str
    size: int
    sha256: str
    at: datetime
    by: str


def attachments_of(subject: Subject, key: str) -> list[AttachmentView]:
    """Return the files of a subject, the newest first. Raises NotFound for a subject that is none.

    `key` is the id of a job, the name of a client, the serial of an instrument, or the id of any
    revision of a product.
    """
    with transaction() as session:
        return _views(session, subject, _key_or_refuse(session, subject, key))


def attach(
    actor: Actor, subject: Subject, key: str, name: str, checked: CheckedFile
) -> list[AttachmentView]:
    """Attach a file; the same one twice is kept once.

    Raises NotFound for a subject that is none, Conflict for one with many files already, Invalid
    for a name that no file has.
    """
    actor.must("receive")
    title = name.replace("\\", "/").rsplit("/", 1)[-1].strip()[:200]
    if not title or not title.isprintable():
        raise Invalid("attachment.name-missing", field="file")
    sha256 = hashlib.sha256(checked.content).hexdigest()
    with transaction() as session:
        kept = _key_or_refuse(session, subject, key)
        kept_files = _views(session, subject, kept)
        if any(each.sha256 == sha256 for each in kept_files):
            return kept_files
        if len(kept_files) >= MAX_OF_ONE:
            raise Conflict("attachment.too-many", count=len(kept_files))
        row = Attachment(
            subject=subject,
            key=kept,
            name=title,
            media_type=checked.media_type,
            sha256=sha256,
            size=len(checked.content),
            content=checked.content,
            at=clock.now(),
            by_id=actor.id,
        )
        session.add(row)
        session.flush()
        _note(session, actor, row, "attach")
        return _views(session, subject, kept)


def remove_attachment(actor: Actor, attachment_id: int, reason: str) -> list[AttachmentView]:
    """Take a file off the lists; the record keeps it. Raises NotFound, Invalid without a reason."""
    actor.must("receive")
    if not reason.strip():
        raise Invalid("attachment.reason-missing", field="reason")
    with transaction() as session:
        row = session.get(Attachment, attachment_id, with_for_update=True)
        if row is None or row.removed_at is not None:
            raise NotFound("attachment.none", attachment_id=attachment_id)
        row.removed_at, row.removed_by_id = clock.now(), actor.id
        row.removed_why = reason.strip()
        _note(session, actor, row, "remove-attachment", reason.strip())
        return _views(session, row.subject, row.key)


def attachment_content(attachment_id: int) -> tuple[str, str, bytes]:
    """Return name, media type and bytes of a file, removed or not. Raises NotFound."""
    with transaction() as session:
        row = session.get(Attachment, attachment_id, options=[undefer(Attachment.content)])
        if row is None:
            raise NotFound("attachment.none", attachment_id=attachment_id)
        return row.name, row.media_type, row.content


def _key_or_refuse(session: Session, subject: Subject, key: str) -> str:
    """The key that a subject is kept by. Raises NotFound."""
    number = int(key) if key.isdecimal() and len(key) < 10 else 0
    value: object = None
    if subject == "job":
        value = session.scalar(select(Job.id).where(Job.id == number))
    elif subject == "product":
        row = session.get(Product, number)
        if row is not None:
            same = (Product.client == row.client, Product.name == row.name)
            value = session.scalar(select(func.min(Product.id)).where(*same))
    elif subject == "instrument":
        for table in (Instrument, Gauge):
            value = value or session.scalar(select(table.serial).where(table.serial == key))
    else:
        value = session.scalar(select(Client.name).where(Client.name == key))
        value = value or session.scalar(select(Job.client).where(Job.client == key).limit(1))
    if value is None:
        raise NotFound("attachment.subject-unknown", subject=subject, key=key)
    return str(value)


def _views(session: Session, subject: str, key: str) -> list[AttachmentView]:
    rows = session.scalars(
        select(Attachment)
        .where(
            Attachment.subject == subject,
            Attachment.key == key,
            Attachment.removed_at.is_(None),
        )
        .order_by(Attachment.id.desc())
    )
    return [
        AttachmentView(
            id=row.id,
            name=row.name,
            media_type=row.media_type,
            size=row.size,
            sha256=row.sha256,
            at=row.at,
            by=row.by.name,
        )
        for row in rows
    ]


def _note(session: Session, actor: Actor, row: Attachment, action: str, why: str = "") -> None:
    session.flush()
    record(
        session,
        person_id=actor.id,
        action=action,
        entity="attachment",
        entity_id=row.id,
        job_id=int(row.key) if row.subject == "job" else None,
        message=Message(f"audit.{action}", {"actor": actor.name, "name": row.name}),
        after={"subject": row.subject, "key": row.key, "sha256": row.sha256},
        why=why or None,
    )
