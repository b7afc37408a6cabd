"""The tables of the record."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import (
    BigInteger,
    Boolean,
    Double,
    ForeignKey,
    Index,
    Integer,
    MetaData,
    String,
    Text,
    UniqueConstraint,
)
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

from endurant.store.columns import Bytes, Json, LongText, Moment


class Base(DeclarativeBase):
    """Names every constraint, so that migrations can name them too."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(table_name)s_%(column_0_name)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s",
            "pk": "pk_%(table_name)s",
        }
    )
    type_annotation_map = {
        datetime: Moment,
        dict[str, Any]: Json,
        list[Any]: Json,
        bytes: Bytes,
        float: Double,
    }


class Laboratory(Base):
    """The one row of lab settings: the laboratory's name and how it labels and compares."""

    __tablename__ = "laboratory"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    address: Mapped[str] = mapped_column(String(240))
    label_school: Mapped[str] = mapped_column(String(24))
    comparison: Mapped[str] = mapped_column(String(16))
    conditioning_policy: Mapped[str] = mapped_column(String(16), default="restart")
    rounding: Mapped[str] = mapped_column(String(16))
    supervisor_releases: Mapped[str | None] = mapped_column(String(8))
    retest_by: Mapped[str | None] = mapped_column(String(16))
    tables: Mapped[dict[str, Any] | None]
    written: Mapped[dict[str, Any] | None]
    proposed: Mapped[dict[str, Any] | None]


class Person(Base):
    """Someone who works here; a trainee may test under a supervisor."""

    __tablename__ = "person"

    id: Mapped[int] = mapped_column(primary_key=True)
    login: Mapped[str] = mapped_column(String(40), unique=True)
    name: Mapped[str] = mapped_column(String(80))
    password_hash: Mapped[str] = mapped_column(String(200))
    role: Mapped[str] = mapped_column(String(16))
    active: Mapped[bool] = mapped_column(Boolean, default=True)
    supervisor_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    hours: Mapped[dict[str, Any] | None]
    away: Mapped[list[Any] | None]


class SignIn(Base):
    """A session cookie, kept as its hash."""

    __tablename__ = "sign_in"

    token_hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), index=True)
    created_at: Mapped[datetime]
    expires_at: Mapped[datetime] = mapped_column(index=True)

    person: Mapped[Person] = relationship(lazy="joined")


class FailedSignIn(Base):
    """A wrong password, remembered so that guessing is slowed down."""

    __tablename__ = "failed_sign_in"

    id: Mapped[int] = mapped_column(primary_key=True)
    login: Mapped[str] = mapped_column(String(40), index=True)
    address: Mapped[str] = mapped_column(String(64), default="")
    at: Mapped[datetime]


