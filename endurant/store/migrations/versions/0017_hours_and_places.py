"""Who is in when, and how many specimens an enclosure has room for."""

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.add_column("person", sa.Column("hours", sa.JSON(none_as_null=True), nullable=True))
    op.add_column("person", sa.Column("away", sa.JSON(none_as_null=True), nullable=True))
    op.add_column("enclosure", sa.Column("places", sa.Integer(), nullable=True))


def downgrade() -> None:
    """Take this revision back."""
    op.drop_column("enclosure", "places")
    op.drop_column("person", "away")
    op.drop_column("person", "hours")
