"""The sheet's rules and locks, the logs of enclosures, weighings and measured sizes."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0003"
down_revision = "0002"

MOMENT = mysql.DATETIME(fsp=6)


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.add_column("job", sa.Column("sheet", sa.JSON(), nullable=True))
    op.add_column(
        "specimen", sa.Column("locked", sa.Boolean(), nullable=False, server_default=sa.text("0"))
    )
    op.add_column("specimen", sa.Column("dimensions", sa.JSON(), nullable=True))
    op.add_column(
        "test",
        sa.Column("state", sa.String(16), nullable=False, server_default=sa.text("'original'")),
    )
    op.add_column(
        "laboratory",
        sa.Column(
            "conditioning_policy",
            sa.String(16),
            nullable=False,
            server_default=sa.text("'restart'"),
        ),
    )
    op.add_column("enclosure", sa.Column("host", sa.String(120), nullable=True))
    op.add_column("enclosure", sa.Column("port", sa.Integer(), nullable=True))
    op.add_column("enclosure", sa.Column("set_point", sa.JSON(), nullable=True))
    op.add_column("enclosure", sa.Column("device", sa.String(40), nullable=True))
    op.add_column(
        "enclosure",
        sa.Column("simulated", sa.Boolean(), nullable=False, server_default=sa.text("0")),
    )
    op.add_column(
        "enclosure",
        sa.Column("line_says", sa.String(300), nullable=False, server_default=sa.text("''")),
    )
    op.add_column("test", sa.Column("preparation", sa.JSON(), nullable=True))
    op.create_table(
        "gauge",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("kind", sa.String(24), nullable=False),
        sa.Column("serial", sa.String(40), nullable=False),
        sa.Column("host", sa.String(120), nullable=False),
        sa.Column("port", sa.Integer(), nullable=False),
        sa.Column("simulated", sa.Boolean(), nullable=False),
        sa.Column("certificate", sa.String(60), nullable=False),
        sa.Column("calibrated_at", MOMENT, nullable=False),
        sa.Column("calibration_due_at", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_gauge"),
        sa.UniqueConstraint("name", name="uq_gauge_name"),
        sa.UniqueConstraint("serial", name="uq_gauge_serial"),
    )
    op.create_table(
        "enclosure_reading",
        sa.Column("enclosure_id", sa.Integer(), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("temperature_c", mysql.DOUBLE(), nullable=False),
        sa.Column("humidity_percent", mysql.DOUBLE(), nullable=True),
        sa.PrimaryKeyConstraint("enclosure_id", "at", name="pk_enclosure_reading"),
        sa.ForeignKeyConstraint(
            ["enclosure_id"], ["enclosure.id"], name="fk_enclosure_reading_enclosure_id"
        ),
    )
    op.create_table(
        "weighing",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("specimen_id", sa.Integer(), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("mass_g", mysql.DOUBLE(), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_weighing"),
        sa.ForeignKeyConstraint(["specimen_id"], ["specimen.id"], name="fk_weighing_specimen_id"),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name="fk_weighing_by_id"),
    )
    op.create_index("ix_weighing_specimen_id", "weighing", ["specimen_id"])


def downgrade() -> None:
    """Take the tables back to the revision before."""
    op.drop_table("weighing")
    op.drop_table("enclosure_reading")
    op.drop_table("gauge")
    op.drop_column("test", "preparation")
    for column in ("line_says", "simulated", "device", "set_point", "port"):
        op.drop_column("enclosure", column)
    op.drop_column("enclosure", "host")
    op.drop_column("laboratory", "conditioning_policy")
    op.drop_column("test", "state")
    op.drop_column("specimen", "dimensions")
    op.drop_column("specimen", "locked")
    op.drop_column("job", "sheet")