class Job(Base):
    """What was asked for a sample, and the sample itself as it lies on the table.

    A `sheet` has a width and a length; of `pieces`, `packs` and `granules` that arrive ready,
    `arrived` says how many or how much. One that came `damp` is offered pre-conditioning first.
    `lab_settings` are the settings that it began with; `product_revision` is that of the
    specification it was received by. `order_number` and `client_reference` are the client's. One
    of several samples of a study has a `variant` that sets it apart. A cancelled one stays as it
    is.
    """

    __tablename__ = "job"

    id: Mapped[int] = mapped_column(primary_key=True)
    number: Mapped[str] = mapped_column(String(16), unique=True)
    request_key: Mapped[str | None] = mapped_column(String(64), unique=True)
    client: Mapped[str] = mapped_column(String(120), index=True)
    product: Mapped[str] = mapped_column(String(120))
    lot: Mapped[str] = mapped_column(String(60))
    material: Mapped[str] = mapped_column(String(200))
    arrival_state: Mapped[str] = mapped_column(String(200))
    damp: Mapped[bool] = mapped_column(Boolean, default=False)
    form: Mapped[str] = mapped_column(String(16), default="sheet")
    arrived: Mapped[dict[str, Any] | None]
    width_mm: Mapped[float | None]
    length_mm: Mapped[float | None]
    avoided: Mapped[list[Any]]
    sheet: Mapped[dict[str, Any] | None]
    received_at: Mapped[datetime] = mapped_column(index=True)
    due_at: Mapped[datetime]
    cut_at: Mapped[datetime | None]
    released_at: Mapped[datetime | None]
    correction_reason: Mapped[str | None] = mapped_column(String(500))
    cancelled_at: Mapped[datetime | None]
    cancelled_reason: Mapped[str | None] = mapped_column(String(300))
    priority: Mapped[int | None]
    client_remark: Mapped[str | None] = mapped_column(String(500))
    shelf: Mapped[str | None] = mapped_column(String(80))
    lab_settings: Mapped[dict[str, Any] | None]
    product_revision: Mapped[int | None]
    order_number: Mapped[str | None] = mapped_column(String(60))
    client_reference: Mapped[str | None] = mapped_column(String(60))
    study_id: Mapped[int | None] = mapped_column(ForeignKey("study.id"), index=True)
    variant: Mapped[str | None] = mapped_column(String(80))
    received_by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    revision: Mapped[int] = mapped_column(Integer, default=1)

    tests: Mapped[list[Test]] = relationship(
        back_populates="job",
        order_by="Test.id",
        lazy="selectin",
        primaryjoin="and_(Job.id == Test.job_id, Test.dropped_at.is_(None))",
    )
    reports: Mapped[list[Report]] = relationship(back_populates="job", order_by="Report.revision")


class Test(Base):
    """One method on one job, with its limits by direction.

    A held one waits; a dropped one is no longer a test of its job, and keeps what it has. A retest
    names the test that it repeats, why, and who allowed it.
    """

    __test__ = False
    __tablename__ = "test"

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), index=True)
    method: Mapped[str] = mapped_column(String(40))
    parameters: Mapped[dict[str, Any]]
    label_school: Mapped[str] = mapped_column(String(24))
    limits: Mapped[list[Any]]
    state: Mapped[str] = mapped_column(String(16), default="original")
    preparation: Mapped[dict[str, Any] | None]
    held_at: Mapped[datetime | None]
    held_reason: Mapped[str | None] = mapped_column(String(300))
    dropped_at: Mapped[datetime | None]
    dropped_reason: Mapped[str | None] = mapped_column(String(300))
    retest_of_id: Mapped[int | None] = mapped_column(ForeignKey("test.id"))
    retest_reason: Mapped[str | None] = mapped_column(String(300))
    retest_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    revision: Mapped[int] = mapped_column(Integer, default=1)

    job: Mapped[Job] = relationship(back_populates="tests")
    specimens: Mapped[list[Specimen]] = relationship(
        back_populates="test", order_by="Specimen.position", lazy="selectin"
    )


