"""What specimens have served: their stays, held against the logs, through the chain of a test."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session, object_session

from endurant.core.conditioning.atmospheres import Atmosphere, find_atmosphere
from endurant.core.conditioning.chains import (
    Stage,
    Standing,
    StayFacts,
    stage_left_out,
    stages_of,
    stand,
)
from endurant.core.conditioning.stays import (
    LogRules,
    Policy,
    Served,
    served_by_clock,
)
from endurant.core.conditioning.weighing import Equilibrium, equilibrium
from endurant.core.departures import Departure
from endurant.core.methods import find_method
from endurant.core.rounding import in_numbers
from endurant.store.tables import (
    Enclosure,
    EnclosureReading,
    Specimen,
    Stay,
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
    with_log: dict[int, bool] = session.info.setdefault("with log", {})
    if enclosure.id not in with_log:
        own = select(EnclosureReading.at).where(EnclosureReading.enclosure_id == enclosure.id)
        with_log[enclosure.id] = session.scalar(own.limit(1)) is not None
    return with_log[enclosure.id]


def count_stay(
    session: Session,
    enclosure: Enclosure,
    stay: StayFacts,
    stage: Stage,
    until: datetime,
    policy: Policy,
) -> Served:
    """What a stay has served for a stage at a moment: by the log, or by the clock without one.

    The log is held against what the stage asks for, or against the enclosure's own set point
    where it has one: as it was set when the stay began.
    """
    # Two web processes may disagree on the time by a little: no stay is shorter than nothing.
    until = max(until, stay.hung_at)
    if not keeps_log(session, enclosure):
        return served_by_clock(stay.hung_at, until, stage.least_minutes)
    rules = LogRules(_asked_in(enclosure, stage, stay.hung_at))
    counted = count_by_log(session, enclosure.id, stay.hung_at, until, rules)
    return counted.served(policy)


def _asked_in(enclosure: Enclosure, stage: Stage, at: datetime) -> Atmosphere:
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


def facts_of(stay: Stay) -> StayFacts:
    """A stay as the core knows it."""
    enclosure = stay.enclosure
    kept = atmosphere_id_at(enclosure, stay.hung_at)
    return StayFacts(kept, enclosure.name, stay.hung_at, stay.taken_at)


def facts_in(enclosure: Enclosure, hung_at: datetime) -> StayFacts:
    """A stay that goes on in an enclosure."""
    return StayFacts(atmosphere_id_at(enclosure, hung_at), enclosure.name, hung_at, None)


def standing_of(specimen: Specimen, now: datetime) -> Standing:
    """Where a specimen stands in the chain of its test."""
    key = ("standing", specimen.id, now)
    return once(object_session(specimen), key, lambda: _standing(specimen, now))


def _standing(specimen: Specimen, now: datetime) -> Standing:
    if not specimen.stays:
        return stand(stages_for(specimen.test), [], now, _nothing_hangs)
    stays = [facts_of(stay) for stay in specimen.stays]
    enclosures = {stay.hung_at: stay.enclosure for stay in specimen.stays}
    session = object_session(specimen)

    def count(stay: StayFacts, stage: Stage, until: datetime) -> Served:
        enclosure = enclosures[stay.hung_at]
        if session is None:
            return served_by_clock(stay.hung_at, until, stage.least_minutes)
        policy = policy_for(session, specimen.test.job)
        by_log = count_stay(session, enclosure, stay, stage, until, policy)
        return _by_weighing(specimen, stay, by_log) or by_log

    return stand(stages_for(specimen.test), stays, now, count)


def _nothing_hangs(stay: StayFacts, stage: Stage, until: datetime) -> Served:
    return served_by_clock(until, until, stage.least_minutes)


def _by_weighing(specimen: Specimen, stay: StayFacts, served: Served) -> Served | None:
    """The stay as served by equilibrium, when two of its weighings agree."""
    equilibrium = equilibrium_of(specimen, stay)
    if served.ready or equilibrium is None or equilibrium.at is None:
        return None
    return Served(
        minutes=served.minutes,
        least_minutes=served.least_minutes,
        ready=True,
        ready_at=equilibrium.at,
        due_at=None,
        counted_by="weighing",
        restart_minutes=served.restart_minutes,
        subtract_minutes=served.subtract_minutes,
        outside_minutes=served.outside_minutes,
        unproven_minutes=served.unproven_minutes,
        excursions=served.excursions,
    )


def equilibrium_of(specimen: Specimen, stay: StayFacts) -> Equilibrium | None:
    """What the weighings during a stay say; None without one."""
    end = stay.taken_at
    rows = [
        (weighing.at, weighing.mass_g)
        for weighing in specimen.weighings
        if weighing.at >= stay.hung_at and (end is None or weighing.at <= end)
    ]
    if not rows:
        return None
    return equilibrium(rows)


def conditioning_facts(specimen: Specimen, now: datetime) -> ConditioningFacts | None:
    """What the specimen served up to now, as the report will say it; None when it hung nowhere."""
    standing = standing_of(specimen, now)
    if not standing.stays:
        return None
    enclosures = {stay.hung_at: stay.enclosure for stay in specimen.stays}
    stays = [
        run_facts.StayFacts(
            enclosure=stay.enclosure,
            atmosphere=stay.atmosphere,
            set_point=atmosphere_in(enclosures[stay.hung_at], at=stay.hung_at).in_words(),
            hung_at=stay.hung_at,
            until=stay.taken_at or now,
            minutes=round(served.minutes, 1),
            least_minutes=served.least_minutes,
            served=served.ready,
            counted_by=served.counted_by,
            restart_minutes=round(served.restart_minutes, 1),
            subtract_minutes=round(served.subtract_minutes, 1),
            outside_minutes=round(served.outside_minutes, 1),
            unproven_minutes=round(served.unproven_minutes, 1),
            excursions=served.excursions,
        )
        for stay, served in standing.stays
    ]
    return ConditioningFacts(**stays[-1].model_dump(), stays=stays)


PLACED_ELSEWHERE = "departure.not-conditioned.elsewhere"


def departures(specimen: Specimen, now: datetime) -> list[Departure]:
    """How a test of this specimen now would depart from its chain, by code and in words."""
    test = specimen.test
    stages = stages_for(test)
    if not stages:
        return age_departures(test, now)
    standing = standing_of(specimen, now)
    departed = list(standing.broken)
    served = standing.served
    if not standing.stays:
        elsewhere = specimen.stays[-1].enclosure.name if specimen.stays else None
        sentence = "departure.not-conditioned" if elsewhere is None else PLACED_ELSEWHERE
        departed.append(Departure.of("not-conditioned", sentence=sentence, enclosure=elsewhere))
    elif standing.progress in ("served", "waiting") and standing.stage is not None:
        departed.append(stage_left_out(_next_stage(stages, standing)))
    elif not standing.ready and served is not None:
        where = standing.stays[-1][0].enclosure
        departed.append(
            Departure.of(
                "time-not-served",
                served=f"{in_numbers(round(served.minutes / 60, 1))} h",
                required=f"{in_numbers(served.least_minutes / 60)} h",
                enclosure=where,
            )
        )
    return departed + age_departures(test, now)


def _next_stage(stages: tuple[Stage, ...], standing: Standing) -> Stage:
    """The stage that comes next for a specimen that has served one and is not through."""
    assert standing.stage is not None  # noqa: S101 - the progress says so
    if standing.progress == "waiting":
        return standing.stage
    return stages[min(stages.index(standing.stage) + 1, len(stages) - 1)]


def next_stage(specimen: Specimen, standing: Standing) -> Stage | None:
    """The stage a specimen is to be hung in next; None when it hangs on or is through."""
    stages = stages_for(specimen.test)
    if standing.progress == "to-hang":
        return standing.stage
    if standing.progress in ("served", "waiting"):
        return _next_stage(stages, standing)
    return None


def age_departures(test: Test, now: datetime) -> list[Departure]:
    """A test outside the window since its material was made, where that moment is known."""
    guide = find_method(test.method).guide
    made_at = (test.preparation or {}).get("made_at")
    if guide.age is None or made_at is None or not guide.age.asked(test.parameters):
        return []
    hours = (now - datetime.fromisoformat(made_at)).total_seconds() / 3600
    what, least_hours = guide.age.event, guide.age.least_for(test.parameters)
    if hours < least_hours:
        return [Departure.of("too-young", hours=round(hours, 1), event=what, min=least_hours)]
    if hours > guide.age.most_hours:
        return [
            Departure.of(
                "too-old", days=round(hours / 24, 1), event=what, max=guide.age.most_hours / 24
            )
        ]
    return []
