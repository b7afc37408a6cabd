"""Instruments with their checks, what wears out, photographs, mappings, set-ups, melt densities."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0008"
down_revision = "0007"

MOMENT = mysql.DATETIME(fsp=6)


def _key(name: str) -> sa.Column:
    return sa.Column(name, sa.Integer(), nullable=False)


def _by(table: str, column: str = "by_id") -> sa.ForeignKeyConstraint:
    return sa.ForeignKeyConstraint([column], ["person.id"], name=f"fk_{table}_{column}")


def upgrade() -> None:
    """Bring the tables to this revision."""
    for table in ("instrument", "gauge"):
        op.add_column(table, sa.Column("least", mysql.DOUBLE(asdecimal=False), nullable=True))
        op.add_column(table, sa.Column("most", mysql.DOUBLE(asdecimal=False), nullable=True))
        op.add_column(table, sa.Column("unit", sa.String(16), nullable=True))
        op.add_column(table, sa.Column("out_since", MOMENT, nullable=True))
        op.add_column(table, sa.Column("out_reason", sa.String(300), nullable=True))
        op.add_column(table, sa.Column("retired_at", MOMENT, nullable=True))
    op.add_column("station", sa.Column("room_id", sa.Integer(), nullable=True))
    op.create_foreign_key("fk_station_room_id", "station", "enclosure", ["room_id"], ["id"])
    op.create_table(
        "instrument_event",
        _key("id"),
        sa.Column("serial", sa.String(40), nullable=False),
        sa.Column("kind", sa.String(24), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        _key("by_id"),
        sa.Column("words", sa.String(400), nullable=False),
        sa.Column("facts", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_instrument_event"),
        _by("instrument_event"),
    )
    op.create_index("ix_instrument_event_serial", "instrument_event", ["serial", "at"])
    op.create_table(
        "reference_check",
        _key("id"),
        sa.Column("serial", sa.String(40), nullable=False),
        sa.Column("title", sa.String(80), nullable=False),
        sa.Column("unit", sa.String(16), nullable=False),
        sa.Column("target", mysql.DOUBLE(asdecimal=False), nullable=False),
        sa.Column("warn", mysql.DOUBLE(asdecimal=False), nullable=False),
        sa.Column("limit", mysql.DOUBLE(asdecimal=False), nullable=False),
        _key("every_days"),
        sa.Column("since", MOMENT, nullable=False),
        sa.Column("closed_at", MOMENT, nullable=True),
        sa.Column("last_at", MOMENT, nullable=True),
        sa.Column("last_verdict", sa.String(8), nullable=True),
        sa.Column("last_says", sa.String(300), nullable=True),
        sa.PrimaryKeyConstraint("id", name="pk_reference_check"),
        sa.UniqueConstraint("serial", "title", name="uq_reference_check_serial"),
    )
    op.create_table(
        "reference_reading",
        _key("id"),
        _key("check_id"),
        sa.Column("at", MOMENT, nullable=False),
        _key("by_id"),
        sa.Column("value", mysql.DOUBLE(asdecimal=False), nullable=False),
        sa.Column("verdict", sa.String(8), nullable=False),
        sa.Column("says", sa.String(300), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_reference_reading"),
        sa.ForeignKeyConstraint(
            ["check_id"], ["reference_check.id"], name="fk_reference_reading_check_id"
        ),
        _by("reference_reading"),
    )
    op.create_index("ix_reference_reading_check_id", "reference_reading", ["check_id"])
    op.create_table(
        "supply",
        _key("id"),
        sa.Column("kind", sa.String(40), nullable=False),
        sa.Column("lot", sa.String(60), nullable=False),
        sa.Column("station_id", sa.Integer(), nullable=True),
        sa.Column("opened_at", MOMENT, nullable=False),
        _key("opened_by_id"),
        sa.Column("limit_count", sa.Integer(), nullable=True),
        sa.Column("limit_days", sa.Integer(), nullable=True),
        _key("used"),
        sa.Column("finished_at", MOMENT, nullable=True),
        sa.PrimaryKeyConstraint("id", name="pk_supply"),
        sa.ForeignKeyConstraint(["station_id"], ["station.id"], name="fk_supply_station_id"),
        _by("supply", "opened_by_id"),
    )
    op.create_index("ix_supply_kind", "supply", ["kind", "finished_at"])
    op.create_table(
        "photo",
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("jpeg", mysql.LONGBLOB(), nullable=False),
        sa.Column("small", mysql.LONGBLOB(), nullable=False),
        _key("width"),
        _key("height"),
        sa.PrimaryKeyConstraint("sha256", name="pk_photo"),
    )
    op.create_table(
        "photo_use",
        _key("id"),
        sa.Column("sha256", sa.String(64), nullable=False),
        _key("specimen_id"),
        sa.Column("shows", sa.String(200), nullable=False),
        sa.Column("in_report", sa.Boolean(), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        _key("by_id"),
        sa.Column("removed_at", MOMENT, nullable=True),
        sa.PrimaryKeyConstraint("id", name="pk_photo_use"),
        sa.ForeignKeyConstraint(["sha256"], ["photo.sha256"], name="fk_photo_use_sha256"),
        sa.ForeignKeyConstraint(["specimen_id"], ["specimen.id"], name="fk_photo_use_specimen_id"),
        sa.UniqueConstraint("specimen_id", "sha256", name="uq_photo_use_specimen_id"),
        _by("photo_use"),
    )
    op.create_table(
        "column_mapping",
        _key("id"),
        sa.Column("name", sa.String(60), nullable=False),
        _key("revision"),
        sa.Column("columns", sa.JSON(), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        _key("by_id"),
        sa.PrimaryKeyConstraint("id", name="pk_column_mapping"),
        sa.UniqueConstraint("name", "revision", name="uq_column_mapping_name"),
        _by("column_mapping"),
    )
    op.create_table(
        "station_set_up",
        sa.Column("method", sa.String(40), nullable=False),
        sa.Column("station", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("parameters", sa.JSON(), nullable=False),
        sa.Column("job_number", sa.String(16), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("method", "station", name="pk_station_set_up"),
    )
    op.create_table(
        "melt_density",
        _key("id"),
        sa.Column("formulation", sa.String(80), nullable=False),
        sa.Column("revision", sa.String(24), nullable=False),
        sa.Column("temperature_c", mysql.DOUBLE(asdecimal=False), nullable=False),
        sa.Column("density_g_cm3", mysql.DOUBLE(asdecimal=False), nullable=False),
        sa.Column("sd_g_cm3", mysql.DOUBLE(asdecimal=False), nullable=True),
        _key("runs"),
        _key("test_id"),
        sa.Column("at", MOMENT, nullable=False),
        _key("by_id"),
        sa.Column("withdrawn_at", MOMENT, nullable=True),
        sa.PrimaryKeyConstraint("id", name="pk_melt_density"),
        sa.ForeignKeyConstraint(["test_id"], ["test.id"], name="fk_melt_density_test_id"),
        _by("melt_density"),
    )
    op.create_index("ix_melt_density_formulation", "melt_density", ["formulation", "revision"])


def downgrade() -> None:
    """Take this revision back; what was written down of the equipment is lost."""
    for table in (
        "melt_density",
        "station_set_up",
        "column_mapping",
        "photo_use",
        "photo",
        "supply",
        "reference_reading",
        "reference_check",
        "instrument_event",
    ):
        op.drop_table(table)
    op.drop_constraint("fk_station_room_id", "station", type_="foreignkey")
    op.drop_column("station", "room_id")
    for table in ("instrument", "gauge"):
        for column in ("least", "most", "unit", "out_since", "out_reason", "retired_at"):
            op.drop_column(table, column)
