"""The small picture of a photograph is named by its hash, as the whole one is."""

import sqlalchemy as sa
from alembic import op

revision = "0021"
down_revision = "0020"


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.add_column("photo_use", sa.Column("small_sha256", sa.String(64), nullable=True))


def downgrade() -> None:
    """Take this revision back."""
    op.drop_column("photo_use", "small_sha256")
