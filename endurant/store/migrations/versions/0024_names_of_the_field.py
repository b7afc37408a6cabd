"""Tables and columns have the names that laboratories use.

The seals keep the names of the releases that wrote them (`endurant.store.seals.SEALED_AS`). What is
computed from the facts is emptied, and computed again when the server starts.
"""

from alembic import op

revision = "0024"
down_revision = "0023"

TABLES = {"stay": "conditioning_period", "stay_tally": "conditioning_tally"}

COLUMNS = {
    "job": {"client_words": "client_remark", "house": "lab_settings"},
    "specimen": {"place": "position", "further_places": "further_positions"},
    "void": {"words": "remark"},
    "enclosure": {
        "places": "capacity",
        "asked_setting": "requested_setting",
        "line_says": "line_message",
    },
    "conditioning_period": {
        "hung_at": "placed_at",
        "taken_at": "removed_at",
        "hung_by_id": "placed_by_id",
    },
    "instrument": {"least": "range_min", "most": "range_max"},
    "gauge": {"least": "range_min", "most": "range_max"},
    "run": {
        "line_says": "line_message",
        "source_said": "source_notes",
        "stop_wanted": "stop_requested",
        "beside": "other_readings",
    },
    "bench_event": {"takes_back": "undoes"},
    "audit_entry": {"words": "text"},
    "instrument_event": {"words": "text"},
    "reference_check": {"last_says": "last_message"},
    "reference_reading": {"says": "message"},
    "custody_event": {"place": "location", "words": "remark"},
    "job_card": {"wanted": "required", "trouble": "problem", "hanging": "placed"},
    "test_card": {"trouble": "problem"},
    "conditioning_tally": {"hung_at": "placed_at"},
}

INDEXES = {
    "ix_stay_hung_together": "ix_conditioning_period_together",
    "ix_stay_enclosure_id": "ix_conditioning_period_enclosure_id",
    "ix_stay_specimen_id": "ix_conditioning_period_specimen_id",
    "uq_stay_open_for": "uq_conditioning_period_open_for",
}

KEYS = (
    ("conditioning_period", "stay", "enclosure_id", "enclosure"),
    ("conditioning_period", "stay", "placed_by_id", "person"),
    ("conditioning_period", "stay", "specimen_id", "specimen"),
    ("conditioning_tally", "stay_tally", "enclosure_id", "enclosure"),
)
"""Table, its old name, column and referenced table of every foreign key with an old name."""

COMPUTED = ("job_card", "conditioning_tally")


def upgrade() -> None:
    """Bring the tables to this revision."""
    for old, new in TABLES.items():
        op.rename_table(old, new)
    for table, columns in COLUMNS.items():
        _rename_columns(table, columns)
    for old, new in INDEXES.items():
        op.execute(f"ALTER TABLE conditioning_period RENAME INDEX {old} TO {new}")
    for table, before, column, of in KEYS:
        was = {"placed_by_id": "hung_by_id"}.get(column, column)
        op.drop_constraint(f"fk_{before}_{was}", table, type_="foreignkey")
        op.create_foreign_key(f"fk_{table}_{column}", table, of, [column], ["id"])
    for table in COMPUTED:
        op.execute(f"DELETE FROM {table}")


def downgrade() -> None:
    """Take this revision back."""
    for table, before, column, of in KEYS:
        was = {"placed_by_id": "hung_by_id"}.get(column, column)
        op.drop_constraint(f"fk_{table}_{column}", table, type_="foreignkey")
        op.create_foreign_key(f"fk_{before}_{was}", table, of, [column], ["id"])
    for old, new in INDEXES.items():
        op.execute(f"ALTER TABLE conditioning_period RENAME INDEX {new} TO {old}")
    for table, columns in COLUMNS.items():
        _rename_columns(table, {new: old for old, new in columns.items()})
    for table in COMPUTED:
        op.execute(f"DELETE FROM {table}")
    for old, new in TABLES.items():
        op.rename_table(new, old)


def _rename_columns(table: str, columns: dict[str, str]) -> None:
    renamed = ", ".join(f"RENAME COLUMN `{old}` TO `{new}`" for old, new in columns.items())
    op.execute(f"ALTER TABLE `{table}` {renamed}")