class Specimen(Base):
    """One specimen: where it is cut, what its label says, and how far it has come."""

    __tablename__ = "specimen"
    __table_args__ = (UniqueConstraint("test_id", "label"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    test_id: Mapped[int] = mapped_column(ForeignKey("test.id"), index=True)
    code: Mapped[str] = mapped_column(String(40), unique=True)
    label: Mapped[str] = mapped_column(String(16))
    direction: Mapped[str] = mapped_column(String(16))
    long_side: Mapped[str] = mapped_column(String(8))
    position: Mapped[int]
    spare: Mapped[bool]
    x_mm: Mapped[float | None]
    y_mm: Mapped[float | None]
    locked: Mapped[bool] = mapped_column(Boolean, default=False)
    further_positions: Mapped[list[Any] | None]
    laid_later: Mapped[bool | None]
    treated: Mapped[bool | None]
    dimensions: Mapped[dict[str, Any] | None]
    measured_with: Mapped[list[Any] | None]
    measured_at: Mapped[datetime | None]
    revision: Mapped[int] = mapped_column(Integer, default=1)

    test: Mapped[Test] = relationship(back_populates="specimens")
    periods: Mapped[list[ConditioningPeriod]] = relationship(
        back_populates="specimen", order_by="ConditioningPeriod.placed_at", lazy="selectin"
    )
    weighings: Mapped[list[Weighing]] = relationship(
        back_populates="specimen", order_by="Weighing.at", lazy="selectin"
    )
    runs: Mapped[list[Run]] = relationship(
        back_populates="specimen", order_by="Run.id", lazy="selectin"
    )
    voids: Mapped[list[Void]] = relationship(
        back_populates="specimen", order_by="Void.id", lazy="selectin"
    )


class Void(Base):
    """A specimen that does not count, by whom and why; taken back only with a reason.

    `open_for` holds the specimen's id while the void stands, so that the database itself
    refuses a second one.
    """

    __tablename__ = "void"

    id: Mapped[int] = mapped_column(primary_key=True)
    specimen_id: Mapped[int] = mapped_column(ForeignKey("specimen.id"), index=True)
    open_for: Mapped[int | None] = mapped_column(Integer, unique=True)
    code: Mapped[str] = mapped_column(String(40))
    remark: Mapped[str] = mapped_column(String(500))
    at: Mapped[datetime] = mapped_column(index=True)
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    withdrawn_at: Mapped[datetime | None]
    withdrawn_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    withdrawn_reason: Mapped[str | None] = mapped_column(String(500))

    specimen: Mapped[Specimen] = relationship(back_populates="voids")
    by: Mapped[Person] = relationship(foreign_keys=by_id)


class Enclosure(Base):
    """A place where specimens wait in an atmosphere; a logger may answer at its address.

    `set_point` holds set point and tolerances where they are not those of the atmosphere;
    `line_message` says why the logger could not be read when it was last read.
    """

    __tablename__ = "enclosure"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60), unique=True)
    atmosphere: Mapped[str] = mapped_column(String(40))
    capacity: Mapped[int | None]
    set_point: Mapped[dict[str, Any] | None]
    earlier_settings: Mapped[list[Any] | None]
    requested_setting: Mapped[dict[str, Any] | None]
    host: Mapped[str | None] = mapped_column(String(120))
    port: Mapped[int | None]
    device: Mapped[str | None] = mapped_column(String(40))
    simulated: Mapped[bool] = mapped_column(Boolean, default=False)
    line_message: Mapped[str] = mapped_column(String(300), default="")
    closed_at: Mapped[datetime | None]


class EnclosureReading(Base):
    """What the logger of an enclosure read at one moment."""

    __tablename__ = "enclosure_reading"

    enclosure_id: Mapped[int] = mapped_column(ForeignKey("enclosure.id"), primary_key=True)
    at: Mapped[datetime] = mapped_column(primary_key=True)
    temperature_c: Mapped[float]
    humidity_percent: Mapped[float | None]


class Weighing(Base):
    """A specimen weighed while it comes to equilibrium."""

    __tablename__ = "weighing"

    id: Mapped[int] = mapped_column(primary_key=True)
    specimen_id: Mapped[int] = mapped_column(ForeignKey("specimen.id"), index=True)
    at: Mapped[datetime]
    mass_g: Mapped[float]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))

    specimen: Mapped[Specimen] = relationship(back_populates="weighings")


class ConditioningPeriod(Base):
    """A specimen placed in a conditioning location; the clock runs from `placed_at`.

    `open_for` holds the specimen's id until it is removed: it is in one location only.
    """

    __tablename__ = "conditioning_period"
    __table_args__ = (Index("ix_conditioning_period_together", "enclosure_id", "placed_at"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    specimen_id: Mapped[int] = mapped_column(ForeignKey("specimen.id"), index=True)
    enclosure_id: Mapped[int] = mapped_column(ForeignKey("enclosure.id"), index=True)
    open_for: Mapped[int | None] = mapped_column(Integer, unique=True)
    placed_at: Mapped[datetime]
    removed_at: Mapped[datetime | None]
    placed_by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))

    specimen: Mapped[Specimen] = relationship(back_populates="periods")
    enclosure: Mapped[Enclosure] = relationship(lazy="joined")


