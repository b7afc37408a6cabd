"""The newest seal of every fact, kept on disk while the record is verified.

A laboratory of years has millions of facts; a dictionary of them would take the memory of the
machine. This is a database in a temporary file that is gone when it is closed.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Mapping
from types import TracebackType


class SealBook:
    """Seals by what they are called; None stands for a fact that was taken away."""

    def __init__(self) -> None:
        self._book = sqlite3.connect("")
        self._book.execute("PRAGMA synchronous = OFF")
        self._book.execute(
            "CREATE TABLE seal (key TEXT PRIMARY KEY, hash TEXT, seen INTEGER DEFAULT 0)"
            " WITHOUT ROWID"
        )

    def __enter__(self) -> SealBook:
        """Itself."""
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        """Close it, and with it forget everything."""
        self._book.close()

    def update(self, seals: Mapping[str, str | None]) -> None:
        """Newer seals take the place of older ones."""
        self._book.executemany(
            "INSERT INTO seal (key, hash) VALUES (?, ?)"
            " ON CONFLICT (key) DO UPDATE SET hash = excluded.hash",
            seals.items(),
        )

    def look_up(self, key: str) -> str | None:
        """The seal of a fact that is there, marked as seen; None where nothing speaks of it."""
        row = self._book.execute("SELECT hash FROM seal WHERE key = ?", (key,)).fetchone()
        if row is None:
            return None
        self._book.execute("UPDATE seal SET seen = 1 WHERE key = ?", (key,))
        seal: str | None = row[0]
        return seal

    def __contains__(self, key: str) -> bool:
        """An entry speaks of it."""
        row = self._book.execute("SELECT 1 FROM seal WHERE key = ?", (key,)).fetchone()
        return row is not None

    def unseen(self) -> Iterator[str]:
        """What is sealed as being there and was not looked up, in order."""
        rows = self._book.execute(
            "SELECT key FROM seal WHERE seen = 0 AND hash IS NOT NULL ORDER BY key"
        )
        for row in rows:
            yield row[0]
