"""Bringing a database to the tables of this program, and back."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.store.audit import seal_everything
from endurant.store.engine import engine_for
from endurant.store.tables import AuditHead

_FOLDER = Path(__file__).parent / "migrations"


def alembic_config(url: str) -> Config:
    """Alembic's configuration for one database, without an ini file."""
    config = Config()
    config.set_main_option("script_location", str(_FOLDER))
    config.attributes["url"] = url
    return config


def upgrade(url: str) -> None:
    """Bring the database to the newest revision; facts that have no seal yet get one."""
    command.upgrade(alembic_config(url), "head")
    with Session(engine_for(url)) as session, session.begin():
        head = session.execute(select(AuditHead).with_for_update()).scalar_one_or_none()
        if head is not None and head.sealed_from is None:
            seal_everything(session)
            head.sealed_from = head.last_id


def downgrade(url: str, to: str = "base") -> None:
    """Take the database back, by default to nothing."""
    command.downgrade(alembic_config(url), to)


def revisions(url: str) -> tuple[str | None, str | None]:
    """The revision that the database is at, and the newest one."""
    with engine_for(url).connect() as connection:
        at = MigrationContext.configure(connection).get_current_revision()
    return at, ScriptDirectory.from_config(alembic_config(url)).get_current_head()
