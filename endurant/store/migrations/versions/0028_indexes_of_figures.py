"""Indexes for the figures of a month: runs, voids and reports by their moment."""

from alembic import op

revision = "0028"
down_revision = "0027"

INDEXES = (("run", "started_at"), ("void", "at"), ("report", "released_at"), ("job", "received_at"))


def upgrade() -> None:
    """Bring the tables to this revision."""
    for table, column in INDEXES:
        op.create_index(f"ix_{table}_{column}", table, [column])


def downgrade() -> None:
    """Take this revision back."""
    for table, column in INDEXES:
        op.drop_index(f"ix_{table}_{column}", table)
