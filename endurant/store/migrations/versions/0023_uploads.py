"""Files that readings are imported from stay on the server, and a run names its file by hash."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0023"
down_revision = "0022"


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.create_table(
        "source_file",
        sa.Column("sha256", sa.String(64), primary_key=True),
        sa.Column("content", mysql.LONGBLOB(), nullable=False),
    )
    op.create_table(
        "upload",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("test_id", sa.Integer(), sa.ForeignKey("test.id"), nullable=False, index=True),
        sa.Column("by_id", sa.Integer(), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False, index=True),
        sa.Column("files", sa.JSON(), nullable=False),
        sa.Column("specimens_by", sa.String(80), nullable=True),
        sa.Column("columns", sa.JSON(), nullable=False),
        sa.Column("labels", sa.JSON(), nullable=False),
        sa.Column("used_at", mysql.DATETIME(fsp=6), nullable=True),
    )
    op.add_column("run", sa.Column("source_sha256", sa.String(64), nullable=True))


def downgrade() -> None:
    """Take this revision back."""
    op.drop_column("run", "source_sha256")
    op.drop_table("upload")
    op.drop_table("source_file")
