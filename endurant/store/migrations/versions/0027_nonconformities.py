"""Nonconformities and complaints, with the results that each affects."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0027"
down_revision = "0026"

MOMENT = mysql.DATETIME(fsp=6)


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.create_table(
        "nonconformity",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("kind", sa.String(16), nullable=False),
        sa.Column("source", sa.String(8), nullable=False),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("job.id"), nullable=True, index=True),
        sa.Column("serial", sa.String(40), nullable=True, index=True),
        sa.Column("title", sa.String(200), nullable=False),
        sa.Column("description", sa.String(2000), nullable=False),
        sa.Column("cause", sa.String(2000), nullable=False),
        sa.Column("action", sa.String(2000), nullable=False),
        sa.Column("owner_id", sa.Integer(), sa.ForeignKey("person.id"), nullable=True),
        sa.Column("due_at", MOMENT, nullable=True),
        sa.Column("opened_at", MOMENT, nullable=False),
        sa.Column("opened_by_id", sa.Integer(), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("closed_at", MOMENT, nullable=True),
        sa.Column("closed_by_id", sa.Integer(), sa.ForeignKey("person.id"), nullable=True),
        sa.Column("closing", sa.String(500), nullable=True),
        sa.Column("revision", sa.Integer(), nullable=False),
    )
    op.create_table(
        "affected_result",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column(
            "nonconformity_id",
            sa.Integer(),
            sa.ForeignKey("nonconformity.id"),
            nullable=False,
            index=True,
        ),
        sa.Column("run_id", sa.Integer(), sa.ForeignKey("run.id"), nullable=False),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("job.id"), nullable=False, index=True),
        sa.Column("label", sa.String(24), nullable=False),
        sa.Column("method", sa.String(40), nullable=False),
    )


def downgrade() -> None:
    """Take this revision back."""
    op.drop_table("affected_result")
    op.drop_table("nonconformity")
