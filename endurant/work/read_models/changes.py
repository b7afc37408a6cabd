"""What has changed since somebody last looked, for those who would otherwise keep asking."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from sqlalchemy import func, select

from endurant.store.tables import EnclosureReading, JobCard
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View

OVERLAP = timedelta(seconds=10)
"""Transactions are committed in another order than they began in, and clocks differ."""


class Changed(View):
    """The jobs whose cards were written, and whether a room was read."""

    jobs: list[int]
    rooms: bool


class Lookout:
    """Remembers what it saw, so that each change is told once."""

    def __init__(self) -> None:
        self._since = datetime.now(UTC)
        self._versions: dict[int, int] | None = None
        self._newest: dict[int, datetime] | None = None

    def recent(self) -> Changed:
        """What changed shortly before the last look: a page that listens now may be older."""
        return Changed(jobs=sorted(self._versions or {}), rooms=False)

    def look(self) -> Changed:
        """What has changed since the last look; at the first, what changed shortly before it."""
        began = datetime.now(UTC)
        with transaction() as session:
            rows = session.execute(
                select(JobCard.job_id, JobCard.version).where(
                    JobCard.changed_at > self._since - OVERLAP
                )
            )
            versions: dict[int, int] = {row[0]: row[1] for row in rows}
            readings = session.execute(
                select(EnclosureReading.enclosure_id, func.max(EnclosureReading.at)).group_by(
                    EnclosureReading.enclosure_id
                )
            )
            newest: dict[int, datetime] = {row[0]: row[1] for row in readings}
        seen, self._versions = self._versions, versions
        read, self._newest = self._newest, newest
        self._since = began
        if seen is None or read is None:
            return self.recent()
        jobs = sorted(job_id for job_id, version in versions.items() if seen.get(job_id) != version)
        return Changed(jobs=jobs, rooms=read != newest)
