"""The table of addresses that calendars subscribe to."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from endurant.store.tables import Base, Person


class CalendarToken(Base):
    """The secret part of a person's calendar address, as its SHA-256; a person has one at most."""

    __tablename__ = "calendar_token"

    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), primary_key=True)
    token_hash: Mapped[str] = mapped_column(String(64), unique=True)
    at: Mapped[datetime]

    person: Mapped[Person] = relationship(lazy="joined")
