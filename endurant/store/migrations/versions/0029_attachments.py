"""Attachments of jobs, clients, instruments and products."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0029"
down_revision = "0028"

MOMENT = mysql.DATETIME(fsp=6)


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.create_table(
        "attachment",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("subject", sa.String(12), nullable=False),
        sa.Column("key", sa.String(120), nullable=False),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("media_type", sa.String(80), nullable=False),
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("size", sa.Integer(), nullable=False),
        sa.Column("content", mysql.LONGBLOB(), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("by_id", sa.Integer(), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("removed_at", MOMENT, nullable=True),
        sa.Column("removed_by_id", sa.Integer(), sa.ForeignKey("person.id"), nullable=True),
        sa.Column("removed_why", sa.String(300), nullable=True),
    )
    op.create_index("ix_attachment_subject", "attachment", ["subject", "key"])


def downgrade() -> None:
    """Take this revision back."""
    op.drop_table("attachment")
