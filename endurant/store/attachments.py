"""The table of attachments: files that go with a job, a client, an instrument or a product."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from endurant.store.tables import Base, Person


class Attachment(Base):
    """A file as it was checked and kept; one that was removed stays readable in the record.

    `subject` is "job", "client", "instrument" or "product", and `key` which one: the id of a job,
    the name of a client, the serial of an instrument, the id of a product's first revision.
    """

    __tablename__ = "attachment"
    __table_args__ = (Index("ix_attachment_subject", "subject", "key"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    subject: Mapped[str] = mapped_column(String(12))
    key: Mapped[str] = mapped_column(String(120))
    name: Mapped[str] = mapped_column(String(200))
    media_type: Mapped[str] = mapped_column(String(80))
    sha256: Mapped[str] = mapped_column(String(64))
    size: Mapped[int]
    content: Mapped[bytes] = mapped_column(deferred=True)
    at: Mapped[datetime]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    removed_at: Mapped[datetime | None]
    removed_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    removed_why: Mapped[str | None] = mapped_column(String(300))

    by: Mapped[Person] = relationship(foreign_keys=by_id)
