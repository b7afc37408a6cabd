"""A revision of a product is a draft until it is approved; a product can be retired."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0025"
down_revision = "0024"

MOMENT = mysql.DATETIME(fsp=6)


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.add_column("product", sa.Column("status", sa.String(12), nullable=True))
    op.add_column("product", sa.Column("approved_at", MOMENT, nullable=True))
    op.add_column("product", sa.Column("approved_by_id", sa.Integer(), nullable=True))
    op.add_column("product", sa.Column("valid_from", MOMENT, nullable=True))
    op.add_column("product", sa.Column("retired_at", MOMENT, nullable=True))
    op.add_column("product", sa.Column("retired_by_id", sa.Integer(), nullable=True))
    op.add_column("product", sa.Column("retired_why", sa.String(300), nullable=True))
    for column in ("approved_by_id", "retired_by_id"):
        op.create_foreign_key(f"fk_product_{column}", "product", "person", [column], ["id"])


def downgrade() -> None:
    """Take this revision back."""
    for column in ("approved_by_id", "retired_by_id"):
        op.drop_constraint(f"fk_product_{column}", "product", type_="foreignkey")
    for column in ("status", "approved_at", "approved_by_id", "valid_from"):
        op.drop_column("product", column)
    for column in ("retired_at", "retired_by_id", "retired_why"):
        op.drop_column("product", column)
