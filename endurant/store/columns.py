"""Column types that MariaDB does not have by itself."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import JSON, LargeBinary
from sqlalchemy.dialects.mysql import DATETIME, LONGBLOB, LONGTEXT
from sqlalchemy.engine import Dialect
from sqlalchemy.types import TypeDecorator

Bytes = LargeBinary().with_variant(LONGBLOB(), "mysql", "mariadb")
Json = JSON().with_variant(JSON(), "mysql", "mariadb")
LongText = LONGTEXT


class Moment(TypeDecorator[datetime]):
    """A moment, stored in UTC to the microsecond and always read back with its zone."""

    impl = DATETIME(fsp=6)
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> Any:
        """To UTC; a moment without a zone is refused."""
        if value is None:
            return None
        if value.tzinfo is None:
            raise ValueError("a moment without a time zone cannot be stored")
        return value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: Any, dialect: Dialect) -> datetime | None:
        """Back with its zone."""
        return None if value is None else value.replace(tzinfo=UTC)
