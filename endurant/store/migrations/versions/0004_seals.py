"""Where sealing begins; samples that are no sheet; where wrong passwords came from."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    """Bring the tables to this revision."""
    op.add_column("audit_head", sa.Column("sealed_from", sa.BigInteger(), nullable=True))
    op.add_column(
        "job", sa.Column("form", sa.String(16), nullable=False, server_default=sa.text("'sheet'"))
    )
    op.add_column("job", sa.Column("arrived", sa.JSON(), nullable=True))
    for name in ("width_mm", "length_mm"):
        op.alter_column("job", name, existing_type=mysql.DOUBLE(), nullable=True)
    op.add_column("enclosure", sa.Column("closed_at", mysql.DATETIME(fsp=6), nullable=True))
    op.add_column(
        "failed_sign_in",
        sa.Column("address", sa.String(64), nullable=False, server_default=sa.text("''")),
    )


def downgrade() -> None:
    """Take the tables back to the revision before."""
    op.drop_column("failed_sign_in", "address")
    op.drop_column("enclosure", "closed_at")
    for name in ("width_mm", "length_mm"):
        op.execute(f"UPDATE job SET {name} = 0 WHERE {name} IS NULL")
        op.alter_column("job", name, existing_type=mysql.DOUBLE(), nullable=False)
    op.drop_column("job", "arrived")
    op.drop_column("job", "form")
    op.drop_column("audit_head", "sealed_from")
