"""The tables of what is asked for and by whom it may be done: products, authorisations."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from endurant.store.tables import Base, Person


class Authorisation(Base):
    """That somebody may run a method, from when, until when, and by whose word."""

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


class Product(Base):
    """What a client has tested again and again: a revision of its specification, never changed."""

    __tablename__ = "product"
    __table_args__ = (UniqueConstraint("client", "name", "revision"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    client: Mapped[str] = mapped_column(String(120))
    revision: Mapped[int]
    specification: Mapped[dict[str, Any]]
    at: Mapped[datetime]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))

    by: Mapped[Person] = relationship()


class Study(Base):
    """Several samples that were received together, to be held beside each other.

    `reports` says whether the client wants one report of all, or one of each.
    """

    __tablename__ = "study"

    id: Mapped[int] = mapped_column(primary_key=True)
    title: Mapped[str] = mapped_column(String(120))
    client: Mapped[str] = mapped_column(String(120))
    reports: Mapped[str] = mapped_column(String(8))
    at: Mapped[datetime]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))


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


class CustodyEvent(Base):
    """What became of a sample or its remainder: kept, split, given back, disposed; who was told."""

    __tablename__ = "custody_event"

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), index=True)
    kind: Mapped[str] = mapped_column(String(12))
    place: Mapped[str] = mapped_column(String(80))
    amount: Mapped[float | None]
    until: Mapped[datetime | None]
    words: Mapped[str] = mapped_column(String(300))
    at: Mapped[datetime]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))

    by: Mapped[Person] = relationship()


class PlanPin(Base):
    """A step of a test that a person wants at a moment, by somebody; gone once it is done."""

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
