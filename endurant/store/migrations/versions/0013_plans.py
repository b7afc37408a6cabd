"""The plans of the day that were made."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.create_table(
        "kept_plan",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("board", sa.String(64), nullable=False),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.Column("answer", sa.JSON(), nullable=False),
        sa.Column("names", sa.JSON(), nullable=False),
        sa.Column("compared", sa.JSON(none_as_null=True), nullable=True),
    )


def downgrade() -> None:
    """Take this revision back."""
    op.drop_table("kept_plan")
