"""The specimens in each conditioning location, and those that wait."""

from __future__ import annotations

import hashlib
from collections import defaultdict
from collections.abc import Sequence
from datetime import datetime

from pydantic import TypeAdapter
from sqlalchemy import Select, select
from sqlalchemy.orm import Session

from endurant.core.conditioning.atmospheres import ATMOSPHERES
from endurant.core.methods.safety import CHAMBER, LOCAL, OVEN
from endurant.store import clock
from endurant.store.tables import Enclosure, EnclosureReading, JobCard
from endurant.work.base.memory import Remembered
from endurant.work.base.transactions import transaction
from endurant.work.facts.conditioning_groups import (
    KeptWaiting,
    StoredGroup,
    elapsed_now,
    waiting_in,
)
from endurant.work.facts.conditioning_models import (
    ConditioningGroup,
    ConditioningView,
    EnclosureView,
    WaitingGroup,
)
from endurant.work.facts.conditioning_progress import keeps_log
from endurant.work.facts.conditioning_tallies import lab_policy, load_tallies
from endurant.work.facts.set_points import atmosphere_here, atmosphere_in, requested_in_words
from endurant.work.read_models.board import on_board
from endurant.work.read_models.job_cards import refresh_turned

CAUTIONS = {
    "oven-105": (OVEN, LOCAL),
    "pre-conditioning": (OVEN, LOCAL),
    "chamber": (CHAMBER, LOCAL),
}
"""What can hurt at an enclosure, by its atmosphere."""

MAX_WAITING = 100
MAX_CARDS = 5000
_PLACED, _WAITING = TypeAdapter(list[StoredGroup]), TypeAdapter(list[KeptWaiting])
_groups: Remembered[tuple[list[StoredGroup], list[KeptWaiting]]] = Remembered(MAX_CARDS)


def conditioning() -> ConditioningView:
    """The specimens in each conditioning location, and those that wait."""
    with transaction() as session:
        refresh_turned(session, clock.now())
        return on_board("conditioning", session, lambda: _view(session, clock.now()))


def _view(session: Session, now: datetime) -> ConditioningView:
    enclosures = list(session.scalars(open_enclosures()))
    placed, waiting = stored_groups(session)
    shown = groups_counted(session, enclosures, placed, now)
    awaiting = all_waiting(enclosures, waiting, now)
    return ConditioningView(
        now=now,
        policy=lab_policy(session),
        atmospheres={
            atmosphere.id: f"{atmosphere.title}, {atmosphere.in_words()}"
            for atmosphere in (atmosphere_here(session, each) for each in ATMOSPHERES)
        },
        enclosures=[
            _enclosure_view(session, enclosure, shown[enclosure.id]) for enclosure in enclosures
        ],
        waiting=awaiting[:MAX_WAITING],
        waiting_more=max(len(awaiting) - MAX_WAITING, 0),
    )


def revision_of(enclosure: Enclosure) -> str:
    """What stands for an enclosure as it is, so that nobody mends what they have not seen."""
    own = (
        enclosure.name,
        enclosure.atmosphere,
        enclosure.capacity,
        enclosure.host,
        enclosure.port,
        enclosure.device,
    )
    return hashlib.sha256(repr(own).encode()).hexdigest()[:16]


def open_enclosures() -> Select[Enclosure]:
    """The enclosures that are in use."""
    return select(Enclosure).where(Enclosure.closed_at.is_(None)).order_by(Enclosure.id)


