"""Several samples that belong together."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.create_table(
        "study",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("title", sa.String(120), nullable=False),
        sa.Column("client", sa.String(120), nullable=False),
        sa.Column("reports", sa.String(8), nullable=False),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name="fk_study_by_id"),
    )
    op.add_column("job", sa.Column("study_id", sa.Integer(), nullable=True))
    op.add_column("job", sa.Column("variant", sa.String(80), nullable=True))
    op.create_foreign_key("fk_job_study_id", "job", "study", ["study_id"], ["id"])
    op.create_index("ix_job_study_id", "job", ["study_id"])


def downgrade() -> None:
    """Take this revision back."""
    op.drop_constraint("fk_job_study_id", "job", type_="foreignkey")
    op.drop_index("ix_job_study_id", "job")
    op.drop_column("job", "variant")
    op.drop_column("job", "study_id")
    op.drop_table("study")
