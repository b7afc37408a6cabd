"""The connection to MariaDB."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager
from functools import lru_cache

from sqlalchemy import Engine, create_engine, text
from sqlalchemy.exc import DBAPIError, IntegrityError, InterfaceError, OperationalError
from sqlalchemy.orm import Session, sessionmaker

from endurant.core.refusals import Conflict, Crossed, Invalid, Unavailable
from endurant.store.audit import seal_the_rest
from endurant.store.seals import watch_facts

DATABASE_VARIABLE = "ENDURANT_DATABASE"

# MariaDB's numbers for "cannot connect", "lost connection", "gone away", "shutting down".
_LOST = {1053, 1927, 2002, 2003, 2006, 2013, 4031}
# MariaDB's numbers for "lock wait timeout" and "deadlock".
_CROSSED = {1205, 1213}
# MariaDB's number for "duplicate entry".
_TWICE = 1062
# MariaDB's number for "packet bigger than max_allowed_packet".
_TOO_LARGE = 1153
MIN_PACKET = 100_000_000
"""Bytes that a server should take at once: the largest file and the longest recording fit in."""


def database_url() -> str:
    """The database of this process; raises Unavailable when none is named."""
    url = os.environ.get(DATABASE_VARIABLE)
    if not url:
        raise Unavailable("database.not-named", variable=DATABASE_VARIABLE)
    return url


@lru_cache(maxsize=4)
def engine_for(url: str) -> Engine:
    """One pool per database and process."""
    return create_engine(
        url,
        pool_pre_ping=True,
        pool_recycle=1800,
        pool_size=10,
        max_overflow=20,
        isolation_level="READ COMMITTED",
        connect_args={"connect_timeout": 5, "charset": "utf8mb4"},
    )


@contextmanager
def transaction() -> Iterator[Session]:
    """A session that commits at the end or leaves nothing behind; raises as `open_session` does."""
    with open_session() as session, session.begin():
        yield session
        seal_the_rest(session)


@contextmanager
def open_session() -> Iterator[Session]:
    """A session that keeps what it has read beyond a commit, and commits nothing by itself.

    Raises Unavailable when the database does not answer, Crossed when another transaction held
    what this one wanted.
    """
    factory = sessionmaker(engine_for(database_url()), expire_on_commit=False)
    try:
        with factory() as session:
            watch_facts(session)
            yield session
    except (OperationalError, InterfaceError, IntegrityError) as error:
        if _number(error) in _CROSSED:
            raise Crossed("database.same-moment") from error
        if _number(error) == _TWICE:
            raise Conflict("database.same-moment") from error
        if _number(error) == _TOO_LARGE:
            raise Invalid("database.too-large") from error
        if not is_lost(error):
            raise
        raise Unavailable("database.no-answer") from error


def packet_bytes() -> int:
    """How many bytes the server takes at once."""
    with engine_for(database_url()).connect() as connection:
        return int(connection.execute(text("SELECT @@max_allowed_packet")).scalar_one())


def is_lost(error: DBAPIError) -> bool:
    """The server is away, rather than unhappy with what was asked."""
    return error.connection_invalidated or _number(error) in _LOST


def _number(error: DBAPIError) -> object:
    return error.orig.args[0] if error.orig is not None and error.orig.args else None
