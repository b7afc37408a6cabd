"""Enclosures, what hangs in them, and the clocks that run."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.clocks import Clock
from endurant.core.conditioning import find_atmosphere
from endurant.core.methods import find_method
from endurant.core.refusals import Conflict, Invalid
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.engine import transaction
from endurant.store.tables import Enclosure, Job, Specimen, Stay
from endurant.work.jobs import Asked
from endurant.work.people import Actor
from endurant.work.states import (
    called_specimens,
    open_stay,
    refuse_released,
    specimen_or_refuse,
    standing_void,
    stay_served,
)
from endurant.work.views import View


class HangAsked(Asked):
    """Specimens hung in, or taken out, together."""

    specimen_ids: list[int] = Field(min_length=1, max_length=500)


class HangingSpecimen(View):
    """One specimen in an enclosure."""

    specimen_id: int
    code: str
    label: str
    hung_at: datetime
    ready_at: datetime
    ready: bool


class HangingGroup(View):
    """The specimens of one job that were hung in together; `awaited` while a test needs them."""

    job_id: int
    job_number: str
    product: str
    hung_at: datetime
    ready_at: datetime
    ready: bool
    awaited: bool
    specimens: list[HangingSpecimen]


class EnclosureView(View):
    """An enclosure and everything that hangs in it."""

    id: int
    name: str
    atmosphere: str
    set_point: str
    least_minutes: int
    groups: list[HangingGroup]


class WaitingGroup(View):
    """Cut specimens of one job that hang nowhere yet."""

    job_id: int
    job_number: str
    product: str
    atmosphere: str
    specimens: list[dict[str, str | int]]


class ConditioningView(View):
    """The conditioning screen: what hangs where, and what waits to be hung."""

    now: datetime
    enclosures: list[EnclosureView]
    waiting: list[WaitingGroup]


class ClockView(View):
    """One tape of the clock rail; `leads_to` is the path of the screen it belongs to."""

    kind: str
    says: str
    whose: str
    starts_at: datetime
    ends_at: datetime
    when_missed: str
    leads_to: str


class ClocksView(View):
    """All running clocks with the server's time, so that a wrong clock at a desk does no harm."""

    now: datetime
    clocks: list[ClockView]


def conditioning() -> ConditioningView:
    """What hangs where, and what waits to be hung."""
    now = clock.now()
    with transaction() as session:
        enclosures = [
            _enclosure_view(session, enclosure, now)
            for enclosure in session.scalars(select(Enclosure).order_by(Enclosure.id))
        ]
        return ConditioningView(now=now, enclosures=enclosures, waiting=_waiting(session))


def hang(actor: Actor, enclosure_id: int, asked: HangAsked) -> ConditioningView:
    """Hang specimens in; each one's clock starts now. All of them, or none."""
    actor.must("condition")
    now = clock.now()
    with transaction() as session:
        enclosure = session.get(Enclosure, enclosure_id)
        if enclosure is None:
            raise Invalid(f"there is no enclosure with id {enclosure_id}", field="enclosure_id")
        for specimen_id in asked.specimen_ids:
            specimen = specimen_or_refuse(session, specimen_id)
            job = refuse_released(session, specimen.test.job_id)
            if job.cut_at is None:
                raise Conflict(
                    f"{specimen.code} is not cut yet; cut the sheet of {job.number} first"
                )
            hanging = open_stay(specimen)
            if hanging is not None:
                raise Conflict(f"{specimen.code} hangs in {hanging.enclosure.name} already")
            session.add(
                Stay(
                    specimen_id=specimen.id,
                    enclosure_id=enclosure.id,
                    open_for=specimen.id,
                    hung_at=now,
                    hung_by_id=actor.id,
                )
            )
        session.flush()
        _note_stay(session, actor, asked.specimen_ids, "hang", f"into {enclosure.name}")
    return conditioning()


def take_out(actor: Actor, asked: HangAsked) -> ConditioningView:
    """Take specimens out; what they served is kept with them. All of them, or none."""
    actor.must("condition")
    now = clock.now()
    with transaction() as session:
        for specimen_id in asked.specimen_ids:
            specimen = specimen_or_refuse(session, specimen_id)
            refuse_released(session, specimen.test.job_id)
            stay = open_stay(specimen)
            if stay is None:
                raise Conflict(f"{specimen.code} hangs nowhere")
            stay.taken_at, stay.open_for = now, None
        session.flush()
        _note_stay(session, actor, asked.specimen_ids, "take-out", "out of the enclosure")
    return conditioning()


