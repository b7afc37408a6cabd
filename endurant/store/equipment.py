"""The tables of what the laboratory works with: instruments, checks, supplies, photographs."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from endurant.store.tables import Base, Person


class InstrumentEvent(Base):
    """What happened to an instrument or a gauge, by its serial number; never changed.

    Calibrated, out of service and back, retired, cleaned, a heater changed, an offset set.
    """

    __tablename__ = "instrument_event"
    __table_args__ = (Index("ix_instrument_event_serial", "serial", "at"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    serial: Mapped[str] = mapped_column(String(40))
    kind: Mapped[str] = mapped_column(String(24))
    at: Mapped[datetime]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    text: Mapped[str] = mapped_column(String(400))
    facts: Mapped[dict[str, Any]]

    by: Mapped[Person] = relationship()


class ReferenceCheck(Base):
    """A check of an instrument between its calibrations, against a value that is known.

    A reading farther from `target` than `limit` puts the instrument out; `warn` is where it is
    watched. It is due `every_days`; what its last reading said stands here too.
    """

    __tablename__ = "reference_check"
    __table_args__ = (UniqueConstraint("serial", "title"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    serial: Mapped[str] = mapped_column(String(40))
    title: Mapped[str] = mapped_column(String(80))
    unit: Mapped[str] = mapped_column(String(16))
    target: Mapped[float]
    warn: Mapped[float]
    limit: Mapped[float]
    every_days: Mapped[int]
    since: Mapped[datetime]
    closed_at: Mapped[datetime | None]
    last_at: Mapped[datetime | None]
    last_verdict: Mapped[str | None] = mapped_column(String(8))
    last_message: Mapped[str | None] = mapped_column(String(300))


class ReferenceReading(Base):
    """One reading of a reference check, and what the rules say of it; never changed."""

    __tablename__ = "reference_reading"

    id: Mapped[int] = mapped_column(primary_key=True)
    check_id: Mapped[int] = mapped_column(ForeignKey("reference_check.id"), index=True)
    at: Mapped[datetime]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    value: Mapped[float]
    verdict: Mapped[str] = mapped_column(String(8))
    message: Mapped[str] = mapped_column(String(300))

    check: Mapped[ReferenceCheck] = relationship()
    by: Mapped[Person] = relationship()


class Supply(Base):
    """Something that wears out: a lot of it, in use at a station or in the whole laboratory.

    `used` counts what it has done; it is due at `limit_count`, or `limit_days` after it was
    opened.
    """

    __tablename__ = "supply"
    __table_args__ = (Index("ix_supply_kind", "kind", "finished_at"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str] = mapped_column(String(40))
    lot: Mapped[str] = mapped_column(String(60))
    station_id: Mapped[int | None] = mapped_column(ForeignKey("station.id"))
    opened_at: Mapped[datetime]
    opened_by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    limit_count: Mapped[int | None]
    limit_days: Mapped[int | None]
    used: Mapped[int]
    finished_at: Mapped[datetime | None]

    opened_by: Mapped[Person] = relationship()


class Photo(Base):
    """A photograph as it is kept, by the hash of its bytes: encoded anew, without what it hid."""

    __tablename__ = "photo"

    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    jpeg: Mapped[bytes] = mapped_column(deferred=True)
    small: Mapped[bytes] = mapped_column(deferred=True)
    width: Mapped[int]
    height: Mapped[int]


class PhotoUse(Base):
    """What a photograph shows: a specimen, one look or void of it; whether the report shows it."""

    __tablename__ = "photo_use"
    __table_args__ = (UniqueConstraint("specimen_id", "sha256"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    sha256: Mapped[str] = mapped_column(ForeignKey("photo.sha256"))
    specimen_id: Mapped[int] = mapped_column(ForeignKey("specimen.id"))
    shows: Mapped[str] = mapped_column(String(200))
    subject: Mapped[str | None] = mapped_column(String(80))
    small_sha256: Mapped[str | None] = mapped_column(String(64))
    in_report: Mapped[bool]
    at: Mapped[datetime]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    removed_at: Mapped[datetime | None]

    photo: Mapped[Photo] = relationship()
    by: Mapped[Person] = relationship()


class ColumnMapping(Base):
    """What the columns of another program's files mean, by a name; each change is a revision."""

    __tablename__ = "column_mapping"
    __table_args__ = (UniqueConstraint("name", "revision"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60))
    revision: Mapped[int]
    columns: Mapped[dict[str, Any]]
    at: Mapped[datetime]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))

    by: Mapped[Person] = relationship()


class StationSetUp(Base):
    """What was last set up for a method at a station, or at none (0)."""

    __tablename__ = "station_set_up"

    method: Mapped[str] = mapped_column(String(40), primary_key=True)
    station: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    parameters: Mapped[dict[str, Any]]
    job_number: Mapped[str] = mapped_column(String(16))
    at: Mapped[datetime]


class MeltDensity(Base):
    """The density of a melt by its formulation and revision, from a test that was released to it.

    It holds until a newer one of the same formulation takes its place.
    """

    __tablename__ = "melt_density"
    __table_args__ = (Index("ix_melt_density_formulation", "formulation", "revision"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    formulation: Mapped[str] = mapped_column(String(80))
    revision: Mapped[str] = mapped_column(String(24))
    temperature_c: Mapped[float]
    density_g_cm3: Mapped[float]
    sd_g_cm3: Mapped[float | None]
    runs: Mapped[int]
    test_id: Mapped[int] = mapped_column(ForeignKey("test.id"))
    at: Mapped[datetime]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    withdrawn_at: Mapped[datetime | None]

    by: Mapped[Person] = relationship()
