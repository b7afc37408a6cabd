"""Rules of the laboratory that were asked for and that nobody has confirmed."""

import sqlalchemy as sa
from alembic import op

revision = "0022"
down_revision = "0021"


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.add_column("laboratory", sa.Column("proposed", sa.JSON(none_as_null=True), nullable=True))


def downgrade() -> None:
    """Take this revision back."""
    op.drop_column("laboratory", "proposed")
