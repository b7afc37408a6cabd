"""The samples of a finished run move into a table of their own."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.create_table(
        "recording",
        sa.Column("run_id", sa.Integer(), primary_key=True, autoincrement=False),
        sa.Column("sha256", sa.String(64), primary_key=True),
        sa.Column("packed", mysql.LONGBLOB(), nullable=False),
    )
    op.execute(
        "INSERT INTO recording (run_id, sha256, packed)"
        " SELECT id, sha256, raw FROM run WHERE raw IS NOT NULL"
    )
    op.drop_column("run", "raw")


def downgrade() -> None:
    """Take this revision back."""
    op.add_column("run", sa.Column("raw", mysql.LONGBLOB(), nullable=True))
    op.execute(
        "UPDATE run JOIN recording ON recording.run_id = run.id AND recording.sha256 = run.sha256"
        " SET run.raw = recording.packed"
    )
    op.drop_table("recording")
