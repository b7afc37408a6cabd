"""A released report has a short form for the client beside its full record."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0031"
down_revision = "0030"


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.add_column("report", sa.Column("client_pdf", mysql.LONGBLOB(), nullable=True))


def downgrade() -> None:
    """Take this revision back."""
    op.drop_column("report", "client_pdf")
