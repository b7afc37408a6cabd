"""Readings of a specimen beside the samples of a run."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    """Bring the tables to this revision."""
    blob = sa.LargeBinary().with_variant(mysql.LONGBLOB(), "mysql", "mariadb")
    op.add_column("run", sa.Column("entry", blob, nullable=True))


def downgrade() -> None:
    """Take the tables back to the revision before."""
    op.drop_column("run", "entry")
