"""Reports that were withdrawn, and whether a supervisor releases what she confirmed."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0019"
down_revision = "0018"

MOMENT = mysql.DATETIME(fsp=6)


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.add_column("laboratory", sa.Column("supervisor_releases", sa.String(8), nullable=True))
    op.create_table(
        "report_withdrawal",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("report_id", sa.Integer(), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.Column("reason", sa.String(500), nullable=False),
        sa.ForeignKeyConstraint(
            ["report_id"], ["report.id"], name="fk_report_withdrawal_report_id"
        ),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name="fk_report_withdrawal_by_id"),
        sa.UniqueConstraint("report_id", name="uq_report_withdrawal_report_id"),
    )


def downgrade() -> None:
    """Take this revision back."""
    op.drop_table("report_withdrawal")
    op.drop_column("laboratory", "supervisor_releases")