class Kept:
    """What every instrument and gauge has: its range, and whether it is in service.

    It is used from `range_min` to `range_max` in its `unit`. Out of service it is used for nothing
    until it is back; a retired one never again.
    """

    range_min: Mapped[float | None]
    range_max: Mapped[float | None]
    unit: Mapped[str | None] = mapped_column(String(16))
    out_since: Mapped[datetime | None]
    out_reason: Mapped[str | None] = mapped_column(String(300))
    retired_at: Mapped[datetime | None]


class Instrument(Kept, Base):
    """A measuring instrument with its last calibration."""

    __tablename__ = "instrument"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    serial: Mapped[str] = mapped_column(String(40), unique=True)
    capacity_n: Mapped[float]
    certificate: Mapped[str] = mapped_column(String(60))
    calibrated_at: Mapped[datetime]
    calibration_due_at: Mapped[datetime]


class Gauge(Kept, Base):
    """A caliper, thickness gauge or balance that answers over its line."""

    __tablename__ = "gauge"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60), unique=True)
    kind: Mapped[str] = mapped_column(String(24))
    serial: Mapped[str] = mapped_column(String(40), unique=True)
    host: Mapped[str] = mapped_column(String(120))
    port: Mapped[int]
    simulated: Mapped[bool]
    certificate: Mapped[str] = mapped_column(String(60))
    calibrated_at: Mapped[datetime]
    calibration_due_at: Mapped[datetime]


class Station(Base):
    """Where a test is run. One web process at a time holds its lease while a run is on.

    `room_id` is the enclosure whose logger stands nearest.
    """

    __tablename__ = "station"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60), unique=True)
    kind: Mapped[str] = mapped_column(String(24))
    host: Mapped[str] = mapped_column(String(120))
    port: Mapped[int]
    device: Mapped[str | None] = mapped_column(String(40))
    simulated: Mapped[bool]
    instrument_id: Mapped[int] = mapped_column(ForeignKey("instrument.id"))
    room_id: Mapped[int | None] = mapped_column(ForeignKey("enclosure.id"))
    leased_by: Mapped[str | None] = mapped_column(String(80))
    leased_until: Mapped[datetime | None]

    instrument: Mapped[Instrument] = relationship(lazy="joined")


class Run(Base):
    """One pull of one specimen, live from a station or brought in as a file.

    `busy_station_id` and `busy_specimen_id` are set while the run is not over, so that the
    database refuses a second run on either. `state` goes from `running` to `ended` (to be
    looked at) to `settled` (kept, or voided with its specimen); one that gave no samples is
    `abandoned`. `raw` are the samples once the run has ended, compressed, with the SHA-256 of
    what was compressed, and `channels` what they are (time, extension and force where it is
    null); `beside` are readings of the same specimen that the device does not record. `entry`
    holds the readings of a specimen that were brought in or typed, in its place. The file that
    they came from is kept by `source_sha256`; runs of earlier releases hold it in `source_file`.
    """

    __tablename__ = "run"

    id: Mapped[int] = mapped_column(primary_key=True)
    specimen_id: Mapped[int] = mapped_column(ForeignKey("specimen.id"), index=True)
    station_id: Mapped[int | None] = mapped_column(ForeignKey("station.id"))
    instrument_id: Mapped[int | None] = mapped_column(ForeignKey("instrument.id"))
    request_key: Mapped[str | None] = mapped_column(String(64), unique=True)
    device_run: Mapped[str | None] = mapped_column(String(40), unique=True)
    busy_station_id: Mapped[int | None] = mapped_column(Integer, unique=True)
    busy_specimen_id: Mapped[int | None] = mapped_column(Integer, unique=True)
    state: Mapped[str] = mapped_column(String(16), index=True)
    line: Mapped[str] = mapped_column(String(16), default="up")
    line_message: Mapped[str] = mapped_column(String(300), default="")
    settings: Mapped[dict[str, Any]]
    checks: Mapped[list[Any]]
    source_name: Mapped[str | None] = mapped_column(String(200))
    source_file: Mapped[bytes | None] = mapped_column(deferred=True)
    source_sha256: Mapped[str | None] = mapped_column(String(64))
    source_notes: Mapped[list[Any]]
    started_at: Mapped[datetime] = mapped_column(index=True)
    ended_at: Mapped[datetime | None]
    end_reason: Mapped[str | None] = mapped_column(String(200))
    stop_requested: Mapped[bool] = mapped_column(Boolean, default=False)
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    confirmed_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    confirmed_at: Mapped[datetime | None]
    samples: Mapped[int] = mapped_column(Integer, default=0)
    channels: Mapped[list[Any] | None]
    other_readings: Mapped[dict[str, Any] | None]
    entry: Mapped[bytes | None] = mapped_column(deferred=True)
    sha256: Mapped[str | None] = mapped_column(String(64))

    specimen: Mapped[Specimen] = relationship(back_populates="runs")
    station: Mapped[Station | None] = relationship()
    instrument: Mapped[Instrument | None] = relationship()
    by: Mapped[Person] = relationship(foreign_keys=by_id)
    confirmed_by: Mapped[Person | None] = relationship(foreign_keys=confirmed_by_id)
    recording: Mapped[Recording | None] = relationship(
        primaryjoin="and_(Run.id == foreign(Recording.run_id),"
        " Run.sha256 == foreign(Recording.sha256))",
    )

    @property
    def raw(self) -> bytes | None:
        """The samples, compressed; None while it runs, and where there are none."""
        return self.recording.packed if self.recording is not None else None


