"""The tables that a laboratory edits, and how it writes figures and dates."""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.add_column("laboratory", sa.Column("tables", sa.JSON(none_as_null=True), nullable=True))
    op.add_column("laboratory", sa.Column("written", sa.JSON(none_as_null=True), nullable=True))


def downgrade() -> None:
    """Take this revision back."""
    op.drop_column("laboratory", "written")
    op.drop_column("laboratory", "tables")