def _note_stay(
    session: Session, actor: Actor, specimen_ids: Sequence[int], action: str, where: str
) -> None:
    """One entry for each job, naming its specimens."""
    by_job: dict[int, list[str]] = {}
    for specimen_id in specimen_ids:
        specimen = specimen_or_refuse(session, specimen_id)
        by_job.setdefault(specimen.test.job_id, []).append(specimen.label)
    for job_id, labels in by_job.items():
        verb = "hung" if action == "hang" else "took"
        record(
            session,
            person_id=actor.id,
            action=action,
            entity="job",
            entity_id=job_id,
            job_id=job_id,
            words=f"{actor.name} {verb} {len(labels)} specimens {where}",
            after={"specimens": labels},
        )


def clocks() -> ClocksView:
    """Every running clock: stays that are not over, one tape for a job and enclosure."""
    now = clock.now()
    view = conditioning()
    found = [
        Clock(
            kind="at-least",
            says="Served" if group.ready else f"{enclosure.name}",
            whose=f"{group.job_number} {group.product}",
            starts_at=group.hung_at,
            ends_at=group.ready_at,
            when_missed="tested too early, the report carries a deviation",
            leads_to=f"/bench/{group.job_id}" if group.ready else "/conditioning",
        )
        for enclosure in view.enclosures
        for group in enclosure.groups
        if group.awaited
    ]
    found.sort(key=lambda clock: (clock.ends_at <= now, clock.ends_at))
    return ClocksView(now=now, clocks=[ClockView.model_validate(clock) for clock in found])


def _enclosure_view(session: Session, enclosure: Enclosure, now: datetime) -> EnclosureView:
    atmosphere = find_atmosphere(enclosure.atmosphere)
    stays = session.scalars(
        select(Stay)
        .where(Stay.enclosure_id == enclosure.id, Stay.open_for.is_not(None))
        .order_by(Stay.hung_at, Stay.id)
    )
    groups: dict[tuple[int, datetime], list[Stay]] = {}
    for stay in stays:
        groups.setdefault((stay.specimen.test.job_id, stay.hung_at), []).append(stay)
    return EnclosureView(
        id=enclosure.id,
        name=enclosure.name,
        atmosphere=enclosure.atmosphere,
        set_point=atmosphere.in_words(),
        least_minutes=atmosphere.least_minutes,
        groups=[_group_view(members, now) for members in groups.values()],
    )


def _group_view(stays: list[Stay], now: datetime) -> HangingGroup:
    job = stays[0].specimen.test.job
    told = stay_served(stays[0], now)
    return HangingGroup(
        job_id=job.id,
        job_number=job.number,
        product=job.product,
        hung_at=stays[0].hung_at,
        ready_at=told.ready_at,
        ready=told.ready,
        awaited=any(_is_awaited(stay.specimen) for stay in stays),
        specimens=[
            HangingSpecimen(
                specimen_id=stay.specimen_id,
                code=stay.specimen.code,
                label=stay.specimen.label,
                hung_at=stay.hung_at,
                ready_at=told.ready_at,
                ready=told.ready,
            )
            for stay in stays
        ],
    )


def _is_awaited(specimen: Specimen) -> bool:
    """A test still waits for it: it is called for, and not a spare that nothing calls."""
    released = specimen.test.job.released_at is not None
    return not released and specimen.id in {one.id for one in called_specimens(specimen.test)}


def _waiting(session: Session) -> list[WaitingGroup]:
    """Specimens that are cut, not hung, not tested and not void, job by job."""
    groups = []
    jobs = session.scalars(
        select(Job).where(Job.cut_at.is_not(None), Job.released_at.is_(None)).order_by(Job.due_at)
    )
    for job in jobs:
        for test in job.tests:
            waiting = [
                one
                for one in test.specimens
                if one.x_mm is not None
                and not one.stays
                and not one.runs
                and standing_void(one) is None
            ]
            if waiting:
                groups.append(
                    WaitingGroup(
                        job_id=job.id,
                        job_number=job.number,
                        product=job.product,
                        atmosphere=find_method(test.method).guide.atmosphere,
                        specimens=[
                            {"id": one.id, "label": one.label, "code": one.code} for one in waiting
                        ],
                    )
                )
    return groups
