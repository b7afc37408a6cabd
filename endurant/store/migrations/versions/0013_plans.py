"""The plans of the day that were made, and what is pinned in them."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.create_table(
        "kept_plan",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("board", sa.String(64), nullable=False),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.Column("answer", sa.JSON(), nullable=False),
        sa.Column("names", sa.JSON(), nullable=False),
        sa.Column("compared", sa.JSON(none_as_null=True), nullable=True),
    )
    op.create_table(
        "plan_pin",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("test_id", sa.Integer(), nullable=False),
        sa.Column("step", sa.String(40), nullable=False),
        sa.Column("start", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=True),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.ForeignKeyConstraint(["test_id"], ["test.id"], name="fk_plan_pin_test_id"),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name="fk_plan_pin_person_id"),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name="fk_plan_pin_by_id"),
        sa.UniqueConstraint("test_id", "step", name="uq_plan_pin_test_id"),
    )


def downgrade() -> None:
    """Take this revision back."""
    op.drop_table("plan_pin")
    op.drop_table("kept_plan")
