"""Specimens that are cut from a piece of cloth after its treatment."""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.add_column("specimen", sa.Column("treated", sa.Boolean(), nullable=True))


def downgrade() -> None:
    """Take this revision back."""
    op.drop_column("specimen", "treated")
