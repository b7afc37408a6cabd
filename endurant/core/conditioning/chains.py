"""Chains of stays before a test: oven, desiccator, flame; each stage with its windows."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, Literal

from endurant.core.conditioning.atmospheres import WATER, find_atmosphere, serves_for
from endurant.core.conditioning.stays import Served
from endurant.core.departures import Departure
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
class StayFacts:
    """One stay of a specimen: where, and from when to when (None while it hangs there)."""

    atmosphere: str
    enclosure: str
    hung_at: datetime
    taken_at: datetime | None


Progress = Literal["to-hang", "hanging", "served", "waiting", "ready"]
"""`to-hang`: in the next stage; `hanging`: not served; `served`: to be moved to the next stage;
`waiting`: out, the next stage is due; `ready`: every stage is served."""


@dataclass(frozen=True)
class Standing:
    """Where a specimen stands in its chain.

    `stage` is the one it is in or waits for. `latest_at` is the moment by which the next step
    must begin, and `broken` says in words what was not kept on the way.
    """

    progress: Progress
    stage: Stage | None
    served: Served | None
    latest_at: datetime | None
    broken: tuple[Departure, ...]
    stays: tuple[tuple[StayFacts, Served], ...]

    @property
    def ready(self) -> bool:
        """It may be tested now as far as its chain goes; what was not kept is named apart."""
        return self.progress == "ready"


def stages_of(guide: Guide, parameters: Mapping[str, Any], state: str) -> tuple[Stage, ...]:
    """Return the chain of stages that a method needs; a wet test soaks its specimens instead."""
    if state == "wet":
        return (
            Stage(WATER, SOAK_MINUTES, WATER_TO_GRIP_MINUTES, "wet strength is lost as it dries"),
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
    stays: Sequence[StayFacts],
    now: datetime,
    count: Callable[[StayFacts, Stage, datetime], Served],
) -> Standing:
    """Follow the stays, in order of time, through the stages.

    `count` gives what a stay has served for a stage at a moment. A stay in an
    earlier stage begins the chain there anew; stays elsewhere do not count.
    """
    place, broken = 0, list[Departure]()
    counted: list[tuple[StayFacts, Served]] = []
    for stay in stays:
        at = _place_of(stages, stay, place)
        if at is None:
            continue
        before = counted[-1] if counted else None
        if before is None or at > place:
            first_missing = 0 if before is None else place + 1
            broken += _left_out(stages[first_missing:at])
        if before is not None and at > place:
            broken += _left_too_soon(stages[place], before)
            broken += _too_late(stages[place], before[0], stay.hung_at, stay.enclosure)
        if before is not None and at <= place:
            counted = counted[:-1] if at == place else []
            broken = broken if at == place else []
        place = at
        until = stay.taken_at or now
        counted.append((stay, count(stay, stages[at], until)))
    return _standing(stages, place, counted, now, broken)


def _left_out(stages: Sequence[Stage]) -> list[Departure]:
    return [stage_left_out(stage) for stage in stages]


def stage_left_out(stage: Stage) -> Departure:
    """Return the departure of a specimen that was never in a stage of its chain."""
    title = find_atmosphere(stage.atmosphere).title.lower()
    return Departure.of("stage-left-out", stage=title)


def _place_of(stages: Sequence[Stage], stay: StayFacts, place: int) -> int | None:
    """The stage that a stay belongs to: the next one, else any."""
    order = [*range(place, len(stages)), *range(place)]
    return next((at for at in order if serves_for(stay.atmosphere, stages[at].atmosphere)), None)


def _standing(
    stages: Sequence[Stage],
    place: int,
    counted: list[tuple[StayFacts, Served]],
    now: datetime,
    broken: list[Departure],
) -> Standing:
    stays = tuple(counted)
    if not stages:
        return Standing("ready", None, None, None, tuple(broken), stays)
    if not counted:
        return Standing("to-hang", stages[0], None, None, tuple(broken), stays)
    stay, served = counted[-1]
    stage, last = stages[place], place == len(stages) - 1
    latest = _latest(stage, stay)
    if last:
        if not served.ready:
            again: Progress = "hanging" if stay.taken_at is None else "to-hang"
            return Standing(again, stage, served, latest, tuple(broken), stays)
        broken += _too_late(stage, stay, now)
        return Standing("ready", stage, served, latest, tuple(broken), stays)
    if stay.taken_at is None:
        progress: Progress = "served" if served.ready else "hanging"
        return Standing(progress, stage, served, latest, tuple(broken), stays)
    return Standing("waiting", stages[place + 1], served, latest, tuple(broken), stays)


def _latest(stage: Stage, stay: StayFacts) -> datetime | None:
    if stay.taken_at is None or stage.most_wait_minutes is None:
        return None
    return stay.taken_at + timedelta(minutes=stage.most_wait_minutes)


def _left_too_soon(stage: Stage, current: tuple[StayFacts, Served]) -> list[Departure]:
    stay, served = current
    if served.ready:
        return []
    return [
        Departure.of(
            "time-not-served",
            served=minutes_in_words(served.minutes),
            required=minutes_in_words(stage.least_minutes),
            enclosure=stay.enclosure,
        )
    ]


def _too_late(
    stage: Stage, stay: StayFacts, moment: datetime, into: str | None = None
) -> list[Departure]:
    """The window after a stage was overrun, before the test or the next enclosure (`into`)."""
    latest = _latest(stage, stay)
    if latest is None or stay.taken_at is None or moment <= latest:
        return []
    gone = (moment - stay.taken_at) / timedelta(minutes=1)
    transferred = "departure.window-overrun.transfer"
    return [
        Departure.of(
            "window-overrun",
            sentence="departure.window-overrun" if into is None else transferred,
            waited=minutes_in_words(gone),
            max=minutes_in_words(stage.most_wait_minutes or 0),
            enclosure=stay.enclosure,
            into=into,
        )
    ]


def stage_in_words(stage: Stage) -> str:
    """Return a stage as it is said: "Drying oven 30 min, then within 1 min"."""
    words = f"{find_atmosphere(stage.atmosphere).title} {minutes_in_words(stage.least_minutes)}"
    if stage.most_wait_minutes is not None:
        words += f", then within {minutes_in_words(stage.most_wait_minutes)}"
    return words


def minutes_in_words(minutes: float) -> str:
    """Return a time as a person says it: 45 s, 30 min, 23.5 h."""
    if minutes < 2:
        return f"{in_numbers(round(minutes * 60))} s"
    if minutes < 120:
        return f"{in_numbers(round(minutes))} min"
    return f"{in_numbers(round(minutes / 60, 1))} h"
