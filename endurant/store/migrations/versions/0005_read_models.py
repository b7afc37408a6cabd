"""What lists and clocks show, stored; whether a sample came damp."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0005"
down_revision = "0004"

MOMENT = mysql.DATETIME(fsp=6)


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.add_column(
        "job", sa.Column("damp", sa.Boolean(), nullable=False, server_default=sa.text("0"))
    )
    op.execute(
        "UPDATE job SET damp = 1 "
        "WHERE LOWER(arrival_state) LIKE '%damp%' OR LOWER(arrival_state) LIKE '%wet%'"
    )
    op.create_index("ix_stay_hung_together", "stay", ["enclosure_id", "hung_at"])
    op.create_table(
        "job_card",
        sa.Column("job_id", sa.Integer(), nullable=False, autoincrement=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("changed_at", MOMENT, nullable=False),
        sa.Column("turns_at", MOMENT, nullable=True),
        sa.Column("released", sa.Boolean(), nullable=False),
        sa.Column("due_at", MOMENT, nullable=False),
        sa.Column("stage", sa.String(16), nullable=False),
        sa.Column("tested", sa.Integer(), nullable=False),
        sa.Column("wanted", sa.Integer(), nullable=False),
        sa.Column("verdict", sa.String(16), nullable=False),
        sa.Column("next_code", sa.String(24), nullable=False),
        sa.Column("trouble", sa.String(400), nullable=True),
        sa.Column("search", sa.String(700), nullable=False),
        sa.Column("prepares", sa.Boolean(), nullable=False),
        sa.Column("hanging", sa.JSON(), nullable=False),
        sa.Column("waiting", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("job_id", name="pk_job_card"),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name="fk_job_card_job_id"),
    )
    op.create_index("ix_job_card_changed_at", "job_card", ["changed_at"])
    op.create_index("ix_job_card_turns_at", "job_card", ["turns_at"])
    op.create_index("ix_job_card_due", "job_card", ["released", "due_at", "job_id"])
    op.create_index("ix_job_card_stage", "job_card", ["released", "stage", "due_at"])
    op.create_index("ix_job_card_prepares", "job_card", ["prepares", "released", "job_id"])
    op.create_table(
        "test_card",
        sa.Column("test_id", sa.Integer(), nullable=False, autoincrement=False),
        sa.Column("key", sa.String(64), nullable=False),
        sa.Column("figures", mysql.LONGTEXT(), nullable=True),
        sa.Column("trouble", sa.String(400), nullable=True),
        sa.PrimaryKeyConstraint("test_id", name="pk_test_card"),
        sa.ForeignKeyConstraint(["test_id"], ["test.id"], name="fk_test_card_test_id"),
    )
    op.create_table(
        "stay_tally",
        sa.Column("enclosure_id", sa.Integer(), nullable=False),
        sa.Column("hung_at", MOMENT, nullable=False),
        sa.Column("rules", sa.String(64), nullable=False),
        sa.Column("upto", MOMENT, nullable=False),
        sa.Column("tally", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("enclosure_id", "hung_at", "rules", name="pk_stay_tally"),
        sa.ForeignKeyConstraint(
            ["enclosure_id"], ["enclosure.id"], name="fk_stay_tally_enclosure_id"
        ),
    )


def downgrade() -> None:
    """Take the tables back to the revision before."""
    for table in ("stay_tally", "test_card", "job_card"):
        op.drop_table(table)
    op.drop_index("ix_stay_hung_together", "stay")
    op.drop_column("job", "damp")
