"""Who may test what, jobs that are changed or cancelled, products, and the lab rules of a job."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0009"
down_revision = "0008"

MOMENT = mysql.DATETIME(fsp=6)
NEW = {
    "person": (sa.Column("supervisor_id", sa.Integer(), nullable=True),),
    "run": (
        sa.Column("confirmed_by_id", sa.Integer(), nullable=True),
        sa.Column("confirmed_at", MOMENT, nullable=True),
    ),
    "job": (
        sa.Column("cancelled_at", MOMENT, nullable=True),
        sa.Column("cancelled_reason", sa.String(300), nullable=True),
        sa.Column("priority", sa.Integer(), nullable=True),
        sa.Column("client_words", sa.String(500), nullable=True),
        sa.Column("shelf", sa.String(80), nullable=True),
        sa.Column("house", sa.JSON(none_as_null=True), nullable=True),
        sa.Column("product_revision", sa.Integer(), nullable=True),
    ),
    "test": (
        sa.Column("held_at", MOMENT, nullable=True),
        sa.Column("held_reason", sa.String(300), nullable=True),
        sa.Column("dropped_at", MOMENT, nullable=True),
        sa.Column("dropped_reason", sa.String(300), nullable=True),
    ),
}


def upgrade() -> None:
    """Bring the tables to this revision."""
    for table, columns in NEW.items():
        for column in columns:
            op.add_column(table, column)
    op.create_foreign_key("fk_person_supervisor_id", "person", "person", ["supervisor_id"], ["id"])
    op.create_foreign_key("fk_run_confirmed_by_id", "run", "person", ["confirmed_by_id"], ["id"])
    op.create_table(
        "authorisation",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("method", sa.String(40), nullable=False),
        sa.Column("since", MOMENT, nullable=False),
        sa.Column("until", MOMENT, nullable=True),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.Column("withdrawn_at", MOMENT, nullable=True),
        sa.PrimaryKeyConstraint("id", name="pk_authorisation"),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name="fk_authorisation_person_id"),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name="fk_authorisation_by_id"),
    )
    op.create_index("ix_authorisation_method", "authorisation", ["method", "person_id"])
    op.create_table(
        "product",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("client", sa.String(120), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("specification", sa.JSON(), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_product"),
        sa.UniqueConstraint("client", "name", "revision", name="uq_product_client"),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name="fk_product_by_id"),
    )


def downgrade() -> None:
    """Take this revision back; authorisations, products and what was changed are lost."""
    op.drop_table("product")
    op.drop_table("authorisation")
    op.drop_constraint("fk_run_confirmed_by_id", "run", type_="foreignkey")
    op.drop_constraint("fk_person_supervisor_id", "person", type_="foreignkey")
    for table, columns in NEW.items():
        for column in columns:
            op.drop_column(table, column.name)
