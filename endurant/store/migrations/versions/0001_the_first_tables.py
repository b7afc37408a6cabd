"""The first tables."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

import endurant.store.columns

revision = "0001"
down_revision = None

NEVER_CHANGED = {
    "report": "a released report is never changed",
    "audit_entry": "an audit entry is never changed",
}


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.create_table(
        "audit_head",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("last_id", sa.BigInteger(), nullable=False),
        sa.Column("last_hash", sa.String(length=64), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_audit_head")),
    )
    op.create_table(
        "enclosure",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=60), nullable=False),
        sa.Column("atmosphere", sa.String(length=40), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_enclosure")),
        sa.UniqueConstraint("name", name=op.f("uq_enclosure_name")),
    )
    op.create_table(
        "failed_sign_in",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("login", sa.String(length=40), nullable=False),
        sa.Column("at", endurant.store.columns.Moment(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_failed_sign_in")),
    )
    op.create_index(op.f("ix_failed_sign_in_login"), "failed_sign_in", ["login"], unique=False)
    op.create_table(
        "instrument",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("serial", sa.String(length=40), nullable=False),
        sa.Column("capacity_n", sa.Double(), nullable=False),
        sa.Column("certificate", sa.String(length=60), nullable=False),
        sa.Column("calibrated_at", endurant.store.columns.Moment(fsp=6), nullable=False),
        sa.Column("calibration_due_at", endurant.store.columns.Moment(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_instrument")),
        sa.UniqueConstraint("serial", name=op.f("uq_instrument_serial")),
    )
    op.create_table(
        "laboratory",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("address", sa.String(length=240), nullable=False),
        sa.Column("label_school", sa.String(length=24), nullable=False),
        sa.Column("comparison", sa.String(length=16), nullable=False),
        sa.Column("rounding", sa.String(length=16), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_laboratory")),
    )
    op.create_table(
        "person",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("login", sa.String(length=40), nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("password_hash", sa.String(length=200), nullable=False),
        sa.Column("role", sa.String(length=16), nullable=False),
        sa.Column("active", sa.Boolean(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_person")),
        sa.UniqueConstraint("login", name=op.f("uq_person_login")),
    )
    op.create_table(
        "audit_entry",
        sa.Column("id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("at", endurant.store.columns.Moment(fsp=6), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=True),
        sa.Column("action", sa.String(length=40), nullable=False),
        sa.Column("entity", sa.String(length=40), nullable=False),
        sa.Column("entity_id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=True),
        sa.Column("words", sa.Text(), nullable=False),
        sa.Column("facts", mysql.LONGTEXT(), nullable=False),
        sa.Column("previous_hash", sa.String(length=64), nullable=False),
        sa.Column("hash", sa.String(length=64), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"], ["person.id"], name=op.f("fk_audit_entry_person_id")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_audit_entry")),
    )
    op.create_index(op.f("ix_audit_entry_entity_id"), "audit_entry", ["entity_id"], unique=False)
    op.create_index(op.f("ix_audit_entry_job_id"), "audit_entry", ["job_id"], unique=False)
    op.create_table(
        "job",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("number", sa.String(length=16), nullable=False),
        sa.Column("request_key", sa.String(length=64), nullable=True),
        sa.Column("client", sa.String(length=120), nullable=False),
        sa.Column("product", sa.String(length=120), nullable=False),
        sa.Column("lot", sa.String(length=60), nullable=False),
        sa.Column("material", sa.String(length=200), nullable=False),
        sa.Column("arrival_state", sa.String(length=200), nullable=False),
        sa.Column("width_mm", sa.Double(), nullable=False),
        sa.Column("length_mm", sa.Double(), nullable=False),
        sa.Column(
            "avoided",
            sa.JSON().with_variant(sa.JSON(), "mariadb").with_variant(sa.JSON(), "mysql"),
            nullable=False,
        ),
        sa.Column("received_at", endurant.store.columns.Moment(fsp=6), nullable=False),
        sa.Column("due_at", endurant.store.columns.Moment(fsp=6), nullable=False),
        sa.Column("cut_at", endurant.store.columns.Moment(fsp=6), nullable=True),
        sa.Column("released_at", endurant.store.columns.Moment(fsp=6), nullable=True),
        sa.Column("correction_reason", sa.String(length=500), nullable=True),
        sa.Column("received_by_id", sa.Integer(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["received_by_id"], ["person.id"], name=op.f("fk_job_received_by_id")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_job")),
        sa.UniqueConstraint("number", name=op.f("uq_job_number")),
        sa.UniqueConstraint("request_key", name=op.f("uq_job_request_key")),
    )
    op.create_table(
        "sign_in",
        sa.Column("token_hash", sa.String(length=64), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("created_at", endurant.store.columns.Moment(fsp=6), nullable=False),
        sa.Column("expires_at", endurant.store.columns.Moment(fsp=6), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_sign_in_person_id")),
        sa.PrimaryKeyConstraint("token_hash", name=op.f("pk_sign_in")),
    )
    op.create_index(op.f("ix_sign_in_expires_at"), "sign_in", ["expires_at"], unique=False)
    op.create_index(op.f("ix_sign_in_person_id"), "sign_in", ["person_id"], unique=False)
    op.create_table(
        "station",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=60), nullable=False),
        sa.Column("kind", sa.String(length=24), nullable=False),
        sa.Column("host", sa.String(length=120), nullable=False),
        sa.Column("port", sa.Integer(), nullable=False),
        sa.Column("simulated", sa.Boolean(), nullable=False),
        sa.Column("instrument_id", sa.Integer(), nullable=False),
        sa.Column("leased_by", sa.String(length=80), nullable=True),
        sa.Column("leased_until", endurant.store.columns.Moment(fsp=6), nullable=True),
        sa.ForeignKeyConstraint(
            ["instrument_id"], ["instrument.id"], name=op.f("fk_station_instrument_id")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_station")),
        sa.UniqueConstraint("name", name=op.f("uq_station_name")),
    )
    op.create_table(
        "report",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.String(length=24), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("verdict", sa.String(length=16), nullable=False),
        sa.Column("reason", sa.String(length=500), nullable=True),
        sa.Column("content", mysql.LONGTEXT(), nullable=False),
        sa.Column(
            "pdf",
            sa.LargeBinary()
            .with_variant(mysql.LONGBLOB(), "mariadb")
            .with_variant(mysql.LONGBLOB(), "mysql"),
            nullable=False,
        ),
        sa.Column("sha256", sa.String(length=64), nullable=False),
        sa.Column("released_at", endurant.store.columns.Moment(fsp=6), nullable=False),
        sa.Column("released_by_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_report_job_id")),
        sa.ForeignKeyConstraint(
            ["released_by_id"], ["person.id"], name=op.f("fk_report_released_by_id")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_report")),
        sa.UniqueConstraint("job_id", "revision", name=op.f("uq_report_job_id")),
    )
    op.create_index(op.f("ix_report_job_id"), "report", ["job_id"], unique=False)
    op.create_table(
        "test",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("method", sa.String(length=40), nullable=False),
        sa.Column(
            "parameters",
            sa.JSON().with_variant(sa.JSON(), "mariadb").with_variant(sa.JSON(), "mysql"),
            nullable=False,
        ),
        sa.Column("label_school", sa.String(length=24), nullable=False),
        sa.Column(
            "limits",
            sa.JSON().with_variant(sa.JSON(), "mariadb").with_variant(sa.JSON(), "mysql"),
            nullable=False,
        ),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_test_job_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_test")),
    )
    op.create_index(op.f("ix_test_job_id"), "test", ["job_id"], unique=False)
    op.create_table(
        "specimen",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("test_id", sa.Integer(), nullable=False),
        sa.Column("code", sa.String(length=40), nullable=False),
        sa.Column("label", sa.String(length=16), nullable=False),
        sa.Column("direction", sa.String(length=16), nullable=False),
        sa.Column("long_side", sa.String(length=8), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("spare", sa.Boolean(), nullable=False),
        sa.Column("x_mm", sa.Double(), nullable=True),
        sa.Column("y_mm", sa.Double(), nullable=True),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["test_id"], ["test.id"], name=op.f("fk_specimen_test_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_specimen")),
        sa.UniqueConstraint("code", name=op.f("uq_specimen_code")),
        sa.UniqueConstraint("test_id", "label", name=op.f("uq_specimen_test_id")),
    )
    op.create_index(op.f("ix_specimen_test_id"), "specimen", ["test_id"], unique=False)
    op.create_table(
        "run",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("specimen_id", sa.Integer(), nullable=False),
        sa.Column("station_id", sa.Integer(), nullable=True),
        sa.Column("instrument_id", sa.Integer(), nullable=True),
        sa.Column("request_key", sa.String(length=64), nullable=True),
        sa.Column("device_run", sa.String(length=40), nullable=True),
        sa.Column("busy_station_id", sa.Integer(), nullable=True),
        sa.Column("busy_specimen_id", sa.Integer(), nullable=True),
        sa.Column("state", sa.String(length=16), nullable=False),
        sa.Column("line", sa.String(length=16), nullable=False),
        sa.Column("line_says", sa.String(length=300), nullable=False),
        sa.Column(
            "settings",
            sa.JSON().with_variant(sa.JSON(), "mariadb").with_variant(sa.JSON(), "mysql"),
            nullable=False,
        ),
        sa.Column(
            "checks",
            sa.JSON().with_variant(sa.JSON(), "mariadb").with_variant(sa.JSON(), "mysql"),
            nullable=False,
        ),
        sa.Column("source_name", sa.String(length=200), nullable=True),
        sa.Column(
            "source_file",
            sa.LargeBinary()
            .with_variant(mysql.LONGBLOB(), "mariadb")
            .with_variant(mysql.LONGBLOB(), "mysql"),
            nullable=True,
        ),
        sa.Column(
            "source_said",
            sa.JSON().with_variant(sa.JSON(), "mariadb").with_variant(sa.JSON(), "mysql"),
            nullable=False,
        ),
        sa.Column("started_at", endurant.store.columns.Moment(fsp=6), nullable=False),
        sa.Column("ended_at", endurant.store.columns.Moment(fsp=6), nullable=True),
        sa.Column("end_reason", sa.String(length=200), nullable=True),
        sa.Column("stop_wanted", sa.Boolean(), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.Column("samples", sa.Integer(), nullable=False),
        sa.Column(
            "raw",
            sa.LargeBinary()
            .with_variant(mysql.LONGBLOB(), "mariadb")
            .with_variant(mysql.LONGBLOB(), "mysql"),
            nullable=True,
        ),
        sa.Column("sha256", sa.String(length=64), nullable=True),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name=op.f("fk_run_by_id")),
        sa.ForeignKeyConstraint(
            ["instrument_id"], ["instrument.id"], name=op.f("fk_run_instrument_id")
        ),
        sa.ForeignKeyConstraint(["specimen_id"], ["specimen.id"], name=op.f("fk_run_specimen_id")),
        sa.ForeignKeyConstraint(["station_id"], ["station.id"], name=op.f("fk_run_station_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_run")),
        sa.UniqueConstraint("busy_specimen_id", name=op.f("uq_run_busy_specimen_id")),
        sa.UniqueConstraint("busy_station_id", name=op.f("uq_run_busy_station_id")),
        sa.UniqueConstraint("device_run", name=op.f("uq_run_device_run")),
        sa.UniqueConstraint("request_key", name=op.f("uq_run_request_key")),
    )
    op.create_index(op.f("ix_run_specimen_id"), "run", ["specimen_id"], unique=False)
    op.create_index(op.f("ix_run_state"), "run", ["state"], unique=False)
    op.create_table(
        "stay",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("specimen_id", sa.Integer(), nullable=False),
        sa.Column("enclosure_id", sa.Integer(), nullable=False),
        sa.Column("open_for", sa.Integer(), nullable=True),
        sa.Column("hung_at", endurant.store.columns.Moment(fsp=6), nullable=False),
        sa.Column("taken_at", endurant.store.columns.Moment(fsp=6), nullable=True),
        sa.Column("hung_by_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["enclosure_id"], ["enclosure.id"], name=op.f("fk_stay_enclosure_id")
        ),
        sa.ForeignKeyConstraint(["hung_by_id"], ["person.id"], name=op.f("fk_stay_hung_by_id")),
        sa.ForeignKeyConstraint(["specimen_id"], ["specimen.id"], name=op.f("fk_stay_specimen_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_stay")),
        sa.UniqueConstraint("open_for", name=op.f("uq_stay_open_for")),
    )
    op.create_index(op.f("ix_stay_enclosure_id"), "stay", ["enclosure_id"], unique=False)
    op.create_index(op.f("ix_stay_specimen_id"), "stay", ["specimen_id"], unique=False)
    op.create_table(
        "void",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("specimen_id", sa.Integer(), nullable=False),
        sa.Column("open_for", sa.Integer(), nullable=True),
        sa.Column("code", sa.String(length=40), nullable=False),
        sa.Column("words", sa.String(length=500), nullable=False),
        sa.Column("at", endurant.store.columns.Moment(fsp=6), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.Column("withdrawn_at", endurant.store.columns.Moment(fsp=6), nullable=True),
        sa.Column("withdrawn_by_id", sa.Integer(), nullable=True),
        sa.Column("withdrawn_reason", sa.String(length=500), nullable=True),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name=op.f("fk_void_by_id")),
        sa.ForeignKeyConstraint(["specimen_id"], ["specimen.id"], name=op.f("fk_void_specimen_id")),
        sa.ForeignKeyConstraint(
            ["withdrawn_by_id"], ["person.id"], name=op.f("fk_void_withdrawn_by_id")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_void")),
        sa.UniqueConstraint("open_for", name=op.f("uq_void_open_for")),
    )
    op.create_index(op.f("ix_void_specimen_id"), "void", ["specimen_id"], unique=False)
    op.create_table(
        "run_chunk",
        sa.Column("run_id", sa.Integer(), nullable=False),
        sa.Column("first_sample", sa.Integer(), nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column(
            "samples",
            sa.LargeBinary()
            .with_variant(mysql.LONGBLOB(), "mariadb")
            .with_variant(mysql.LONGBLOB(), "mysql"),
            nullable=False,
        ),
        sa.ForeignKeyConstraint(["run_id"], ["run.id"], name=op.f("fk_run_chunk_run_id")),
        sa.PrimaryKeyConstraint("run_id", "first_sample", name=op.f("pk_run_chunk")),
    )

    for table, sentence in NEVER_CHANGED.items():
        for event in ("update", "delete"):
            op.execute(
                f"CREATE TRIGGER {table}_no_{event} BEFORE {event.upper()} ON {table} "
                f"FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = '{sentence}'"
            )


def downgrade() -> None:
    """Take the tables back to the revision before."""
    op.drop_table("run_chunk")
    op.drop_table("void")
    op.drop_table("stay")
    op.drop_table("run")
    op.drop_table("specimen")
    op.drop_table("test")
    op.drop_table("report")
    op.drop_table("station")
    op.drop_table("sign_in")
    op.drop_table("job")
    op.drop_table("audit_entry")
    op.drop_table("person")
    op.drop_table("laboratory")
    op.drop_table("instrument")
    op.drop_table("failed_sign_in")
    op.drop_table("enclosure")
    op.drop_table("audit_head")
