"""What an enclosure was set to before, until when, and what is asked for and not confirmed."""

import sqlalchemy as sa
from alembic import op

revision = "0020"
down_revision = "0019"


def upgrade() -> None:
    """Bring the tables to this revision."""
    for name in ("earlier_settings", "asked_setting"):
        op.add_column("enclosure", sa.Column(name, sa.JSON(none_as_null=True), nullable=True))


def downgrade() -> None:
    """Take this revision back."""
    op.drop_column("enclosure", "asked_setting")
    op.drop_column("enclosure", "earlier_settings")
