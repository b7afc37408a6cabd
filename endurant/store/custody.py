"""The table of what became of samples and their remainders."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from endurant.store.tables import Base, Person


class CustodyEvent(Base):
    """What became of a sample or its remainder, and who was notified of a failure."""

    __tablename__ = "custody_event"

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), index=True)
    kind: Mapped[str] = mapped_column(String(12))
    location: Mapped[str] = mapped_column(String(80))
    amount: Mapped[float | None]
    until: Mapped[datetime | None]
    remark: Mapped[str] = mapped_column(String(300))
    at: Mapped[datetime]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))

    by: Mapped[Person] = relationship()
