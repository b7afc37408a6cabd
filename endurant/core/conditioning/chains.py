"""Chains of periods before a test: oven, desiccator, flame; each stage with its windows."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, Literal

from endurant.core.conditioning.atmospheres import WATER, find_atmosphere, serves_for
from endurant.core.conditioning.periods import Elapsed
from endurant.core.departures import Departure
from endurant.core.messages import worded
from endurant.core.methods.guide import Guide
from endurant.core.rounding import in_numbers

SOAK_MINUTES = 60.0
WATER_TO_GRIP_MINUTES = 1.0


@dataclass(frozen=True)
class Stage:
    """One stage of a chain, least and greatest times in minutes.

    `most_wait_minutes` is the greatest wait from leaving it to the next stage or the test; None
    where it does not matter.
    """

    atmosphere: str
    least_minutes: float
    most_wait_minutes: float | None = None
    why: str = ""


@dataclass(frozen=True)
class PeriodFacts:
    """One period of a specimen: where, and from when to when (None while it is there)."""

    atmosphere: str
    enclosure: str
    placed_at: datetime
    removed_at: datetime | None


Progress = Literal["to-place", "in-progress", "conditioned", "waiting", "ready"]
"""`to-place`: in the next stage; `in-progress`: not complete; `conditioned`: to be moved on;
`waiting`: out, the next stage is due; `ready`: every stage is complete."""


@dataclass(frozen=True)
class ChainState:
    """Where a specimen stands in its chain.

    `stage` is the one it is in or waits for. `latest_at` is the moment by which the next step
    must begin, and `broken` says in words what was not kept on the way.
    """

    progress: Progress
    stage: Stage | None
    elapsed: Elapsed | None
    latest_at: datetime | None
    broken: tuple[Departure, ...]
    periods: tuple[tuple[PeriodFacts, Elapsed], ...]

    @property
    def ready(self) -> bool:
        """It may be tested now as far as its chain goes; what was not kept is named apart."""
        return self.progress == "ready"


def stages_of(guide: Guide, parameters: Mapping[str, Any], state: str) -> tuple[Stage, ...]:
    """Return the chain of stages that a method needs; a wet test soaks its specimens instead."""
    if state == "wet":
        return (
            Stage(
                WATER,
                SOAK_MINUTES,
                WATER_TO_GRIP_MINUTES,
                worded("atmosphere.wet-strength-is-lost-as-it-dries"),
            ),
        )
    if guide.stages is not None:
        return tuple(
            Stage(stage.atmosphere, stage.least_minutes, _wait(stage, parameters), stage.why)
            for stage in guide.stages
        )
    if guide.atmosphere is None:
        return ()
    return (Stage(guide.atmosphere, find_atmosphere(guide.atmosphere).least_minutes),)


def _wait(specimen: Any, parameters: Mapping[str, Any]) -> float | None:
    """The greatest wait, from a parameter in seconds where the stage names one."""
    if specimen.wait_parameter_s:
        return float(parameters[specimen.wait_parameter_s]) / 60
    wait: float | None = specimen.most_wait_minutes
    return wait


def stand(
    stages: Sequence[Stage],
    periods: Sequence[PeriodFacts],
    now: datetime,
    count: Callable[[PeriodFacts, Stage, datetime], Elapsed],
) -> ChainState:
    """Follow the periods, in order of time, through the stages.

    `count` gives the progress of a period for a stage at a moment. A period in an
    earlier stage begins the chain there anew; periods elsewhere do not count.
    """
    place, broken = 0, list[Departure]()
    counted: list[tuple[PeriodFacts, Elapsed]] = []
    for period in periods:
        at = _place_of(stages, period, place)
        if at is None:
            continue
        before = counted[-1] if counted else None
        if before is None or at > place:
            first_missing = 0 if before is None else place + 1
            broken += _left_out(stages[first_missing:at])
        if before is not None and at > place:
            broken += _left_too_soon(stages[place], before)
            broken += _too_late(stages[place], before[0], period.placed_at, period.enclosure)
        if before is not None and at <= place:
            counted = counted[:-1] if at == place else []
            broken = broken if at == place else []
        place = at
        until = period.removed_at or now
        counted.append((period, count(period, stages[at], until)))
    return _chain(stages, place, counted, now, broken)


def _left_out(stages: Sequence[Stage]) -> list[Departure]:
    return [stage_left_out(stage) for stage in stages]


def stage_left_out(stage: Stage) -> Departure:
    """Return the departure of a specimen that was never in a stage of its chain."""
    title = find_atmosphere(stage.atmosphere).title.lower()
    return Departure.of("stage-left-out", stage=title)


def _place_of(stages: Sequence[Stage], period: PeriodFacts, place: int) -> int | None:
    """The stage that a period belongs to: the next one, else any."""
    order = [*range(place, len(stages)), *range(place)]
    return next((at for at in order if serves_for(period.atmosphere, stages[at].atmosphere)), None)


def _chain(
    stages: Sequence[Stage],
    place: int,
    counted: list[tuple[PeriodFacts, Elapsed]],
    now: datetime,
    broken: list[Departure],
) -> ChainState:
    periods = tuple(counted)
    if not stages:
        return ChainState("ready", None, None, None, tuple(broken), periods)
    if not counted:
        return ChainState("to-place", stages[0], None, None, tuple(broken), periods)
    period, elapsed = counted[-1]
    stage, last = stages[place], place == len(stages) - 1
    latest = _latest(stage, period)
    if last:
        if not elapsed.ready:
            again: Progress = "in-progress" if period.removed_at is None else "to-place"
            return ChainState(again, stage, elapsed, latest, tuple(broken), periods)
        broken += _too_late(stage, period, now)
        return ChainState("ready", stage, elapsed, latest, tuple(broken), periods)
    if period.removed_at is None:
        progress: Progress = "conditioned" if elapsed.ready else "in-progress"
        return ChainState(progress, stage, elapsed, latest, tuple(broken), periods)
    return ChainState("waiting", stages[place + 1], elapsed, latest, tuple(broken), periods)


def _latest(stage: Stage, period: PeriodFacts) -> datetime | None:
    if period.removed_at is None or stage.most_wait_minutes is None:
        return None
    return period.removed_at + timedelta(minutes=stage.most_wait_minutes)


def _left_too_soon(stage: Stage, current: tuple[PeriodFacts, Elapsed]) -> list[Departure]:
    period, elapsed = current
    if elapsed.ready:
        return []
    return [
        Departure.of(
            "time-not-served",
            elapsed=minutes_in_words(elapsed.minutes),
            required=minutes_in_words(stage.least_minutes),
            enclosure=period.enclosure,
        )
    ]


def _too_late(
    stage: Stage, period: PeriodFacts, moment: datetime, into: str | None = None
) -> list[Departure]:
    """The window after a stage was overrun, before the test or the next enclosure (`into`)."""
    latest = _latest(stage, period)
    if latest is None or period.removed_at is None or moment <= latest:
        return []
    gone = (moment - period.removed_at) / timedelta(minutes=1)
    transferred = "departure.window-overrun.transfer"
    return [
        Departure.of(
            "window-overrun",
            sentence="departure.window-overrun" if into is None else transferred,
            waited=minutes_in_words(gone),
            max=minutes_in_words(stage.most_wait_minutes or 0),
            enclosure=period.enclosure,
            into=into,
        )
    ]


def stage_in_words(stage: Stage) -> str:
    """Return a stage as it is said: "Drying oven 30 min, then within 1 min"."""
    text = f"{find_atmosphere(stage.atmosphere).title} {minutes_in_words(stage.least_minutes)}"
    if stage.most_wait_minutes is not None:
        text += worded(
            "atmosphere.then-within", most_wait_minutes=minutes_in_words(stage.most_wait_minutes)
        )
    return text


def minutes_in_words(minutes: float) -> str:
    """Return a time as a person says it: 45 s, 30 min, 23.5 h."""
    if minutes < 2:
        return f"{in_numbers(round(minutes * 60))} s"
    if minutes < 120:
        return f"{in_numbers(round(minutes))} min"
    return f"{in_numbers(round(minutes / 60, 1))} h"