class Recording(Base):
    """The samples of a finished run, compressed, found by their SHA-256.

    A row is written before its run is closed, and is never changed. It has no foreign key, because
    the database would hold the run while a long recording is written.
    """

    __tablename__ = "recording"

    run_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    packed: Mapped[bytes]


class BenchEvent(Base):
    """One thing that happened to a specimen at the bench; rows of this table are never changed.

    `number` counts the events of a specimen; the database refuses two with the same.
    """

    __tablename__ = "bench_event"
    __table_args__ = (UniqueConstraint("specimen_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    specimen_id: Mapped[int] = mapped_column(ForeignKey("specimen.id"), index=True)
    number: Mapped[int]
    kind: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime]
    by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    station_id: Mapped[int | None] = mapped_column(ForeignKey("station.id"))
    run_id: Mapped[int | None] = mapped_column(ForeignKey("run.id"))
    facts: Mapped[dict[str, Any]]
    undoes: Mapped[int | None]

    by: Mapped[Person | None] = relationship()


class MoveSequence(Base):
    """A named sequence of moves of a frame; each change is a revision of its own."""

    __tablename__ = "move_sequence"
    __table_args__ = (UniqueConstraint("name", "revision"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60))
    revision: Mapped[int]
    moves: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))

    by: Mapped[Person] = relationship()


class RunChunk(Base):
    """Samples of a live run as they came; joined into one recording when it ends."""

    __tablename__ = "run_chunk"

    run_id: Mapped[int] = mapped_column(ForeignKey("run.id"), primary_key=True)
    first_sample: Mapped[int] = mapped_column(Integer, primary_key=True)
    count: Mapped[int]
    samples: Mapped[bytes]


class Report(Base):
    """A released report. Rows of this table are never changed.

    `pdf` is the full record, `client_pdf` the short form for the client; an earlier release made
    none.
    """

    __tablename__ = "report"
    __table_args__ = (UniqueConstraint("job_id", "revision"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), index=True)
    number: Mapped[str] = mapped_column(String(24))
    revision: Mapped[int]
    verdict: Mapped[str] = mapped_column(String(16))
    reason: Mapped[str | None] = mapped_column(String(500))
    content: Mapped[str] = mapped_column(LongText, deferred=True)
    pdf: Mapped[bytes] = mapped_column(deferred=True)
    client_pdf: Mapped[bytes | None] = mapped_column(deferred=True)
    sha256: Mapped[str] = mapped_column(String(64))
    released_at: Mapped[datetime] = mapped_column(index=True)
    released_by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))

    job: Mapped[Job] = relationship(back_populates="reports")
    released_by: Mapped[Person] = relationship()
    withdrawal: Mapped[ReportWithdrawal | None] = relationship(lazy="selectin")


