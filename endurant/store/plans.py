"""The tables of the schedule: plans as they were made, and steps that a person pinned."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from endurant.store.tables import Base, Person


class KeptPlan(Base):
    """A plan of the day as it was made: what it was made of, what it says, what it moved.

    `board` is the state of the laboratory that it was made for; what is known of names is kept
    beside it, so that a page can lead from a block to its job.
    """

    __tablename__ = "kept_plan"

    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime]
    board: Mapped[str] = mapped_column(String(64))
    document: Mapped[dict[str, Any]]
    answer: Mapped[dict[str, Any]]
    names: Mapped[dict[str, Any]]
    compared: Mapped[dict[str, Any] | None]


class PlanPin(Base):
    """A step of a test pinned to a moment, and to a person; gone once it is done."""

    __tablename__ = "plan_pin"
    __table_args__ = (UniqueConstraint("test_id", "step"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    test_id: Mapped[int] = mapped_column(ForeignKey("test.id"))
    step: Mapped[str] = mapped_column(String(40))
    start: Mapped[datetime]
    person_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    at: Mapped[datetime]

    person: Mapped[Person | None] = relationship(foreign_keys=person_id)
