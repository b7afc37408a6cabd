"""Enclosures, what hangs in them, and the clocks that run."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

from pydantic import Field
from sqlalchemy import Select, select
from sqlalchemy.orm import Session, joinedload

from endurant.core.chains import Stage, Standing
from endurant.core.clocks import Clock
from endurant.core.conditioning import (
    PRE_CONDITIONING,
    find_atmosphere,
    served_by_clock,
    serves_for,
)
from endurant.core.methods import find_method
from endurant.core.methods.safety import CHAMBER, LOCAL, OVEN
from endurant.core.refusals import Conflict, Invalid
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.engine import transaction
from endurant.store.tables import Enclosure, EnclosureReading, Job, Specimen, Stay, Test, Weighing
from endurant.work.asked import Asked
from endurant.work.calling import called_specimens
from endurant.work.people import Actor
from endurant.work.serving import (
    atmosphere_in,
    count_stay,
    equilibrium_of,
    facts_of,
    house_policy,
    keeps_log,
    next_stage,
    stages_for,
    standing_of,
)
from endurant.work.states import (
    is_to_cut,
    last_run,
    open_stay,
    refuse_released,
    specimen_or_refuse,
    standing_void,
)
from endurant.work.views import View

CAUTIONS = {
    "oven-105": (OVEN, LOCAL),
    "pre-conditioning": (OVEN, LOCAL),
    "chamber": (CHAMBER, LOCAL),
}
"""What can hurt at an enclosure, by its atmosphere."""


class HangAsked(Asked):
    """Specimens hung in, or taken out, together."""

    specimen_ids: list[int] = Field(min_length=1, max_length=500)


class WeighingAsked(Asked):
    """The mass of a specimen while it hangs."""

    mass_g: float = Field(gt=0, le=1e6, allow_inf_nan=False)


class WeighingView(View):
    """One weighing."""

    at: datetime
    mass_g: float


class HangingSpecimen(View):
    """One specimen in an enclosure, with its weighings there."""

    specimen_id: int
    code: str
    label: str
    ready: bool
    counted_by: str
    weighings: list[WeighingView]
    equilibrium: str | None


class HangingGroup(View):
    """The specimens of one test that were hung in together; `awaited` while a test needs them.

    Minutes are told under both schools. `runs_out_at` is when the time was or will be served,
    None while the log proves nothing or is out of tolerance. `then` says what comes next.
    """

    job_id: int
    job_number: str
    product: str
    test: str
    hung_at: datetime
    runs_out_at: datetime | None
    ready: bool
    counted_by: str
    least_minutes: float
    minutes: float
    restart_minutes: float
    subtract_minutes: float
    outside_minutes: float
    unproven_minutes: float
    excursions: int
    counts: bool
    awaited: bool
    then: str
    specimens: list[HangingSpecimen]


class EnclosureView(View):
    """An enclosure and everything that hangs in it."""

    id: int
    name: str
    atmosphere: str
    set_point: str
    temperature_c: float
    temperature_tolerance_c: float
    humidity_percent: float | None
    humidity_tolerance_percent: float | None
    least_minutes: float
    logged: bool
    simulated: bool
    line_says: str
    read_at: datetime | None
    reads: str
    in_tolerance: bool | None
    cautions: list[str]
    groups: list[HangingGroup]


class WaitingSpecimen(View):
    """One specimen that waits to be hung."""

    id: int
    label: str
    code: str


class WaitingGroup(View):
    """Specimens of one test that are to be hung next in one atmosphere.

    `latest_at`: the moment by which that must be done, where there is one. `damp`: the sample
    came damp, so that a stay in the pre-conditioning cabinet is offered first.
    """

    job_id: int
    job_number: str
    product: str
    test: str
    atmosphere: str
    wanted: str
    enclosures: list[int]
    latest_at: datetime | None
    damp: bool
    specimens: list[WaitingSpecimen]


class ConditioningView(View):
    """The conditioning screen: what hangs where, and what waits to be hung."""

    now: datetime
    policy: str
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
            for enclosure in session.scalars(open_enclosures())
        ]
        return ConditioningView(
            now=now,
            policy=house_policy(session),
            enclosures=enclosures,
            waiting=_waiting(session, now),
        )


def open_enclosures() -> Select[Enclosure]:
    """The enclosures that are in use."""
    return select(Enclosure).where(Enclosure.closed_at.is_(None)).order_by(Enclosure.id)


def hang(actor: Actor, enclosure_id: int, asked: HangAsked) -> ConditioningView:
    """Hang specimens in; each one's clock starts now. All of them, or none.

    One that hangs elsewhere is moved: its stay there ends now.
    """
    actor.must("condition")
    now = clock.now()
    with transaction() as session:
        enclosure = enclosure_or_refuse(session, enclosure_id)
        if enclosure.closed_at is not None:
            raise Conflict(f"{enclosure.name} was closed; nothing is hung there any more")
        for specimen_id in dict.fromkeys(asked.specimen_ids):
            specimen = specimen_or_refuse(session, specimen_id)
            job = refuse_released(session, specimen.test.job_id)
            if is_to_cut(specimen):
                raise Conflict(
                    f"{specimen.code} is not cut yet; cut the sheet of {job.number} first"
                )
            if last_run(specimen) is not None:
                raise Conflict(f"{specimen.code} was tested already; it is not hung any more")
            hanging = open_stay(specimen)
            if hanging is not None and hanging.enclosure_id == enclosure.id:
                raise Conflict(f"{specimen.code} hangs in {hanging.enclosure.name} already")
            if hanging is not None:
                hanging.taken_at, hanging.open_for = now, None
                session.flush()
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
        for specimen_id in dict.fromkeys(asked.specimen_ids):
            specimen = specimen_or_refuse(session, specimen_id)
            refuse_released(session, specimen.test.job_id)
            stay = open_stay(specimen)
            if stay is None:
                raise Conflict(f"{specimen.code} hangs nowhere")
            stay.taken_at, stay.open_for = now, None
        session.flush()
        _note_stay(session, actor, asked.specimen_ids, "take-out", "out of the enclosure")
    return conditioning()


def weigh_specimen(actor: Actor, specimen_id: int, asked: WeighingAsked) -> ConditioningView:
    """Note the mass of a specimen while it hangs; two that agree are an equilibrium.

    Raises Conflict for one that hangs nowhere.
    """
    actor.must("condition")
    now = clock.now()
    with transaction() as session:
        specimen = specimen_or_refuse(session, specimen_id)
        job = refuse_released(session, specimen.test.job_id)
        stay = open_stay(specimen)
        if stay is None:
            raise Conflict(f"{specimen.code} hangs nowhere; weigh it while it is conditioned")
        session.add(Weighing(specimen_id=specimen.id, at=now, mass_g=asked.mass_g, by_id=actor.id))
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="weigh",
            entity="specimen",
            entity_id=specimen.id,
            job_id=job.id,
            words=f"{actor.name} weighed {specimen.label} in {stay.enclosure.name}: "
            f"{asked.mass_g:g} g",
            after={"mass_g": asked.mass_g},
        )
    return conditioning()


def enclosure_or_refuse(session: Session, enclosure_id: int) -> Enclosure:
    """The enclosure; raises Invalid."""
    enclosure = session.get(Enclosure, enclosure_id)
    if enclosure is None:
        raise Invalid(f"there is no enclosure with id {enclosure_id}", field="enclosure_id")
    return enclosure


def _note_stay(
    session: Session, actor: Actor, specimen_ids: Sequence[int], action: str, where: str
) -> None:
    """One entry for each job, naming its specimens."""
    by_job: dict[int, list[str]] = {}
    for specimen_id in dict.fromkeys(specimen_ids):
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
    """Every running clock: stays that are not over, and windows that close."""
    now = clock.now()
    view = conditioning()
    together = {
        (enclosure.id, group.job_id, group.hung_at, group.runs_out_at): (enclosure, group)
        for enclosure in view.enclosures
        for group in enclosure.groups
        if group.awaited and group.counts
    }
    found = [
        Clock(
            kind="at-least",
            says=_clock_words(enclosure, group),
            whose=f"{group.job_number} {group.product}",
            starts_at=group.hung_at,
            ends_at=group.runs_out_at
            or now + timedelta(minutes=group.least_minutes - group.minutes),
            when_missed="tested too early, the report carries a deviation",
            leads_to=f"/bench/{group.job_id}" if group.ready else "/conditioning",
        )
        for enclosure, group in together.values()
    ]
    found += [
        Clock(
            kind="at-most",
            says=f"into {group.wanted}" if group.wanted else "to be tested",
            whose=f"{group.job_number} {group.product}",
            starts_at=now,
            ends_at=group.latest_at,
            when_missed="the window is overrun, and the report says so",
            leads_to="/conditioning",
        )
        for group in view.waiting
        if group.latest_at is not None
    ]
    found.sort(key=lambda clock: (clock.ends_at <= now, clock.ends_at))
    return ClocksView(now=now, clocks=[ClockView.model_validate(clock) for clock in found])


def _clock_words(enclosure: EnclosureView, group: HangingGroup) -> str:
    if group.ready:
        return "Served"
    return enclosure.name if group.runs_out_at else f"{enclosure.name}, clock stands"


def _enclosure_view(session: Session, enclosure: Enclosure, now: datetime) -> EnclosureView:
    atmosphere = atmosphere_in(enclosure)
    stays = session.scalars(
        select(Stay)
        .where(Stay.enclosure_id == enclosure.id, Stay.open_for.is_not(None))
        .options(joinedload(Stay.specimen).joinedload(Specimen.test).joinedload(Test.job))
        .order_by(Stay.hung_at, Stay.id)
    )
    groups: dict[tuple[int, datetime], list[Stay]] = {}
    for stay in stays:
        groups.setdefault((stay.specimen.test_id, stay.hung_at), []).append(stay)
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
        set_point=atmosphere.in_words(),
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
        groups=[_group_view(session, enclosure, members, now) for members in groups.values()],
    )


def _reads(newest: EnclosureReading | None) -> str:
    if newest is None:
        return ""
    told = f"{newest.temperature_c:.1f}\u00a0°C"
    if newest.humidity_percent is None:
        return told
    return f"{told}, {newest.humidity_percent:.1f}\u00a0%RH"


def _group_view(
    session: Session, enclosure: Enclosure, stays: list[Stay], now: datetime
) -> HangingGroup:
    first = stays[0]
    test = first.specimen.test
    stages = stages_for(test)
    stage = next((one for one in stages if serves_for(enclosure.atmosphere, one.atmosphere)), None)
    least = find_atmosphere(enclosure.atmosphere).least_minutes
    counted = stage or Stage(enclosure.atmosphere, least)
    awaited = any(_is_awaited(stay.specimen) for stay in stays)
    # What nothing waits for any more is not counted against a log that may be months long.
    told = (
        count_stay(session, enclosure, facts_of(first), counted, now)
        if awaited
        else served_by_clock(first.hung_at, now, counted.least_minutes)
    )
    specimens = [_hanging(stay, now, awaited=awaited) for stay in stays]
    ready = all(one.ready for one in specimens) if stage else told.ready
    return HangingGroup(
        job_id=test.job_id,
        job_number=test.job.number,
        product=test.job.product,
        test=find_method(test.method).title,
        hung_at=first.hung_at,
        runs_out_at=told.runs_out_at,
        ready=ready,
        counted_by=specimens[0].counted_by if stage else told.counted_by,
        least_minutes=told.least_minutes,
        minutes=told.minutes,
        restart_minutes=told.restart_minutes,
        subtract_minutes=told.subtract_minutes,
        outside_minutes=told.outside_minutes,
        unproven_minutes=told.unproven_minutes,
        excursions=told.excursions,
        counts=stage is not None,
        awaited=awaited,
        then=_then(stages, stage, enclosure),
        specimens=specimens,
    )


def _then(stages: Sequence[Stage], stage: Stage | None, enclosure: Enclosure) -> str:
    """What comes after a stay here."""
    if stage is None:
        first = find_atmosphere(stages[0].atmosphere).title.lower() if stages else "the bench"
        if enclosure.atmosphere == PRE_CONDITIONING:
            return f"then the {first}"
        return f"does not count: the {first} is asked for"
    place = list(stages).index(stage)
    if place + 1 < len(stages):
        return f"then the {find_atmosphere(stages[place + 1].atmosphere).title.lower()}"
    return "then the test"


def _hanging(stay: Stay, now: datetime, *, awaited: bool) -> HangingSpecimen:
    specimen = stay.specimen
    standing = standing_of(specimen, now) if awaited else None
    found = equilibrium_of(specimen, facts_of(stay))
    return HangingSpecimen(
        specimen_id=stay.specimen_id,
        code=specimen.code,
        label=specimen.label,
        ready=standing is None or standing.progress in ("ready", "served"),
        counted_by=standing.served.counted_by if standing and standing.served else "clock",
        weighings=[
            WeighingView(at=one.at, mass_g=one.mass_g)
            for one in specimen.weighings
            if one.at >= stay.hung_at
        ],
        equilibrium=None if found is None else _equilibrium_words(found),
    )


def _equilibrium_words(found: dict[str, object]) -> str:
    change = found["change_percent"]
    if change is None:
        return "weigh again 2 h after the first weighing"
    told = f"{change:.2f} % of change over 2 h or more"
    return f"in equilibrium: {told}" if found["reached"] else f"not yet: {told}, 0.25 % at most"


def _is_awaited(specimen: Specimen) -> bool:
    """A test still waits for it: it is called for, and not a spare that nothing calls."""
    released = specimen.test.job.released_at is not None
    return not released and specimen.id in {one.id for one in called_specimens(specimen.test)}


def _waiting(session: Session, now: datetime) -> list[WaitingGroup]:
    """Specimens that are to be hung next, test by test: cut, or out of the stage before."""
    found: dict[tuple[int, str], WaitingGroup] = {}
    rooms = [(one.id, one.atmosphere) for one in session.scalars(open_enclosures())]
    jobs = session.scalars(select(Job).where(Job.released_at.is_(None)).order_by(Job.due_at))
    for job in jobs:
        damp = "damp" in job.arrival_state.lower() or "wet" in job.arrival_state.lower()
        for test in job.tests:
            if not stages_for(test) or _goes_on_by_document(test):
                continue
            for specimen in test.specimens:
                if is_to_cut(specimen) or specimen.runs or standing_void(specimen) is not None:
                    continue
                standing = standing_of(specimen, now)
                hangs = open_stay(specimen)
                stage = next_stage(specimen, standing)
                if hangs is not None and hangs.enclosure.atmosphere == PRE_CONDITIONING:
                    continue
                if stage is None and not _window_closes(standing):
                    continue
                _add_waiting(found, rooms, specimen, stage, standing, damp=damp)
    return sorted(found.values(), key=lambda one: (one.latest_at is None, one.latest_at or now))


def _goes_on_by_document(test: Test) -> bool:
    """Its document says which specimens it took: the planned ones that are left wait for nothing.

    They are still hung by scanning them, for a further round.
    """
    by_document = find_method(test.method).planned == "by-document"
    return by_document and any(last_run(one) is not None for one in test.specimens)


def _window_closes(standing: Standing) -> bool:
    """It has served its chain, is out, and must be tested within a time."""
    return standing.progress == "ready" and standing.latest_at is not None


def _add_waiting(
    found: dict[tuple[int, str], WaitingGroup],
    rooms: Sequence[tuple[int, str]],
    specimen: Specimen,
    stage: Stage | None,
    standing: Standing,
    *,
    damp: bool,
) -> None:
    test, atmosphere = specimen.test, stage.atmosphere if stage else ""
    key = (test.id, atmosphere)
    one = WaitingSpecimen(id=specimen.id, label=specimen.label, code=specimen.code)
    if key in found:
        known = found[key]
        latest = [at for at in (known.latest_at, standing.latest_at) if at is not None]
        found[key] = known.model_copy(
            update={
                "specimens": [*known.specimens, one],
                "latest_at": min(latest, default=None),
            }
        )
        return
    found[key] = WaitingGroup(
        job_id=test.job_id,
        job_number=test.job.number,
        product=test.job.product,
        test=find_method(test.method).title,
        atmosphere=atmosphere,
        wanted=find_atmosphere(atmosphere).title if atmosphere else "",
        enclosures=[id_ for id_, kept in rooms if atmosphere and serves_for(kept, atmosphere)],
        latest_at=standing.latest_at,
        damp=damp and not specimen.stays,
        specimens=[one],
    )
