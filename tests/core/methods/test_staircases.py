"""A staircase of darts: which mass is due, when it ends, and what the failures give."""

from __future__ import annotations

import random
from typing import Any

import pytest

from endurant.core.methods.falling_dart import (
    DartParameters,
    DartReadings,
    climb,
    give_figures,
    next_drop,
    pieces_of_film,
)
from endurant.core.methods.results import SpecimenResult
from endurant.core.refusals import Invalid

START, STEP = 180.0, 15.0


def parameters(**given: Any) -> DartParameters:
    return DartParameters(**({"start_g": START, "step_g": STEP} | given))


def series(outcomes: str) -> list[dict[str, Any]]:
    """Drops by the rule: `x` failed and goes down a step, `o` held and goes up one."""
    mass, drops = START, []
    for outcome in outcomes:
        failed = outcome == "x"
        drops.append({"mass_g": mass, "failed": failed})
        mass += -STEP if failed else STEP
    return drops


def climbed(outcomes: str, **given: Any) -> Any:
    return climb(DartReadings(label="M1", drops=series(outcomes)), parameters(**given))


@pytest.mark.parametrize(
    ("outcomes", "next_g"), [("o", 195), ("x", 165), ("ox", 180), ("xx", 150), ("oox", 195)]
)
def test_a_film_that_held_is_struck_harder_and_one_that_failed_less(
    outcomes: str, next_g: float
) -> None:
    found = climbed(outcomes)
    assert (found.next_g, found.done) == (next_g, False)
    turn = next_drop(parameters().model_dump(), series(outcomes))
    assert turn is not None
    assert turn.sets == {"mass_g": next_g}
    assert turn.title == f"Drop {len(outcomes) + 1}: {next_g:g} g"


def test_the_first_drop_is_at_the_start() -> None:
    turn = next_drop(parameters().model_dump(), [])
    assert turn is not None
    assert turn.sets == {"mass_g": START}


def test_a_mass_that_was_not_due_is_refused_with_the_one_that_was() -> None:
    drops = series("oox")
    drops[2]["mass_g"] += 1
    with pytest.raises(Invalid) as refusal:
        climb(DartReadings(label="M1", drops=drops), parameters())
    assert (refusal.value.code, refusal.value.field) == ("reading.dart-mass-wrong", "mass_g")
    assert "210" in refusal.value.sentence


def test_twenty_drops_with_ten_failures_are_enough() -> None:
    found = climbed("xo" * 10)
    assert found.done
    assert len(found.drops) == 20
    assert len(found.failures()) == 10
    assert not climbed("xo" * 9).done


def test_a_series_with_fewer_failures_goes_on_until_ten_failed() -> None:
    assert not climbed("oox" * 6 + "oo").done
    found = climbed("oox" * 10)
    assert found.done
    assert len(found.failures()) == 10


def test_a_series_with_more_failures_goes_on_until_ten_held() -> None:
    outcomes = "xxo" * 7
    assert not climbed(outcomes).done
    found = climbed("xxo" * 10)
    assert found.done
    assert sum(not drop.failed for drop in found.drops) == 10


def test_drops_beyond_the_end_do_not_enter() -> None:
    found = climbed("xo" * 10 + "xo")
    assert len(found.drops) == 20


@pytest.mark.parametrize("seed", range(8))
def test_every_series_by_the_rule_ends_and_holds_what_ended_it(seed: int) -> None:
    luck = random.Random(seed)
    drops: list[dict[str, Any]] = []
    settings = parameters().model_dump()
    while (turn := next_drop(settings, drops)) is not None:
        drops.append({**turn.sets, "failed": luck.random() < turn.sets["mass_g"] / 400})
        assert len(drops) < 400
    found = climb(DartReadings(label="M1", drops=drops), parameters())
    held = len(found.drops) - len(found.failures())
    assert len(found.drops) >= 20
    assert max(held, len(found.failures())) >= 10
    assert min(held, len(found.failures())) <= 10


def figures(masses: list[float], step_g: float = STEP) -> SpecimenResult:
    result = SpecimenResult("M1", None, "original")
    give_figures(result, masses, step_g)
    return result


def test_the_failure_mass_is_half_a_step_below_the_mean_of_the_failures() -> None:
    masses = [180, 195, 195, 210, 180, 195, 210, 195, 195, 180]
    result = figures([float(mass) for mass in masses])
    assert result.figure("failure_mass") == pytest.approx(sum(masses) / 10 - STEP / 2)


def test_the_spread_is_that_of_the_rule() -> None:
    """Steps 0 to 3 above the lowest, by hand: N = 10, A = 16, B = 32."""
    masses = [150.0, *[165.0] * 4, *[180.0] * 3, *[195.0] * 2]
    result = figures(masses)
    n, a, b = 10, 4 + 6 + 6, 4 + 12 + 18
    assert result.figure("sd") == pytest.approx(1.62 * 15 * ((n * b - a * a) / n**2 + 0.029))
    assert result.flags == []


def test_failures_at_one_mass_give_no_spread() -> None:
    result = figures([180.0] * 10)
    assert result.figure("failure_mass") == pytest.approx(172.5)
    assert result.figure("sd") is None
    assert [flag.code for flag in result.flags] == ["sd-not-valid"]


def test_a_step_that_is_too_small_for_the_spread_is_noted() -> None:
    masses = [150.0, 195.0, 165.0, 210.0, 150.0, 225.0, 180.0, 240.0, 150.0, 240.0]
    result = figures(masses)
    assert "step-unsuitable" in [flag.code for flag in result.flags]
    assert (result.figure("sd") or 0) > 2 * STEP


@pytest.mark.parametrize(("drops", "pieces"), [(None, 25), (20, 25), (40, 50)])
def test_a_quarter_more_pieces_are_kept_for_a_series_that_goes_on(
    drops: int | None, pieces: int
) -> None:
    demand = pieces_of_film({} if drops is None else {"drops_planned": drops})
    assert demand.pieces == pieces
    assert f"{pieces - (drops or 20)} more" in demand.text
