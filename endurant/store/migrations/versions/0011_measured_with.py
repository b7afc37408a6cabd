"""What a specimen was measured with, and what of it a photograph shows."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.add_column("photo_use", sa.Column("subject", sa.String(80), nullable=True))
    op.add_column("specimen", sa.Column("measured_with", sa.JSON(none_as_null=True), nullable=True))
    op.add_column("specimen", sa.Column("measured_at", mysql.DATETIME(fsp=6), nullable=True))


def downgrade() -> None:
    """Take this revision back."""
    op.drop_column("specimen", "measured_at")
    op.drop_column("specimen", "measured_with")
    op.drop_column("photo_use", "subject")