class ReportWithdrawal(Base):
    """A released report that holds no longer: it stays readable, and says so."""

    __tablename__ = "report_withdrawal"

    id: Mapped[int] = mapped_column(primary_key=True)
    report_id: Mapped[int] = mapped_column(ForeignKey("report.id"), unique=True)
    at: Mapped[datetime]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    reason: Mapped[str] = mapped_column(String(500))

    by: Mapped[Person] = relationship()


class AuditEntry(Base):
    """Who changed what, when and why; each entry carries the hash of the one before."""

    __tablename__ = "audit_entry"

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    at: Mapped[datetime]
    person_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    action: Mapped[str] = mapped_column(String(40))
    entity: Mapped[str] = mapped_column(String(40))
    entity_id: Mapped[int] = mapped_column(index=True)
    job_id: Mapped[int | None] = mapped_column(Integer, index=True)
    text: Mapped[str] = mapped_column(Text)
    facts: Mapped[str] = mapped_column(LongText)
    previous_hash: Mapped[str] = mapped_column(String(64))
    hash: Mapped[str] = mapped_column(String(64))

    person: Mapped[Person | None] = relationship()


class AuditHead(Base):
    """The one row that is locked while an entry is added, so that the chain cannot fork.

    `sealed_from` is the entry from which every fact has its seal; None before that was so.
    """

    __tablename__ = "audit_head"

    id: Mapped[int] = mapped_column(primary_key=True)
    last_id: Mapped[int] = mapped_column(BigInteger)
    last_hash: Mapped[str] = mapped_column(String(64))
    sealed_from: Mapped[int | None] = mapped_column(BigInteger)


class JobCard(Base):
    """What lists and clocks show of a job, written in the transaction that changed a fact of it.

    It holds until `turns_at`, when time alone makes it another (None while nothing runs out);
    `version` rises whenever it is written. `placed` and `waiting` are the groups of specimens
    that are being conditioned and that wait for it (`facts.conditioning_groups`). It is no fact:
    `endurant rebuild` makes it again.
    """

    __tablename__ = "job_card"
    __table_args__ = (
        Index("ix_job_card_due", "released", "due_at", "job_id"),
        Index("ix_job_card_stage", "released", "stage", "due_at"),
        Index("ix_job_card_prepares", "prepares", "released", "job_id"),
    )

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), primary_key=True)
    version: Mapped[int] = mapped_column(Integer)
    changed_at: Mapped[datetime] = mapped_column(index=True)
    turns_at: Mapped[datetime | None] = mapped_column(index=True)
    released: Mapped[bool] = mapped_column(Boolean)
    due_at: Mapped[datetime]
    stage: Mapped[str] = mapped_column(String(16))
    tested: Mapped[int]
    required: Mapped[int]
    verdict: Mapped[str] = mapped_column(String(16))
    next_code: Mapped[str] = mapped_column(String(24))
    problem: Mapped[str | None] = mapped_column(String(400))
    search: Mapped[str] = mapped_column(String(900))
    prepares: Mapped[bool] = mapped_column(Boolean)
    placed: Mapped[list[Any]]
    waiting: Mapped[list[Any]]


class TestCard(Base):
    """The figures of a test, by the hash of everything they were computed from.

    Without working and marks, which are computed from the samples for whoever opens them.
    """

    __test__ = False
    __tablename__ = "test_card"

    test_id: Mapped[int] = mapped_column(ForeignKey("test.id"), primary_key=True)
    key: Mapped[str] = mapped_column(String(64))
    figures: Mapped[str | None] = mapped_column(LongText)
    problem: Mapped[str | None] = mapped_column(String(400))


class ConditioningTally(Base):
    """A conditioning period counted against the log of its location up to the reading at `upto`.

    One for all that were placed together under the same rules (`rules`, a hash).
    """

    __tablename__ = "conditioning_tally"

    enclosure_id: Mapped[int] = mapped_column(ForeignKey("enclosure.id"), primary_key=True)
    placed_at: Mapped[datetime] = mapped_column(primary_key=True)
    rules: Mapped[str] = mapped_column(String(64), primary_key=True)
    upto: Mapped[datetime]
    tally: Mapped[dict[str, Any]]
