"""What becomes of a sample, and tests that are done once more."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0014"
down_revision = "0013"

MOMENT = mysql.DATETIME(fsp=6)


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.create_table(
        "custody_event",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(12), nullable=False),
        sa.Column("place", sa.String(80), nullable=False),
        sa.Column("amount", mysql.DOUBLE(asdecimal=False), nullable=True),
        sa.Column("until", MOMENT, nullable=True),
        sa.Column("words", sa.String(300), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name="fk_custody_event_job_id"),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name="fk_custody_event_by_id"),
    )
    op.create_index("ix_custody_event_job_id", "custody_event", ["job_id"])
    op.add_column("test", sa.Column("retest_of_id", sa.Integer(), nullable=True))
    op.add_column("test", sa.Column("retest_reason", sa.String(300), nullable=True))
    op.add_column("test", sa.Column("retest_by_id", sa.Integer(), nullable=True))
    op.create_foreign_key("fk_test_retest_of_id", "test", "test", ["retest_of_id"], ["id"])
    op.create_foreign_key("fk_test_retest_by_id", "test", "person", ["retest_by_id"], ["id"])
    op.add_column("laboratory", sa.Column("retest_by", sa.String(16), nullable=True))


def downgrade() -> None:
    """Take this revision back."""
    op.drop_column("laboratory", "retest_by")
    op.drop_constraint("fk_test_retest_by_id", "test", type_="foreignkey")
    op.drop_constraint("fk_test_retest_of_id", "test", type_="foreignkey")
    for column in ("retest_by_id", "retest_reason", "retest_of_id"):
        op.drop_column("test", column)
    op.drop_table("custody_event")
