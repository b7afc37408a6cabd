"""Clients have a record of their own, and a job bears the order number of its client."""

import sqlalchemy as sa
from alembic import op

revision = "0026"
down_revision = "0025"


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.create_table(
        "client",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(120), nullable=False, unique=True),
        sa.Column("contacts", sa.JSON(), nullable=False),
        sa.Column("addresses", sa.JSON(), nullable=False),
        sa.Column("paper", sa.String(8), nullable=False),
        sa.Column("collects_reports", sa.Boolean(), nullable=False),
        sa.Column("remark", sa.String(500), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
    )
    op.add_column("job", sa.Column("order_number", sa.String(60), nullable=True))
    op.add_column("job", sa.Column("client_reference", sa.String(60), nullable=True))
    op.create_index("ix_job_client", "job", ["client"])
    op.alter_column("job_card", "search", type_=sa.String(900), existing_nullable=False)


def downgrade() -> None:
    """Take this revision back."""
    op.alter_column("job_card", "search", type_=sa.String(700), existing_nullable=False)
    op.drop_index("ix_job_client", "job")
    op.drop_column("job", "client_reference")
    op.drop_column("job", "order_number")
    op.drop_table("client")
