"""Named sequences of moves of a frame."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.create_table(
        "move_sequence",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("moves", sa.Text(), nullable=False),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_move_sequence"),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name="fk_move_sequence_by_id"),
        sa.UniqueConstraint("name", "revision", name="uq_move_sequence_name"),
    )


def downgrade() -> None:
    """Take this revision back; the sequences are lost."""
    op.drop_table("move_sequence")
