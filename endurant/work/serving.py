"""What specimens have served: their stays, held against the logs, through the chain of a test."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session, object_session

from endurant.core.chains import Stage, Standing, StayFacts, stages_of, stand
from endurant.core.conditioning import Atmosphere, Served, find_atmosphere, served_by_clock
from endurant.core.conditioning_document import (
    Policy,
    WeighingsAsked,
    served_by_log,
    weigh,
)
from endurant.core.methods import find_method
from endurant.core.quantities import in_numbers
from endurant.store.tables import (
    Enclosure,
    EnclosureReading,
    Laboratory,
    Specimen,
    Stay,
    Test,
)
from endurant.work.remembered import Remembered

Reading = tuple[datetime, float, float | None]
MOST_COUNTED = 2000


def atmosphere_in(enclosure: Enclosure, least_minutes: float | None = None) -> Atmosphere:
    """The atmosphere of an enclosure, with its own set point and the least stay of a stage."""
    usual = find_atmosphere(enclosure.atmosphere)
    least = usual.least_minutes if least_minutes is None else least_minutes
    return replace(usual, least_minutes=least, **(enclosure.set_point or {}))


def log_between(
    session: Session, enclosure_id: int, start: datetime, end: datetime
) -> list[Reading]:
    """The readings of a stretch, with the one that stood at its start and the next after it."""
    table = EnclosureReading
    columns = select(table.at, table.temperature_c, table.humidity_percent)
    own = columns.where(table.enclosure_id == enclosure_id)
    before = session.execute(own.where(table.at <= start).order_by(table.at.desc()).limit(1))
    within = session.execute(own.where(table.at > start, table.at <= end).order_by(table.at))
    after = session.execute(own.where(table.at > end).order_by(table.at).limit(1))
    return [(row[0], row[1], row[2]) for row in (*before, *within, *after)]


def keeps_log(session: Session, enclosure: Enclosure) -> bool:
    """A logger answers there, or a log of it was brought in."""
    return enclosure.host is not None or _log_state(session, enclosure.id)[0] > 0


def _log_state(session: Session, enclosure_id: int) -> tuple[int, datetime | None]:
    """How many readings a log has and its newest: a log that grew or was mended has others."""
    known: dict[int, tuple[int, datetime | None]] = session.info.setdefault("logs", {})
    if not known:
        table = EnclosureReading
        counted = select(table.enclosure_id, func.count(), func.max(table.at))
        rows = session.execute(counted.group_by(table.enclosure_id))
        known |= {row[0]: (row[1], row[2]) for row in rows}
        known.setdefault(0, (0, None))
    return known.get(enclosure_id, (0, None))


def house_policy(session: Session) -> Policy:
    """What an excursion does to the clock in this house."""
    if "policy" not in session.info:
        chosen = session.scalar(select(Laboratory.conditioning_policy).where(Laboratory.id == 1))
        session.info["policy"] = "subtract" if chosen == "subtract" else "restart"
    policy: Policy = session.info["policy"]
    return policy


def count_stay(
    session: Session, enclosure: Enclosure, stay: StayFacts, stage: Stage, until: datetime
) -> Served:
    """What a stay has served for a stage at a moment: by the log, or by the clock without one.

    The log is held against what the stage asks for, or against the enclosure's own set point
    where it has one. Stays that began and ended together are counted once for a session.
    """
    # Two web processes may disagree on the time by a little: no stay is shorter than nothing.
    until = max(until, stay.hung_at)
    if not keeps_log(session, enclosure):
        return served_by_clock(stay.hung_at, until, stage.least_minutes)
    asked, policy = _asked_in(enclosure, stage), house_policy(session)
    log_state = _log_state(session, enclosure.id)
    key = (enclosure.id, stay.hung_at, stay.taken_at, asked, policy, log_state)
    # A stay that is over is counted once for all; one that goes on, once for a session.
    remembered = (
        session.info.setdefault("counted", Remembered[Served](MOST_COUNTED))
        if stay.taken_at is None
        else _counted
    )
    found = remembered.get(key)
    if found is None:
        rows = log_between(session, enclosure.id, stay.hung_at, until)
        found = served_by_log(asked, rows, (stay.hung_at, until), policy)
        remembered.put(key, found)
    return found


_counted: Remembered[Served] = Remembered(MOST_COUNTED)


def _asked_in(enclosure: Enclosure, stage: Stage) -> Atmosphere:
    if enclosure.set_point is not None or enclosure.atmosphere == stage.atmosphere:
        return atmosphere_in(enclosure, stage.least_minutes)
    return replace(find_atmosphere(stage.atmosphere), least_minutes=stage.least_minutes)


def stages_for(test: Test) -> tuple[Stage, ...]:
    """The chain of a test: what was set for it, else what its method asks for."""
    own = (test.preparation or {}).get("stages")
    if own is not None:
        return tuple(Stage(**one) for one in own)
    return usual_stages(test)


def usual_stages(test: Test) -> tuple[Stage, ...]:
    """The chain that the method of a test asks for."""
    return stages_of(find_method(test.method).guide, test.parameters, test.state)


def facts_of(stay: Stay) -> StayFacts:
    """A stay as the core knows it."""
    return StayFacts(stay.enclosure.atmosphere, stay.enclosure.name, stay.hung_at, stay.taken_at)


def standing_of(specimen: Specimen, now: datetime) -> Standing:
    """Where a specimen stands in the chain of its test."""
    if not specimen.stays:
        return stand(stages_for(specimen.test), [], now, _nothing_hangs)
    stays = [facts_of(stay) for stay in specimen.stays]
    enclosures = {stay.hung_at: stay.enclosure for stay in specimen.stays}
    session = object_session(specimen)

    def count(stay: StayFacts, stage: Stage, until: datetime) -> Served:
        enclosure = enclosures[stay.hung_at]
        if session is None:
            return served_by_clock(stay.hung_at, until, stage.least_minutes)
        told = count_stay(session, enclosure, stay, stage, until)
        return _by_weighing(specimen, stay, told) or told

    return stand(stages_for(specimen.test), stays, now, count)


def _nothing_hangs(stay: StayFacts, stage: Stage, until: datetime) -> Served:
    return served_by_clock(until, until, stage.least_minutes)


def _by_weighing(specimen: Specimen, stay: StayFacts, told: Served) -> Served | None:
    """The stay as served by equilibrium, when two of its weighings agree."""
    found = equilibrium_of(specimen, stay)
    if told.ready or found is None or not found["reached"]:
        return None
    return Served(
        minutes=told.minutes,
        least_minutes=told.least_minutes,
        ready=True,
        ready_at=datetime.fromisoformat(found["at"]),
        due_at=None,
        counted_by="weighing",
        restart_minutes=told.restart_minutes,
        subtract_minutes=told.subtract_minutes,
        outside_minutes=told.outside_minutes,
        unproven_minutes=told.unproven_minutes,
        excursions=told.excursions,
    )


def equilibrium_of(specimen: Specimen, stay: StayFacts) -> dict[str, Any] | None:
    """What the weighings during a stay say; None without one."""
    end = stay.taken_at
    rows = [
        (one.at, one.mass_g)
        for one in specimen.weighings
        if one.at >= stay.hung_at and (end is None or one.at <= end)
    ]
    if not rows:
        return None
    return weigh(WeighingsAsked.model_construct(weighings=rows, min_hours=2.0, max_percent=0.25))


def conditioning_facts(specimen: Specimen, now: datetime) -> dict[str, Any] | None:
    """What the specimen served up to now, as the report will say it; None when it hung nowhere."""
    standing = standing_of(specimen, now)
    if not standing.stays:
        return None
    enclosures = {stay.hung_at: stay.enclosure for stay in specimen.stays}
    stays = [
        {
            "enclosure": stay.enclosure,
            "atmosphere": stay.atmosphere,
            "set_point": atmosphere_in(enclosures[stay.hung_at]).in_words(),
            "from": stay.hung_at.isoformat(),
            "to": (stay.taken_at or now).isoformat(),
            "minutes": round(told.minutes, 1),
            "least_minutes": told.least_minutes,
            "served": told.ready,
            "counted_by": told.counted_by,
            "restart_minutes": round(told.restart_minutes, 1),
            "subtract_minutes": round(told.subtract_minutes, 1),
            "outside_minutes": round(told.outside_minutes, 1),
            "unproven_minutes": round(told.unproven_minutes, 1),
            "excursions": told.excursions,
        }
        for stay, told in standing.stays
    ]
    return stays[-1] | {"stays": stays}


def departures(specimen: Specimen, now: datetime) -> list[tuple[str, str]]:
    """How a test of this specimen now would depart from its chain, by code and in words."""
    test = specimen.test
    stages = stages_for(test)
    if not stages:
        return age_departures(test, now)
    standing = standing_of(specimen, now)
    label = specimen.label
    found = [(code, f"{label}: {says}") for code, says in standing.broken]
    served = standing.served
    if not standing.stays:
        elsewhere = specimen.stays[-1].enclosure.name if specimen.stays else None
        where = "an enclosure" if elsewhere is None else f"the right one, only in {elsewhere}"
        found.append(("not-conditioned", f"{label} was not hung in {where}"))
    elif standing.progress in ("served", "waiting") and standing.stage is not None:
        title = find_atmosphere(_next_stage(stages, standing).atmosphere).title
        found.append(("stage-left-out", f"{label} was not in the {title.lower()} yet"))
    elif not standing.ready and served is not None:
        where = standing.stays[-1][0].enclosure
        found.append(
            (
                "time-not-served",
                f"{label} has served {in_numbers(round(served.minutes / 60, 1))} h of "
                f"{in_numbers(served.least_minutes / 60)} h in {where}",
            )
        )
    return found + age_departures(test, now)


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


def age_departures(test: Test, now: datetime) -> list[tuple[str, str]]:
    """A test outside the window since its material was made, where that moment is known."""
    guide = find_method(test.method).guide
    told = (test.preparation or {}).get("made_at")
    if guide.age is None or told is None:
        return []
    hours = (now - datetime.fromisoformat(told)).total_seconds() / 3600
    what = guide.age.event
    if hours < guide.age.least_hours:
        return [
            (
                "too-young",
                f"tested {in_numbers(round(hours, 1))} h after {what}; "
                f"{in_numbers(guide.age.least_hours)} h at least",
            )
        ]
    if hours > guide.age.most_hours:
        return [
            (
                "too-old",
                f"tested {in_numbers(round(hours / 24, 1))} days after {what}; "
                f"{in_numbers(guide.age.most_hours / 24)} days at most",
            )
        ]
    return []
