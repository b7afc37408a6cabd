"""The tables of nonconformities and complaints, and of the results that each affects."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from endurant.store.tables import Base, Person


class Nonconformity(Base):
    """Something that went wrong, or that a client complained about: cause, action, and its end.

    It concerns a job, an instrument, or neither. `source` is "person" or "check": a failed check of
    an instrument opens one by itself.
    """

    __tablename__ = "nonconformity"

    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str] = mapped_column(String(16))
    source: Mapped[str] = mapped_column(String(8))
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id"), index=True)
    serial: Mapped[str | None] = mapped_column(String(40), index=True)
    title: Mapped[str] = mapped_column(String(200))
    description: Mapped[str] = mapped_column(String(2000))
    cause: Mapped[str] = mapped_column(String(2000))
    action: Mapped[str] = mapped_column(String(2000))
    owner_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    due_at: Mapped[datetime | None]
    opened_at: Mapped[datetime]
    opened_by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    closed_at: Mapped[datetime | None]
    closed_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    closing: Mapped[str | None] = mapped_column(String(500))
    revision: Mapped[int]

    owner: Mapped[Person | None] = relationship(foreign_keys=owner_id)
    opened_by: Mapped[Person] = relationship(foreign_keys=opened_by_id)
    closed_by: Mapped[Person | None] = relationship(foreign_keys=closed_by_id)


class AffectedResult(Base):
    """A result that a nonconformity puts in doubt, as it was when the nonconformity was opened."""

    __tablename__ = "affected_result"

    id: Mapped[int] = mapped_column(primary_key=True)
    nonconformity_id: Mapped[int] = mapped_column(ForeignKey("nonconformity.id"), index=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("run.id"))
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), index=True)
    label: Mapped[str] = mapped_column(String(24))
    method: Mapped[str] = mapped_column(String(40))
