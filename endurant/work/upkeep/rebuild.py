"""The cards of jobs made again from the facts, and compared with them."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from datetime import datetime
from typing import Any

from sqlalchemy import or_, select

from endurant.store import clock
from endurant.store.tables import (
    Job,
    JobCard,
)
from endurant.work.base.transactions import transaction
from endurant.work.read_models.job_cards import WRITTEN, card_values, refresh_jobs


def rebuild(progress: Callable[[str], None] = lambda _: None, *, open_only: bool = False) -> int:
    """Write every card anew, or those of the open jobs, job by job; how many."""
    with transaction() as session:
        own = select(Job.id).order_by(Job.id)
        if open_only:
            own = own.where(Job.released_at.is_(None))
        ids = list(session.scalars(own))
    for place, job_id in enumerate(ids, start=1):
        with transaction() as session:
            refresh_jobs(session, [job_id])
        if place % 100 == 0:
            progress(f"{place} of {len(ids)} jobs")
    return len(ids)


def rebuild_missing() -> int:
    """Write the cards of jobs that have none, as after an upgrade; how many."""
    with transaction() as session:
        ids = list(
            session.scalars(
                select(Job.id)
                .outerjoin(JobCard, JobCard.job_id == Job.id)
                .where(or_(JobCard.job_id.is_(None)))
            )
        )
    for job_id in ids:
        with transaction() as session:
            refresh_jobs(session, [job_id])
    return len(ids)


def stale_cards() -> Iterator[str]:
    """One sentence for each job whose card says something else than its facts."""
    with transaction() as session:
        numbers = {row[0]: row[1] for row in session.execute(select(Job.id, Job.number))}
    for job_id, number in sorted(numbers.items()):
        with transaction() as session:
            now = clock.now()
            card, job = session.get(JobCard, job_id), session.get_one(Job, job_id)
            if card is None:
                yield f"the card of {number} is missing; run `endurant rebuild`"
                continue
            if card.turns_at is not None and card.turns_at <= now:
                continue
            values = card_values(session, job, now)
            wrong = [
                name for name in WRITTEN if _plain(getattr(card, name)) != _plain(values[name])
            ]
            if wrong:
                yield (
                    f"the card of {number} is not what its facts give ({', '.join(wrong)}); "
                    "run `endurant rebuild`"
                )


def _plain(value: Any) -> Any:
    """A value as the database gives it back."""
    if isinstance(value, list):
        return json.loads(json.dumps(value))
    return value.replace(microsecond=0) if isinstance(value, datetime) else value
