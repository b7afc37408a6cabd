"""Windows that closed: each becomes a deviation by itself, once, whether anybody looks or not."""

from __future__ import annotations

import json
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.conditioning.atmospheres import find_atmosphere
from endurant.core.messages import Message
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.tables import AuditEntry, Job, Specimen
from endurant.work.base.memory import Remembered
from endurant.work.base.transactions import transaction
from endurant.work.facts.conditioning_groups import KeptWaiting
from endurant.work.facts.run_facts import RunSettings
from endurant.work.facts.status import last_run
from endurant.work.views.conditioning import stored_groups

ACTION = "window-closed"
OVERRUN = "window-overrun"
LOOK_EVERY_S = 5.0
_noted: Remembered[bool] = Remembered(500)
"""Windows that this process has found written down already."""


def watch_windows() -> None:
    """Write down every window that has closed: what a watch does again and again."""
    now = clock.now()
    with transaction() as session:
        _, waiting = stored_groups(session, open_only=True)
    for group in waiting:
        if group.latest_at is None or group.latest_at > now:
            continue
        if _noted.get((group.test_id, group.latest_at)) is None:
            _note(group, group.latest_at)
            _noted.put((group.test_id, group.latest_at), True)


def _note(group: KeptWaiting, latest_at: datetime) -> None:
    with transaction() as session:
        job = session.get(Job, group.job_id, with_for_update=True)
        if job is None or any(
            latest_at.isoformat() in entry.facts for entry in _entries(session, group.job_id)
        ):
            return
        labels = ", ".join(specimen.label for specimen in group.specimens)
        where = find_atmosphere(group.atmosphere).title.lower() if group.atmosphere else "the test"
        record(
            session,
            person_id=None,
            action=ACTION,
            entity="test",
            entity_id=group.test_id,
            job_id=group.job_id,
            message=Message("audit.window-closed", {"labels": labels, "where": where}),
            after={
                "latest_at": latest_at.isoformat(),
                "specimens": [specimen.id for specimen in group.specimens],
            },
        )


def _entries(session: Session, job_id: int) -> list[AuditEntry]:
    own = select(AuditEntry).where(AuditEntry.job_id == job_id, AuditEntry.action == ACTION)
    return list(session.scalars(own.order_by(AuditEntry.id)))


def missed_windows(session: Session, job: Job) -> list[str]:
    """What a report says of windows that closed, where no run of the specimen says it already.

    One that was placed again begins its chain anew, and nothing was missed.
    """
    said = []
    for entry in _entries(session, job.id):
        facts = json.loads(entry.facts)["after"]
        latest_at = datetime.fromisoformat(facts["latest_at"])
        own = select(Specimen).where(Specimen.id.in_(facts["specimens"])).order_by(Specimen.id)
        missed = [each.label for each in session.scalars(own) if _missed(each, latest_at)]
        if missed:
            at = f"{latest_at:%d %b at %H:%M} UTC"
            said.append(Message("window.missed", {"labels": missed, "at": at}).text)
    return said


def _missed(specimen: Specimen, latest_at: datetime) -> bool:
    run = last_run(specimen)
    if run is None or any(period.placed_at >= latest_at for period in specimen.periods):
        return False
    deviations = RunSettings.model_validate(run.settings).deviations
    return all(deviation.code != OVERRUN for deviation in deviations)
