"""The table of clients: what the office keeps about them."""

from __future__ import annotations

from typing import Any

from sqlalchemy import String
from sqlalchemy.orm import Mapped, mapped_column

from endurant.store.tables import Base


class Client(Base):
    """A client by the name that its jobs bear, with contacts, addresses and the paper of reports.

    `collects_reports` is a client who fetches reports at the counter.
    """

    __tablename__ = "client"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120), unique=True)
    contacts: Mapped[list[Any]]
    addresses: Mapped[list[Any]]
    paper: Mapped[str] = mapped_column(String(8))
    collects_reports: Mapped[bool]
    remark: Mapped[str] = mapped_column(String(500))
    revision: Mapped[int]
