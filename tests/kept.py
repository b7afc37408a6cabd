"""A laboratory that takes long to bring about: made once, and put back for each test after it.

Its stations keep the port of the first test: it is for what asks no device.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any, Generic, TypeVar

from sqlalchemy import insert, select, text
from sqlalchemy.engine import Connection

from endurant.store.engine import engine_for
from endurant.store.tables import Base
from endurant.work.use_cases.people.sign_in import sign_in
from tests.laboratory import PASSWORD, Bench

Made = TypeVar("Made")
TOUCHED = text(
    " UNION ALL ".join(
        f"SELECT '{table.name}' FROM DUAL WHERE EXISTS (SELECT 1 FROM {table.name})"
        for table in Base.metadata.sorted_tables
    )
    + " UNION ALL SELECT TABLE_NAME FROM information_schema.TABLES"
    " WHERE TABLE_SCHEMA = DATABASE() AND AUTO_INCREMENT > 1 AND TABLE_NAME <> 'alembic_version'"
)
"""The tables that hold a row, or that held one: their next id is not the first."""


def empty(connection: Connection) -> None:
    """Empty the tables that somebody touched; all others are empty still."""
    affected = sorted(set(connection.scalars(TOUCHED)))
    with _any_order(connection):
        for name in affected:
            connection.execute(text(f"TRUNCATE TABLE {name}"))


@contextmanager
def _any_order(connection: Connection) -> Iterator[None]:
    """Rows may come and go before those that they belong to."""
    connection.execute(text("SET FOREIGN_KEY_CHECKS = 0"))
    yield
    connection.execute(text("SET FOREIGN_KEY_CHECKS = 1"))


class Kept(Generic[Made]):
    """The rows of a laboratory as `make` left them, and what `make` returned."""

    def __init__(self, make: Callable[[Bench, str], Made]) -> None:
        self._make = make
        self._made: list[tuple[Made, dict[str, list[dict[str, Any]]]]] = []

    def put_back(self, bench: Bench, database: str) -> Made:
        """Have the laboratory as it was; the first time, make it. The technician signs in anew."""
        if not self._made:
            self._made.append((self._make(bench, database), _rows(database)))
            return self._made[0][0]
        made, rows = self._made[0]
        with engine_for(database).begin() as connection:
            empty(connection)
            with _any_order(connection):
                for table in Base.metadata.sorted_tables:
                    if rows[table.name]:
                        connection.execute(insert(table), rows[table.name])
        bench.token, bench.actor = sign_in(bench.login, PASSWORD)
        return made


def _rows(database: str) -> dict[str, list[dict[str, Any]]]:
    """Every row of every table."""
    with engine_for(database).connect() as connection:
        return {
            table.name: [dict(row) for row in connection.execute(select(table)).mappings()]
            for table in Base.metadata.sorted_tables
        }
