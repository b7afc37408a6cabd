"""The tables of what clients send: product specifications and studies."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from endurant.store.tables import Base, Person


class Product(Base):
    """What a client has tested again and again: a revision of its specification, never changed.

    `status` is "draft" or "approved"; None is a revision from before approvals, which counts as
    approved. It is in force from `valid_from` (from `at` where that is None) until a later one is,
    or until it is retired.
    """

    __tablename__ = "product"
    __table_args__ = (UniqueConstraint("client", "name", "revision"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    client: Mapped[str] = mapped_column(String(120))
    revision: Mapped[int]
    specification: Mapped[dict[str, Any]]
    at: Mapped[datetime]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    status: Mapped[str | None] = mapped_column(String(12))
    approved_at: Mapped[datetime | None]
    approved_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    valid_from: Mapped[datetime | None]
    retired_at: Mapped[datetime | None]
    retired_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    retired_why: Mapped[str | None] = mapped_column(String(300))

    by: Mapped[Person] = relationship(foreign_keys=by_id)
    approved_by: Mapped[Person | None] = relationship(foreign_keys=approved_by_id)
    retired_by: Mapped[Person | None] = relationship(foreign_keys=retired_by_id)


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
