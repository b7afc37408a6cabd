"""What happens at the bench, and recordings of other channels than a frame's three."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0006"
down_revision = "0005"

MOMENT = mysql.DATETIME(fsp=6)


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.add_column("run", sa.Column("channels", sa.JSON(none_as_null=True), nullable=True))
    op.add_column("run", sa.Column("beside", sa.JSON(none_as_null=True), nullable=True))
    op.add_column("station", sa.Column("device", sa.String(40), nullable=True))
    op.create_table(
        "bench_event",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("specimen_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(40), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=True),
        sa.Column("station_id", sa.Integer(), nullable=True),
        sa.Column("run_id", sa.Integer(), nullable=True),
        sa.Column("facts", sa.JSON(), nullable=False),
        sa.Column("takes_back", sa.Integer(), nullable=True),
        sa.PrimaryKeyConstraint("id", name="pk_bench_event"),
        sa.ForeignKeyConstraint(
            ["specimen_id"], ["specimen.id"], name="fk_bench_event_specimen_id"
        ),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name="fk_bench_event_by_id"),
        sa.ForeignKeyConstraint(["station_id"], ["station.id"], name="fk_bench_event_station_id"),
        sa.ForeignKeyConstraint(["run_id"], ["run.id"], name="fk_bench_event_run_id"),
        sa.UniqueConstraint("specimen_id", "number", name="uq_bench_event_specimen_id"),
    )
    op.create_index("ix_bench_event_specimen_id", "bench_event", ["specimen_id"])


def downgrade() -> None:
    """Take this revision back; events and recordings of other channels are lost."""
    op.drop_table("bench_event")
    op.drop_column("station", "device")
    op.drop_column("run", "beside")
    op.drop_column("run", "channels")
