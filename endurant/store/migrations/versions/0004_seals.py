"""Where sealing begins: the note on the head of the chain."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.add_column("audit_head", sa.Column("sealed_from", sa.BigInteger(), nullable=True))


def downgrade() -> None:
    """Take the tables back to the revision before."""
    op.drop_column("audit_head", "sealed_from")
