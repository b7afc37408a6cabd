"""The table of who may run which method."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from endurant.store.tables import Base, Person


class Authorisation(Base):
    """That a person may run a method, from when, until when, and who authorised it."""

    __tablename__ = "authorisation"
    __table_args__ = (Index("ix_authorisation_method", "method", "person_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    method: Mapped[str] = mapped_column(String(40))
    since: Mapped[datetime]
    until: Mapped[datetime | None]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    withdrawn_at: Mapped[datetime | None]

    person: Mapped[Person] = relationship(foreign_keys=person_id)
    by: Mapped[Person] = relationship(foreign_keys=by_id)
