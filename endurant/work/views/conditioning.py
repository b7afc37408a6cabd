"""What hangs in the enclosures, and what waits to be hung."""

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
    KeptGroup,
    KeptWaiting,
    served_now,
    waiting_in,
)
from endurant.work.facts.conditioning_models import (
    ConditioningView,
    EnclosureView,
    HangingGroup,
    WaitingGroup,
)
from endurant.work.facts.conditioning_progress import keeps_log
from endurant.work.facts.conditioning_tallies import house_policy, load_tallies
from endurant.work.facts.set_points import asked_in_words, atmosphere_here, atmosphere_in
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
_HANGING, _WAITING = TypeAdapter(list[KeptGroup]), TypeAdapter(list[KeptWaiting])
_groups: Remembered[tuple[list[KeptGroup], list[KeptWaiting]]] = Remembered(MAX_CARDS)


def conditioning() -> ConditioningView:
    """What hangs where, and what waits to be hung."""
    with transaction() as session:
        refresh_turned(session, clock.now())
        return on_board("conditioning", session, lambda: _view(session, clock.now()))


def _view(session: Session, now: datetime) -> ConditioningView:
    enclosures = list(session.scalars(open_enclosures()))
    hanging, waiting = kept_groups(session)
    shown = groups_served(session, enclosures, hanging, now)
    awaiting = all_waiting(enclosures, waiting, now)
    return ConditioningView(
        now=now,
        policy=house_policy(session),
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
        enclosure.places,
        enclosure.host,
        enclosure.port,
        enclosure.device,
    )
    return hashlib.sha256(repr(own).encode()).hexdigest()[:16]


def open_enclosures() -> Select[Enclosure]:
    """The enclosures that are in use."""
    return select(Enclosure).where(Enclosure.closed_at.is_(None)).order_by(Enclosure.id)


def kept_groups(
    session: Session, *, open_only: bool = False
) -> tuple[list[KeptGroup], list[KeptWaiting]]:
    """What the cards of all jobs, or of the open ones, keep of hanging and waiting.

    A card is read once by this process for each of its versions.
    """
    cards = select(JobCard.job_id, JobCard.version, JobCard.changed_at).where(JobCard.prepares)
    if open_only:
        cards = cards.where(JobCard.released.is_(False))
    keys = [tuple(row) for row in session.execute(cards.order_by(JobCard.due_at, JobCard.job_id))]
    kept = {key: _groups.get(key) for key in keys}
    missing = [key[0] for key, groups in kept.items() if groups is None]
    if missing:
        fresh = select(JobCard.job_id, JobCard.hanging, JobCard.waiting)
        by_id = {
            job_id: (_HANGING.validate_python(hanging), _WAITING.validate_python(waiting))
            for job_id, hanging, waiting in session.execute(
                fresh.where(JobCard.job_id.in_(missing))
            )
        }
        for key in keys:
            if kept[key] is None and key[0] in by_id:
                kept[key] = by_id[key[0]]
                _groups.put(key, by_id[key[0]])
    both = [groups for groups in kept.values() if groups is not None]
    return (
        [group for hanging, _ in both for group in hanging],
        [group for _, waiting in both for group in waiting],
    )


def groups_served(
    session: Session, enclosures: Sequence[Enclosure], hanging: Sequence[KeptGroup], now: datetime
) -> dict[int, list[HangingGroup]]:
    """The groups of each enclosure with what they have served, in order of hanging."""
    by_id = {enclosure.id: enclosure for enclosure in enclosures}
    awaited = [group for group in hanging if group.awaited]
    load_tallies(session, [(group.enclosure_id, group.hung_at) for group in awaited])
    shown: dict[int, list[HangingGroup]] = defaultdict(list)
    for group in sorted(hanging, key=lambda group: (group.hung_at, group.test_id)):
        enclosure = by_id.get(group.enclosure_id)
        if enclosure is not None:
            shown[enclosure.id].append(served_now(session, enclosure, group, now))
    return shown


def all_waiting(
    enclosures: Sequence[Enclosure], waiting: Sequence[KeptWaiting], now: datetime
) -> list[WaitingGroup]:
    """Every group that waits, those with a window first, the one that closes next before all."""
    rooms = [(enclosure.id, enclosure.atmosphere) for enclosure in enclosures]
    ordered = sorted(waiting, key=lambda group: (group.latest_at is None, group.latest_at or now))
    return [waiting_in(rooms, group) for group in ordered]


def _enclosure_view(
    session: Session, enclosure: Enclosure, groups: list[HangingGroup]
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
        places=enclosure.places,
        host=enclosure.host,
        port=enclosure.port,
        device=enclosure.device,
        revision=revision_of(enclosure),
        set_point=atmosphere.in_words(),
        asked=asked_in_words(enclosure),
        asked_by=(enclosure.asked_setting or {}).get("by_id"),
        temperature_c=atmosphere.temperature_c,
        temperature_tolerance_c=atmosphere.temperature_tolerance_c,
        humidity_percent=atmosphere.humidity_percent,
        humidity_tolerance_percent=atmosphere.humidity_tolerance_percent,
        least_minutes=atmosphere.least_minutes,
        logged=keeps_log(session, enclosure),
        simulated=enclosure.simulated,
        line_says=enclosure.line_says,
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
    words = f"{newest.temperature_c:.1f}\u00a0°C"
    if newest.humidity_percent is None:
        return words
    return f"{words}, {newest.humidity_percent:.1f}\u00a0%RH"
