"""Chains of stays: each stage with its least time and its window, and what was not kept."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest

from endurant.core.conditioning.chains import (
    ChainState,
    PeriodFacts,
    Stage,
    minutes_in_words,
    stage_in_words,
    stages_of,
    stand,
)
from endurant.core.conditioning.periods import Elapsed, elapsed_by_clock
from endurant.core.methods import find_method

NOON = datetime(2026, 3, 2, 12, 0, tzinfo=UTC)
ROOM = (Stage("textile-20-65", 1440),)
FIRE = (Stage("oven-105", 30, 1), Stage("desiccator", 15, 0.75))


def at(minutes: float) -> datetime:
    return NOON + timedelta(minutes=minutes)


def period(atmosphere: str, start: float, end: float | None) -> PeriodFacts:
    return PeriodFacts(atmosphere, atmosphere.title(), at(start), None if end is None else at(end))


def by_clock(facts: PeriodFacts, stage: Stage, until: datetime) -> Elapsed:
    return elapsed_by_clock(facts.placed_at, until, stage.least_minutes)


def chain(stages: tuple[Stage, ...], periods: list[PeriodFacts], now: float) -> ChainState:
    return stand(stages, periods, at(now), by_clock)


def test_without_a_chain_a_specimen_is_ready() -> None:
    assert chain((), [], 0).ready


def test_one_stage_is_served_by_time_and_stays_so_when_taken_out() -> None:
    assert chain(ROOM, [], 0).progress == "to-place"
    assert chain(ROOM, [period("textile-20-65", 0, None)], 1439).progress == "in-progress"
    assert chain(ROOM, [period("textile-20-65", 0, None)], 1440).ready
    assert chain(ROOM, [period("textile-20-65", 0, 1440)], 9000).ready
    assert chain(ROOM, [period("textile-20-65", 0, 600)], 9000).progress == "to-place"


def test_a_second_stay_in_the_same_stage_counts_alone() -> None:
    twice = [period("textile-20-65", 0, 1000), period("textile-20-65", 1100, None)]
    stood = chain(ROOM, twice, 2000)
    assert stood.progress == "in-progress"
    assert stood.elapsed is not None
    assert stood.elapsed.minutes == pytest.approx(900)
    assert len(stood.periods) == 1


def test_a_chain_goes_from_oven_to_desiccator_to_flame() -> None:
    oven = period("oven-105", 0, None)
    assert chain(FIRE, [oven], 20).progress == "in-progress"
    assert chain(FIRE, [oven], 31).progress == "conditioned"
    out = period("oven-105", 0, 31)
    waiting = chain(FIRE, [out], 31.5)
    assert waiting.progress == "waiting"
    assert waiting.stage == FIRE[1]
    assert waiting.latest_at == at(32)
    cooling = [out, period("desiccator", 31.5, None)]
    assert chain(FIRE, cooling, 40).progress == "in-progress"
    done = chain(FIRE, [out, period("desiccator", 31.5, 50)], 50.5)
    assert done.ready
    assert done.broken == ()
    assert done.latest_at == at(50.75)


@pytest.mark.parametrize(
    ("periods", "now", "code", "wording"),
    [
        (
            [period("oven-105", 0, 20), period("desiccator", 20, None)],
            60,
            "time-not-served",
            "20 min of 30 min",
        ),
        (
            [period("oven-105", 0, 31), period("desiccator", 40, None)],
            60,
            "window-overrun",
            "9 min after it left Oven-105. The maximum is 60 s",
        ),
        (
            [period("oven-105", 0, 31), period("desiccator", 31.5, 50)],
            52,
            "window-overrun",
            "tested 2 min after it left Desiccator. The maximum is 45 s",
        ),
        ([period("desiccator", 0, None)], 60, "stage-left-out", "not in the drying oven"),
    ],
)
def test_what_was_not_kept_is_named(
    periods: list[PeriodFacts], now: float, code: str, wording: str
) -> None:
    stood = {each.code: each.text for each in chain(FIRE, periods, now).broken}
    assert wording in stood[code]


def test_drying_again_begins_the_chain_anew() -> None:
    late = [
        period("oven-105", 0, 10),
        period("desiccator", 50, 70),
        period("oven-105", 100, 131),
        period("desiccator", 131.5, None),
    ]
    stood = chain(FIRE, late, 150)
    assert stood.ready
    assert stood.broken == ()


def test_a_room_kept_more_tightly_serves_and_another_does_not_count() -> None:
    plastics = (Stage("plastics-23-50", 2400),)
    assert chain(plastics, [period("film-23-50", 0, None)], 2400).ready
    film = (Stage("film-23-50", 2400),)
    assert chain(film, [period("plastics-23-50", 0, None)], 2400).progress == "to-place"
    assert chain(ROOM, [period("pre-conditioning", 0, None)], 9000).progress == "to-place"


def test_the_chain_of_a_method_takes_its_wait_from_a_parameter() -> None:
    fire = find_method("16-cfr-1610")
    stages = stages_of(fire.guide, {"max_transfer_s": 30.0}, "original")
    assert [stage.atmosphere for stage in stages] == ["oven-105", "desiccator"]
    assert stages[1].most_wait_minutes == 0.5
    wet = stages_of(find_method("iso-13934-1").guide, {}, "wet")
    assert [specimen.atmosphere for specimen in wet] == ["water"]
    assert stages_of(find_method("astm-e8").guide, {}, "original") == ()


def test_times_are_said_as_people_say_them() -> None:
    assert minutes_in_words(0.75) == "45 s"
    assert minutes_in_words(30) == "30 min"
    assert minutes_in_words(1440) == "24 h"
    assert stage_in_words(FIRE[0]) == "Drying oven 30 min, then within 60 s"