def stored_groups(
    session: Session, *, open_only: bool = False
) -> tuple[list[StoredGroup], list[KeptWaiting]]:
    """The groups in conditioning and waiting, from the cards of all jobs or of the open ones.

    A card is read once by this process for each of its versions.
    """
    cards = select(JobCard.job_id, JobCard.version, JobCard.changed_at).where(JobCard.prepares)
    if open_only:
        cards = cards.where(JobCard.released.is_(False))
    keys = [tuple(row) for row in session.execute(cards.order_by(JobCard.due_at, JobCard.job_id))]
    kept = {key: _groups.get(key) for key in keys}
    missing = [key[0] for key, groups in kept.items() if groups is None]
    if missing:
        fresh = select(JobCard.job_id, JobCard.placed, JobCard.waiting)
        by_id = {
            job_id: (_PLACED.validate_python(placed), _WAITING.validate_python(waiting))
            for job_id, placed, waiting in session.execute(fresh.where(JobCard.job_id.in_(missing)))
        }
        for key in keys:
            if kept[key] is None and key[0] in by_id:
                kept[key] = by_id[key[0]]
                _groups.put(key, by_id[key[0]])
    both = [groups for groups in kept.values() if groups is not None]
    return (
        [group for placed, _ in both for group in placed],
        [group for _, waiting in both for group in waiting],
    )


def groups_counted(
    session: Session, enclosures: Sequence[Enclosure], placed: Sequence[StoredGroup], now: datetime
) -> dict[int, list[ConditioningGroup]]:
    """The groups of each enclosure with their progress, in order of placing."""
    by_id = {enclosure.id: enclosure for enclosure in enclosures}
    awaited = [group for group in placed if group.awaited]
    load_tallies(session, [(group.enclosure_id, group.placed_at) for group in awaited])
    shown: dict[int, list[ConditioningGroup]] = defaultdict(list)
    for group in sorted(placed, key=lambda group: (group.placed_at, group.test_id)):
        enclosure = by_id.get(group.enclosure_id)
        if enclosure is not None:
            shown[enclosure.id].append(elapsed_now(session, enclosure, group, now))
    return shown


def all_waiting(
    enclosures: Sequence[Enclosure], waiting: Sequence[KeptWaiting], now: datetime
) -> list[WaitingGroup]:
    """Every group that waits, those with a window first, the one that closes next before all."""
    rooms = [(enclosure.id, enclosure.atmosphere) for enclosure in enclosures]
    ordered = sorted(waiting, key=lambda group: (group.latest_at is None, group.latest_at or now))
    return [waiting_in(rooms, group) for group in ordered]


def _enclosure_view(
    session: Session, enclosure: Enclosure, groups: list[ConditioningGroup]
) -> EnclosureView:
    atmosphere = atmosphere_in(enclosure)
    newest = session.scalar(
        select(EnclosureReading)
        .where(EnclosureReading.enclosure_id == enclosure.id)
        .order_by(EnclosureReading.at.desc())
        .limit(1)
    )
    return EnclosureView(
        id=enclosure.id,
        name=enclosure.name,
        atmosphere=enclosure.atmosphere,
        capacity=enclosure.capacity,
        host=enclosure.host,
        port=enclosure.port,
        device=enclosure.device,
        revision=revision_of(enclosure),
        set_point=atmosphere.in_words(),
        requested=requested_in_words(enclosure),
        requested_by=(enclosure.requested_setting or {}).get("by_id"),
        temperature_c=atmosphere.temperature_c,
        temperature_tolerance_c=atmosphere.temperature_tolerance_c,
        humidity_percent=atmosphere.humidity_percent,
        humidity_tolerance_percent=atmosphere.humidity_tolerance_percent,
        least_minutes=atmosphere.least_minutes,
        logged=keeps_log(session, enclosure),
        simulated=enclosure.simulated,
        line_message=enclosure.line_message,
        read_at=newest.at if newest else None,
        reads=_reads(newest),
        in_tolerance=None
        if newest is None
        else atmosphere.holds(newest.temperature_c, newest.humidity_percent),
        cautions=[*CAUTIONS.get(enclosure.atmosphere, ())],
        groups=groups,
    )


def _reads(newest: EnclosureReading | None) -> str:
    if newest is None:
        return ""
    wording = f"{newest.temperature_c:.1f}\u00a0°C"
    if newest.humidity_percent is None:
        return wording
    return f"{wording}, {newest.humidity_percent:.1f}\u00a0%RH"
