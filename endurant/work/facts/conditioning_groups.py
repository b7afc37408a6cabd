"""The groups of specimens of a job in conditioning or waiting for it, as its card keeps them.

What is stored here does not depend on the time; how far the conditioning has
come is counted when a page asks.
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from endurant.core.conditioning.atmospheres import PRE_CONDITIONING, find_atmosphere, serves_for
from endurant.core.conditioning.chains import ChainState, Stage
from endurant.core.conditioning.periods import Elapsed, Policy, elapsed_by_clock
from endurant.core.conditioning.weighing import Equilibrium
from endurant.core.messages import worded
from endurant.core.methods import find_method
from endurant.store.tables import ConditioningPeriod, Enclosure, Job, Specimen, Test
from endurant.work.base.view import View
from endurant.work.facts.called_specimens import called_specimens, due_in_round
from endurant.work.facts.conditioning_models import (
    ConditioningGroup,
    ConditioningSpecimen,
    EarlyView,
    WaitingGroup,
    WaitingSpecimen,
    WeighingView,
)
from endurant.work.facts.conditioning_progress import (
    chain_state,
    count_period,
    equilibrium_of,
    facts_in,
    facts_of,
    next_stage,
    stages_for,
)
from endurant.work.facts.conditioning_tallies import lab_policy
from endurant.work.facts.early_actions import early_acts
from endurant.work.facts.status import (
    is_to_cut,
    last_run,
    open_period,
    open_void,
)
from endurant.work.facts.test_settings import title_of


class StoredSpecimen(View):
    """One specimen in an enclosure.

    `counts`: its chain counts this period; `ready_anyhow`: it may be moved on, however far
    this period has come. `equilibrium_at`: weighing completed it.
    """

    specimen_id: int
    code: str
    label: str
    counts: bool
    ready_anyhow: bool
    equilibrium_at: datetime | None
    equilibrium: str | None
    weighings: list[WeighingView]


class StoredGroup(View):
    """Specimens of one test that were placed in one enclosure together.

    `atmosphere` is that of the stage which the period belongs to, None if it belongs to none.
    """

    enclosure_id: int
    job_id: int
    job_number: str
    product: str
    test_id: int
    test: str
    placed_at: datetime
    policy: Policy | None = None
    atmosphere: str | None
    least_minutes: float
    awaited: bool
    then: str
    specimens: list[StoredSpecimen]


def conditioning_groups(job: Job, now: datetime) -> list[StoredGroup]:
    """The groups of a job in conditioning, in order of placing."""
    groups: dict[tuple[int, int, datetime], list[ConditioningPeriod]] = {}
    for test in job.tests:
        for specimen in test.specimens:
            period = open_period(specimen)
            if period is not None:
                key = (period.enclosure_id, test.id, period.placed_at)
                groups.setdefault(key, []).append(period)
    return [_kept(periods, now) for periods in groups.values()]


def _kept(periods: Sequence[ConditioningPeriod], now: datetime) -> StoredGroup:
    first = periods[0]
    test, enclosure = first.specimen.test, first.enclosure
    stages = stages_for(test)
    stage = next(
        (stage for stage in stages if serves_for(enclosure.atmosphere, stage.atmosphere)), None
    )
    called = {specimen.id for specimen in called_specimens(test)}
    released = test.job.released_at is not None
    awaited = not released and any(period.specimen_id in called for period in periods)
    usual = find_atmosphere(enclosure.atmosphere).least_minutes
    return StoredGroup(
        enclosure_id=enclosure.id,
        job_id=test.job_id,
        job_number=test.job.number,
        product=test.job.product,
        test_id=test.id,
        test=title_of(test),
        placed_at=first.placed_at,
        atmosphere=stage.atmosphere if stage else None,
        policy=(test.job.lab_settings or {}).get("policy"),
        least_minutes=stage.least_minutes if stage else usual,
        awaited=awaited,
        then=_then(stages, stage, enclosure),
        specimens=[_kept_specimen(period, now, awaited=awaited) for period in periods],
    )


def _kept_specimen(period: ConditioningPeriod, now: datetime, *, awaited: bool) -> StoredSpecimen:
    specimen = period.specimen
    chain = chain_state(specimen, now) if awaited else None
    counts = bool(chain and chain.periods and chain.periods[-1][0].placed_at == period.placed_at)
    reached = equilibrium_of(specimen, facts_of(period))
    return StoredSpecimen(
        specimen_id=period.specimen_id,
        code=specimen.code,
        label=specimen.label,
        counts=counts,
        ready_anyhow=chain is None or (not counts and chain.progress in ("ready", "conditioned")),
        equilibrium_at=reached.at if reached else None,
        equilibrium=None if reached is None else _equilibrium_text(reached),
        weighings=[
            WeighingView(at=weighing.at, mass_g=weighing.mass_g)
            for weighing in specimen.weighings
            if weighing.at >= period.placed_at
        ],
    )


def _equilibrium_text(reached: Equilibrium) -> str:
    if reached.change_percent is None:
        return worded("group.weigh-again-2-h-after-the-first-weighing")
    change = worded("group.of-change-over-2-h-or-more", change_percent=reached.change_percent)
    return (
        worded("group.in-equilibrium", change=change)
        if reached.reached
        else worded("group.not-yet-0-25-at-most", change=change)
    )


def _then(stages: Sequence[Stage], stage: Stage | None, enclosure: Enclosure) -> str:
    """The step after a period here."""
    if stage is None:
        first = (
            find_atmosphere(stages[0].atmosphere).title.lower()
            if stages
            else worded("group.the-bench")
        )
        if enclosure.atmosphere == PRE_CONDITIONING:
            return worded("group.then-the-2", first=first)
        return worded("group.does-not-count-requires", first=first)
    place = list(stages).index(stage)
    if place + 1 < len(stages):
        return worded(
            "group.then-the", title=find_atmosphere(stages[place + 1].atmosphere).title.lower()
        )
    return worded("group.then-the-test")


def elapsed_now(
    session: Session, enclosure: Enclosure, group: StoredGroup, now: datetime
) -> ConditioningGroup:
    """A group with its progress up to now.

    What nothing waits for any more is not counted against a log that may be months long.
    """
    elapsed = (
        count_period(
            session,
            enclosure,
            facts_in(enclosure, group.placed_at),
            Stage(group.atmosphere or enclosure.atmosphere, group.least_minutes),
            now,
            group.policy or lab_policy(session),
        )
        if group.awaited
        else elapsed_by_clock(group.placed_at, now, group.least_minutes)
    )
    specimens = [_placed(specimen, elapsed) for specimen in group.specimens]
    counts = group.atmosphere is not None
    return ConditioningGroup(
        job_id=group.job_id,
        job_number=group.job_number,
        product=group.product,
        test=group.test,
        placed_at=group.placed_at,
        runs_out_at=elapsed.runs_out_at,
        ready=all(specimen.ready for specimen in specimens) if counts else elapsed.ready,
        counted_by=specimens[0].counted_by if counts else elapsed.counted_by,
        least_minutes=elapsed.least_minutes,
        minutes=elapsed.minutes,
        restart_minutes=elapsed.restart_minutes,
        subtract_minutes=elapsed.subtract_minutes,
        outside_minutes=elapsed.outside_minutes,
        unproven_minutes=elapsed.unproven_minutes,
        excursions=elapsed.excursions,
        counts=counts,
        awaited=group.awaited,
        then=group.then,
        specimens=specimens,
    )


def _placed(kept: StoredSpecimen, elapsed: Elapsed) -> ConditioningSpecimen:
    by_weighing = kept.counts and not elapsed.ready and kept.equilibrium_at is not None
    return ConditioningSpecimen(
        specimen_id=kept.specimen_id,
        code=kept.code,
        label=kept.label,
        ready=kept.ready_anyhow or (kept.counts and elapsed.ready) or by_weighing,
        counted_by="weighing" if by_weighing else elapsed.counted_by if kept.counts else "clock",
        weighings=kept.weighings,
        equilibrium=kept.equilibrium,
    )


class KeptWaiting(View):
    """Specimens of one test to be placed next in one atmosphere; empty for the test."""

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
    """The groups of a job to be placed next, test by test: cut, or out of the stage before."""
    groups: dict[tuple[int, str], KeptWaiting] = {}
    if job.released_at is not None:
        return []
    for test in job.tests:
        if not stages_for(test) or _goes_on_by_document(test):
            continue
        for specimen in _to_prepare(test):
            if is_to_cut(specimen) or specimen.runs or open_void(specimen) is not None:
                continue
            chain = chain_state(specimen, now)
            period = open_period(specimen)
            stage = next_stage(specimen, chain)
            if period is not None and period.enclosure.atmosphere == PRE_CONDITIONING:
                continue
            if stage is None and not _window_closes(chain):
                continue
            _add_waiting(groups, specimen, stage, chain)
    return list(groups.values())


def _goes_on_by_document(test: Test) -> bool:
    """Its document says which specimens it took: the planned ones that are left wait for nothing.

    Scanning still places them, for a further round.
    """
    method = find_method(test.method)
    by_document = method.planned == "by-document" and method.guide.calls is None
    return by_document and any(last_run(specimen) is not None for specimen in test.specimens)


def _to_prepare(test: Test) -> list[Specimen]:
    """Those that are prepared now; where a rule calls them by rounds, those of this round."""
    if find_method(test.method).guide.calls is None:
        return list(test.specimens)
    due = {specimen.id for _, fits in due_in_round(test) for specimen in fits}
    return [specimen for specimen in test.specimens if specimen.id in due or specimen.periods]


def _window_closes(chain: ChainState) -> bool:
    """Its chain is complete, it is out, and it must be tested within a time."""
    return chain.progress == "ready" and chain.latest_at is not None


def _add_waiting(
    groups: dict[tuple[int, str], KeptWaiting],
    specimen: Specimen,
    stage: Stage | None,
    chain: ChainState,
) -> None:
    test, atmosphere = specimen.test, stage.atmosphere if stage else ""
    is_damp, early = test.job.damp and not specimen.periods, _early_of(specimen)
    waiting = WaitingSpecimen(id=specimen.id, label=specimen.label, code=specimen.code)
    known = groups.get((test.id, atmosphere))
    if known is not None:
        latest = [at for at in (known.latest_at, chain.latest_at) if at is not None]
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
        test=title_of(test),
        atmosphere=atmosphere,
        latest_at=chain.latest_at,
        damp=is_damp,
        early=early,
        specimens=[waiting],
    )


def _early_of(specimen: Specimen) -> list[EarlyView]:
    """What has to be done to a specimen before it is placed for the first time."""
    if specimen.periods:
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
        atmosphere_title=find_atmosphere(atmosphere).title if atmosphere else "",
        enclosures=[
            room_id for room_id, kept in rooms if atmosphere and serves_for(kept, atmosphere)
        ],
        latest_at=group.latest_at,
        damp=group.damp,
        early=group.early,
        specimens=group.specimens,
    )


def turns_at(job: Job, now: datetime) -> datetime | None:
    """When time alone changes the states of its specimens: the next period that is complete."""
    if job.released_at is not None:
        return None
    moments = [
        elapsed.due_at + timedelta(seconds=1)
        for test in job.tests
        for specimen in test.specimens
        if open_period(specimen) is not None and last_run(specimen) is None
        for _, elapsed in chain_state(specimen, now).periods[-1:]
        if elapsed.due_at is not None
    ]
    return min(moments, default=None)
