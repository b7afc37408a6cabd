"""Where the further pieces of a specimen lie, and which were laid after the first cut."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    """Bring the tables to this revision."""
    column = sa.Column("further_places", sa.JSON(none_as_null=True), nullable=True)
    op.add_column("specimen", column)
    op.add_column("specimen", sa.Column("laid_later", sa.Boolean(), nullable=True))


def downgrade() -> None:
    """Take this revision back."""
    op.drop_column("specimen", "laid_later")
    op.drop_column("specimen", "further_places")
