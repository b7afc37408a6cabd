"""The groups of specimens of a job that hang, and that are to be hung, as its card keeps them.

What is stored here does not depend on the time; how much has been served is counted when
somebody looks.
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from endurant.core.conditioning.atmospheres import PRE_CONDITIONING, find_atmosphere, serves_for
from endurant.core.conditioning.chains import Stage, Standing
from endurant.core.conditioning.stays import Policy, Served, served_by_clock
from endurant.core.conditioning.weighing import Equilibrium
from endurant.core.methods import find_method
from endurant.store.tables import Enclosure, Job, Specimen, Stay, Test
from endurant.work.base.view import View
from endurant.work.facts.called_specimens import called_specimens, due_in_round
from endurant.work.facts.conditioning_models import (
    EarlyView,
    HangingGroup,
    HangingSpecimen,
    WaitingGroup,
    WaitingSpecimen,
    WeighingView,
)
from endurant.work.facts.conditioning_progress import (
    count_stay,
    equilibrium_of,
    facts_in,
    facts_of,
    next_stage,
    stages_for,
    standing_of,
)
from endurant.work.facts.conditioning_tallies import house_policy
from endurant.work.facts.early_actions import early_acts
from endurant.work.facts.status import (
    is_to_cut,
    last_run,
    open_stay,
    standing_void,
)


class KeptSpecimen(View):
    """One specimen in an enclosure.

    `counts`: this stay is the one that its chain counts; `ready_anyhow`: it may be moved on
    whatever this stay has served. `equilibrium_at`: it was served by weighing.
    """

    specimen_id: int
    code: str
    label: str
    counts: bool
    ready_anyhow: bool
    equilibrium_at: datetime | None
    equilibrium: str | None
    weighings: list[WeighingView]


class KeptGroup(View):
    """Specimens of one test that were hung in one enclosure together.

    `atmosphere` is that of the stage which the stay serves, None where it serves none.
    """

    enclosure_id: int
    job_id: int
    job_number: str
    product: str
    test_id: int
    test: str
    hung_at: datetime
    policy: Policy | None = None
    atmosphere: str | None
    least_minutes: float
    awaited: bool
    then: str
    specimens: list[KeptSpecimen]


def hanging_groups(job: Job, now: datetime) -> list[KeptGroup]:
    """What of a job hangs somewhere, in order of hanging."""
    groups: dict[tuple[int, int, datetime], list[Stay]] = {}
    for test in job.tests:
        for specimen in test.specimens:
            stay = open_stay(specimen)
            if stay is not None:
                key = (stay.enclosure_id, test.id, stay.hung_at)
                groups.setdefault(key, []).append(stay)
    return [_kept(stays, now) for stays in groups.values()]


def _kept(stays: Sequence[Stay], now: datetime) -> KeptGroup:
    first = stays[0]
    test, enclosure = first.specimen.test, first.enclosure
    stages = stages_for(test)
    stage = next(
        (stage for stage in stages if serves_for(enclosure.atmosphere, stage.atmosphere)), None
    )
    called = {specimen.id for specimen in called_specimens(test)}
    released = test.job.released_at is not None
    awaited = not released and any(stay.specimen_id in called for stay in stays)
    usual = find_atmosphere(enclosure.atmosphere).least_minutes
    return KeptGroup(
        enclosure_id=enclosure.id,
        job_id=test.job_id,
        job_number=test.job.number,
        product=test.job.product,
        test_id=test.id,
        test=find_method(test.method).title,
        hung_at=first.hung_at,
        atmosphere=stage.atmosphere if stage else None,
        policy=(test.job.house or {}).get("policy"),
        least_minutes=stage.least_minutes if stage else usual,
        awaited=awaited,
        then=_then(stages, stage, enclosure),
        specimens=[_kept_specimen(stay, now, awaited=awaited) for stay in stays],
    )


def _kept_specimen(stay: Stay, now: datetime, *, awaited: bool) -> KeptSpecimen:
    specimen = stay.specimen
    standing = standing_of(specimen, now) if awaited else None
    counts = bool(standing and standing.stays and standing.stays[-1][0].hung_at == stay.hung_at)
    reached = equilibrium_of(specimen, facts_of(stay))
    return KeptSpecimen(
        specimen_id=stay.specimen_id,
        code=specimen.code,
        label=specimen.label,
        counts=counts,
        ready_anyhow=standing is None or (not counts and standing.progress in ("ready", "served")),
        equilibrium_at=reached.at if reached else None,
        equilibrium=None if reached is None else _equilibrium_words(reached),
        weighings=[
            WeighingView(at=weighing.at, mass_g=weighing.mass_g)
            for weighing in specimen.weighings
            if weighing.at >= stay.hung_at
        ],
    )


def _equilibrium_words(reached: Equilibrium) -> str:
    if reached.change_percent is None:
        return "weigh again 2 h after the first weighing"
    change = f"{reached.change_percent:.2f} % of change over 2 h or more"
    return f"in equilibrium: {change}" if reached.reached else f"not yet: {change}, 0.25 % at most"


def _then(stages: Sequence[Stage], stage: Stage | None, enclosure: Enclosure) -> str:
    """What comes after a stay here."""
    if stage is None:
        first = find_atmosphere(stages[0].atmosphere).title.lower() if stages else "the bench"
        if enclosure.atmosphere == PRE_CONDITIONING:
            return f"then the {first}"
        return f"does not count: requires {first}"
    place = list(stages).index(stage)
    if place + 1 < len(stages):
        return f"then the {find_atmosphere(stages[place + 1].atmosphere).title.lower()}"
    return "then the test"


def served_now(
    session: Session, enclosure: Enclosure, group: KeptGroup, now: datetime
) -> HangingGroup:
    """A group with what it has served by now.

    What nothing waits for any more is not counted against a log that may be months long.
    """
    served = (
        count_stay(
            session,
            enclosure,
            facts_in(enclosure, group.hung_at),
            Stage(group.atmosphere or enclosure.atmosphere, group.least_minutes),
            now,
            group.policy or house_policy(session),
        )
        if group.awaited
        else served_by_clock(group.hung_at, now, group.least_minutes)
    )
    specimens = [_hanging(specimen, served) for specimen in group.specimens]
    counts = group.atmosphere is not None
    return HangingGroup(
        job_id=group.job_id,
        job_number=group.job_number,
        product=group.product,
        test=group.test,
        hung_at=group.hung_at,
        runs_out_at=served.runs_out_at,
        ready=all(specimen.ready for specimen in specimens) if counts else served.ready,
        counted_by=specimens[0].counted_by if counts else served.counted_by,
        least_minutes=served.least_minutes,
        minutes=served.minutes,
        restart_minutes=served.restart_minutes,
        subtract_minutes=served.subtract_minutes,
        outside_minutes=served.outside_minutes,
        unproven_minutes=served.unproven_minutes,
        excursions=served.excursions,
        counts=counts,
        awaited=group.awaited,
        then=group.then,
        specimens=specimens,
    )


def _hanging(kept: KeptSpecimen, served: Served) -> HangingSpecimen:
    by_weighing = kept.counts and not served.ready and kept.equilibrium_at is not None
    return HangingSpecimen(
        specimen_id=kept.specimen_id,
        code=kept.code,
        label=kept.label,
        ready=kept.ready_anyhow or (kept.counts and served.ready) or by_weighing,
        counted_by="weighing" if by_weighing else served.counted_by if kept.counts else "clock",
        weighings=kept.weighings,
        equilibrium=kept.equilibrium,
    )


class KeptWaiting(View):
    """Specimens of one test that are to be hung next in one atmosphere; empty for the test."""

    job_id: int
    job_number: str
    product: str
    test_id: int
    test: str
    atmosphere: str
    latest_at: datetime | None
    damp: bool
    early: list[EarlyView] = []
    specimens: list[WaitingSpecimen]


def waiting_groups(job: Job, now: datetime) -> list[KeptWaiting]:
    """What of a job is to be hung next, test by test: cut, or out of the stage before."""
    groups: dict[tuple[int, str], KeptWaiting] = {}
    if job.released_at is not None:
        return []
    for test in job.tests:
        if not stages_for(test) or _goes_on_by_document(test):
            continue
        for specimen in _to_prepare(test):
            if is_to_cut(specimen) or specimen.runs or standing_void(specimen) is not None:
                continue
            standing = standing_of(specimen, now)
            hangs = open_stay(specimen)
            stage = next_stage(specimen, standing)
            if hangs is not None and hangs.enclosure.atmosphere == PRE_CONDITIONING:
                continue
            if stage is None and not _window_closes(standing):
                continue
            _add_waiting(groups, specimen, stage, standing)
    return list(groups.values())


def _goes_on_by_document(test: Test) -> bool:
    """Its document says which specimens it took: the planned ones that are left wait for nothing.

    They are still hung by scanning them, for a further round.
    """
    method = find_method(test.method)
    by_document = method.planned == "by-document" and method.guide.calls is None
    return by_document and any(last_run(specimen) is not None for specimen in test.specimens)


def _to_prepare(test: Test) -> list[Specimen]:
    """Those that are prepared now; where a rule calls them by rounds, those of this round."""
    if find_method(test.method).guide.calls is None:
        return list(test.specimens)
    due = {specimen.id for _, fits in due_in_round(test) for specimen in fits}
    return [specimen for specimen in test.specimens if specimen.id in due or specimen.stays]


def _window_closes(standing: Standing) -> bool:
    """It has served its chain, is out, and must be tested within a time."""
    return standing.progress == "ready" and standing.latest_at is not None


def _add_waiting(
    groups: dict[tuple[int, str], KeptWaiting],
    specimen: Specimen,
    stage: Stage | None,
    standing: Standing,
) -> None:
    test, atmosphere = specimen.test, stage.atmosphere if stage else ""
    is_damp, early = test.job.damp and not specimen.stays, _early_of(specimen)
    waiting = WaitingSpecimen(id=specimen.id, label=specimen.label, code=specimen.code)
    known = groups.get((test.id, atmosphere))
    if known is not None:
        latest = [at for at in (known.latest_at, standing.latest_at) if at is not None]
        groups[test.id, atmosphere] = known.model_copy(
            update={
                "specimens": [*known.specimens, waiting],
                "latest_at": min(latest, default=None),
                "damp": known.damp or is_damp,
                "early": known.early or early,
            }
        )
        return
    groups[test.id, atmosphere] = KeptWaiting(
        job_id=test.job_id,
        job_number=test.job.number,
        product=test.job.product,
        test_id=test.id,
        test=find_method(test.method).title,
        atmosphere=atmosphere,
        latest_at=standing.latest_at,
        damp=is_damp,
        early=early,
        specimens=[waiting],
    )


def _early_of(specimen: Specimen) -> list[EarlyView]:
    """What has to be done to a specimen before it is placed for the first time."""
    if specimen.stays:
        return []
    return [EarlyView(code=act.code, title=act.title) for act in early_acts(specimen)]


def waiting_in(rooms: Sequence[tuple[int, str]], group: KeptWaiting) -> WaitingGroup:
    """A group with the enclosures that would serve it; rooms by id and atmosphere."""
    atmosphere = group.atmosphere
    return WaitingGroup(
        job_id=group.job_id,
        job_number=group.job_number,
        product=group.product,
        test=group.test,
        atmosphere=atmosphere,
        wanted=find_atmosphere(atmosphere).title if atmosphere else "",
        enclosures=[
            room_id for room_id, kept in rooms if atmosphere and serves_for(kept, atmosphere)
        ],
        latest_at=group.latest_at,
        damp=group.damp,
        early=group.early,
        specimens=group.specimens,
    )


def turns_at(job: Job, now: datetime) -> datetime | None:
    """When time alone makes the states of its specimens others: the next stay that is served."""
    if job.released_at is not None:
        return None
    moments = [
        served.due_at + timedelta(seconds=1)
        for test in job.tests
        for specimen in test.specimens
        if open_stay(specimen) is not None and last_run(specimen) is None
        for _, served in standing_of(specimen, now).stays[-1:]
        if served.due_at is not None
    ]
    return min(moments, default=None)
