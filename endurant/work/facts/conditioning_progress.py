"""Progress of conditioning: the periods of specimens by the logs, through the chain of a test."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session, object_session

from endurant.core.conditioning.atmospheres import Atmosphere, find_atmosphere
from endurant.core.conditioning.chains import (
    ChainState,
    PeriodFacts,
    Stage,
    stage_left_out,
    stages_of,
    stand,
)
from endurant.core.conditioning.periods import (
    Elapsed,
    LogRules,
    Policy,
    elapsed_by_clock,
)
from endurant.core.conditioning.weighing import Equilibrium, equilibrium
from endurant.core.departures import Departure
from endurant.core.messages import worded
from endurant.core.methods import find_method
from endurant.core.rounding import in_numbers
from endurant.store.tables import (
    ConditioningPeriod,
    Enclosure,
    EnclosureReading,
    Specimen,
    Test,
)
from endurant.work.base.read_scope import once
from endurant.work.facts import run_facts
from endurant.work.facts.conditioning_tallies import count_by_log
from endurant.work.facts.laboratory import policy_for, tables_for
from endurant.work.facts.run_facts import ConditioningFacts
from endurant.work.facts.set_points import atmosphere_id_at, atmosphere_in, has_own_point


def keeps_log(session: Session, enclosure: Enclosure) -> bool:
    """A logger answers there, or a log of it was brought in."""
    if enclosure.host is not None:
        return True
    with_log: dict[int, bool] = session.info.setdefault(worded("group.with-log"), {})
    if enclosure.id not in with_log:
        own = select(EnclosureReading.at).where(EnclosureReading.enclosure_id == enclosure.id)
        with_log[enclosure.id] = session.scalar(own.limit(1)) is not None
    return with_log[enclosure.id]


def count_period(
    session: Session,
    enclosure: Enclosure,
    period: PeriodFacts,
    stage: Stage,
    until: datetime,
    policy: Policy,
) -> Elapsed:
    """Progress of a period for a stage at a moment: by the log, or by the clock without one.

    The log is held against what the stage asks for, or against the enclosure's own set point
    where it has one: as it was set when the period began.
    """
    # Two web processes may disagree on the time by a little: no period is negative.
    until = max(until, period.placed_at)
    if not keeps_log(session, enclosure):
        return elapsed_by_clock(period.placed_at, until, stage.least_minutes)
    rules = LogRules(_atmosphere_asked(enclosure, stage, period.placed_at))
    counted = count_by_log(session, enclosure.id, period.placed_at, until, rules)
    return counted.elapsed(policy)


def _atmosphere_asked(enclosure: Enclosure, stage: Stage, at: datetime) -> Atmosphere:
    if has_own_point(enclosure, at) or atmosphere_id_at(enclosure, at) == stage.atmosphere:
        return atmosphere_in(enclosure, stage.least_minutes, at)
    return replace(find_atmosphere(stage.atmosphere), least_minutes=stage.least_minutes)


def stages_for(test: Test) -> tuple[Stage, ...]:
    """The chain of a test: what was set for it, else what its method asks for."""
    own = (test.preparation or {}).get("stages")
    if own is not None:
        return tuple(Stage(**specimen) for specimen in own)
    return usual_stages(test)


def usual_stages(test: Test) -> tuple[Stage, ...]:
    """The chain that the method of a test asks for, in the atmospheres of the laboratory."""
    usual = stages_of(find_method(test.method).guide, test.parameters, test.state)
    own = {row.atmosphere: row.least_minutes for row in tables_for(test.job).atmospheres}
    return tuple(
        replace(stage, least_minutes=own.get(stage.atmosphere, stage.least_minutes))
        for stage in usual
    )


def facts_of(period: ConditioningPeriod) -> PeriodFacts:
    """A period as the core knows it."""
    enclosure = period.enclosure
    kept = atmosphere_id_at(enclosure, period.placed_at)
    return PeriodFacts(kept, enclosure.name, period.placed_at, period.removed_at)


def facts_in(enclosure: Enclosure, placed_at: datetime) -> PeriodFacts:
    """A period that goes on in an enclosure."""
    return PeriodFacts(atmosphere_id_at(enclosure, placed_at), enclosure.name, placed_at, None)


def chain_state(specimen: Specimen, now: datetime) -> ChainState:
    """Where a specimen stands in the chain of its test."""
    key = ("standing", specimen.id, now)
    return once(object_session(specimen), key, lambda: _chain(specimen, now))


def _chain(specimen: Specimen, now: datetime) -> ChainState:
    if not specimen.periods:
        return stand(stages_for(specimen.test), [], now, _nothing_inside)
    periods = [facts_of(period) for period in specimen.periods]
    enclosures = {period.placed_at: period.enclosure for period in specimen.periods}
    session = object_session(specimen)

    def count(period: PeriodFacts, stage: Stage, until: datetime) -> Elapsed:
        enclosure = enclosures[period.placed_at]
        if session is None:
            return elapsed_by_clock(period.placed_at, until, stage.least_minutes)
        policy = policy_for(session, specimen.test.job)
        by_log = count_period(session, enclosure, period, stage, until, policy)
        return _by_weighing(specimen, period, by_log) or by_log

    return stand(stages_for(specimen.test), periods, now, count)


def _nothing_inside(period: PeriodFacts, stage: Stage, until: datetime) -> Elapsed:
    return elapsed_by_clock(until, until, stage.least_minutes)


def _by_weighing(specimen: Specimen, period: PeriodFacts, elapsed: Elapsed) -> Elapsed | None:
    """The period as completed by equilibrium, when two of its weighings agree."""
    equilibrium = equilibrium_of(specimen, period)
    if elapsed.ready or equilibrium is None or equilibrium.at is None:
        return None
    return Elapsed(
        minutes=elapsed.minutes,
        least_minutes=elapsed.least_minutes,
        ready=True,
        ready_at=equilibrium.at,
        due_at=None,
        counted_by="weighing",
        restart_minutes=elapsed.restart_minutes,
        subtract_minutes=elapsed.subtract_minutes,
        outside_minutes=elapsed.outside_minutes,
        unproven_minutes=elapsed.unproven_minutes,
        excursions=elapsed.excursions,
    )


def equilibrium_of(specimen: Specimen, period: PeriodFacts) -> Equilibrium | None:
    """The result of the weighings during a period; None without one."""
    end = period.removed_at
    rows = [
        (weighing.at, weighing.mass_g)
        for weighing in specimen.weighings
        if weighing.at >= period.placed_at and (end is None or weighing.at <= end)
    ]
    if not rows:
        return None
    return equilibrium(rows)


def conditioning_facts(specimen: Specimen, now: datetime) -> ConditioningFacts | None:
    """The conditioning of a specimen up to now, for the report; None if it was never placed."""
    chain = chain_state(specimen, now)
    if not chain.periods:
        return None
    enclosures = {period.placed_at: period.enclosure for period in specimen.periods}
    periods = [
        run_facts.PeriodFacts(
            enclosure=period.enclosure,
            atmosphere=period.atmosphere,
            set_point=atmosphere_in(enclosures[period.placed_at], at=period.placed_at).in_words(),
            placed_at=period.placed_at,
            until=period.removed_at or now,
            minutes=round(elapsed.minutes, 1),
            least_minutes=elapsed.least_minutes,
            is_complete=elapsed.ready,
            counted_by=elapsed.counted_by,
            restart_minutes=round(elapsed.restart_minutes, 1),
            subtract_minutes=round(elapsed.subtract_minutes, 1),
            outside_minutes=round(elapsed.outside_minutes, 1),
            unproven_minutes=round(elapsed.unproven_minutes, 1),
            excursions=elapsed.excursions,
        )
        for period, elapsed in chain.periods
    ]
    return ConditioningFacts(**periods[-1].model_dump(), periods=periods)


PLACED_ELSEWHERE = "departure.not-conditioned.elsewhere"


def departures(specimen: Specimen, now: datetime) -> list[Departure]:
    """How a test of this specimen now would depart from its chain, by code and in words."""
    test = specimen.test
    stages = stages_for(test)
    if not stages:
        return age_departures(test, now)
    chain = chain_state(specimen, now)
    departed = list(chain.broken)
    elapsed = chain.elapsed
    if not chain.periods:
        elsewhere = specimen.periods[-1].enclosure.name if specimen.periods else None
        sentence = "departure.not-conditioned" if elsewhere is None else PLACED_ELSEWHERE
        departed.append(Departure.of("not-conditioned", sentence=sentence, enclosure=elsewhere))
    elif chain.progress in ("conditioned", "waiting") and chain.stage is not None:
        departed.append(stage_left_out(_next_stage(stages, chain)))
    elif not chain.ready and elapsed is not None:
        where = chain.periods[-1][0].enclosure
        departed.append(
            Departure.of(
                "time-not-served",
                elapsed=f"{in_numbers(round(elapsed.minutes / 60, 1))} h",
                required=f"{in_numbers(elapsed.least_minutes / 60)} h",
                enclosure=where,
            )
        )
    return departed + age_departures(test, now)


def _next_stage(stages: tuple[Stage, ...], chain: ChainState) -> Stage:
    """The next stage of a specimen that has completed one and is not through."""
    assert chain.stage is not None  # noqa: S101 - the progress says so
    if chain.progress == "waiting":
        return chain.stage
    return stages[min(stages.index(chain.stage) + 1, len(stages) - 1)]


def next_stage(specimen: Specimen, chain: ChainState) -> Stage | None:
    """The stage to place a specimen in next; None while one goes on, or after the last."""
    stages = stages_for(specimen.test)
    if chain.progress == "to-place":
        return chain.stage
    if chain.progress in ("conditioned", "waiting"):
        return _next_stage(stages, chain)
    return None


def age_departures(test: Test, now: datetime) -> list[Departure]:
    """A test outside the window since its material was made, where that moment is known."""
    guide = find_method(test.method).guide
    made_at = (test.preparation or {}).get("made_at")
    if guide.age is None or made_at is None or not guide.age.requested(test.parameters):
        return []
    hours = (now - datetime.fromisoformat(made_at)).total_seconds() / 3600
    what, min_hours = guide.age.event, guide.age.least_for(test.parameters)
    if hours < min_hours:
        return [Departure.of("too-young", hours=round(hours, 1), event=what, min=min_hours)]
    if hours > guide.age.max_hours:
        return [
            Departure.of(
                "too-old", days=round(hours / 24, 1), event=what, max=guide.age.max_hours / 24
            )
        ]
    return []
