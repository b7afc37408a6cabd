"""Files that readings are imported from, kept by content and named by their upload."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, String
from sqlalchemy.orm import Mapped, mapped_column

from endurant.store.tables import Base


class SourceFile(Base):
    """A file as it was sent, kept once by its SHA-256; runs name it by that hash."""

    __tablename__ = "source_file"

    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    content: Mapped[bytes] = mapped_column(deferred=True)


class Upload(Base):
    """Files that were sent for one test and looked at, until they are imported or forgotten.

    `files` are their names and hashes in the order they were sent; `labels` the specimen that
    each entry was taken for, None where it was taken for none.
    """

    __tablename__ = "upload"

    id: Mapped[int] = mapped_column(primary_key=True)
    test_id: Mapped[int] = mapped_column(ForeignKey("test.id"), index=True)
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    at: Mapped[datetime] = mapped_column(index=True)
    files: Mapped[list[Any]]
    specimens_by: Mapped[str | None] = mapped_column(String(80))
    columns: Mapped[dict[str, Any]]
    labels: Mapped[list[Any]]
    used_at: Mapped[datetime | None]
