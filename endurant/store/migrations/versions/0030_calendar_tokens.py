"""A person's plan can be subscribed to by a secret address."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0030"
down_revision = "0029"


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.create_table(
        "calendar_token",
        sa.Column("person_id", sa.Integer(), sa.ForeignKey("person.id"), primary_key=True),
        sa.Column("token_hash", sa.String(64), nullable=False, unique=True),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
    )


def downgrade() -> None:
    """Take this revision back."""
    op.drop_table("calendar_token")
