"""Excursions of a room, and equilibrium by weighing."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Literal

import pytest

from endurant.core.conditioning.atmospheres import find_atmosphere
from endurant.core.conditioning.excursions import excursions
from endurant.core.conditioning.periods import PeriodStretch
from endurant.core.conditioning.weighing import equilibrium

START = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)
ROOM = find_atmosphere("textile-20-65")


def at(minutes: float) -> datetime:
    return START + timedelta(minutes=minutes)


def stretch(
    begin: float,
    end: float,
    state: Literal["inside", "outside", "unproven"],
    reading: tuple[float, float | None] | None = None,
) -> PeriodStretch:
    return PeriodStretch(at(begin), at(end), state, reading)


def test_stretches_outside_that_touch_are_one_excursion() -> None:
    found = excursions(
        [
            stretch(0, 60, "inside", (20.0, 65.0)),
            stretch(60, 70, "outside", (23.0, 65.0)),
            stretch(70, 75, "outside", (25.5, 58.0)),
            stretch(75, 100, "inside", (20.0, 65.0)),
            stretch(100, 110, "outside", (17.0, 65.0)),
            stretch(110, 200, "inside", (20.0, 65.0)),
        ],
        ROOM,
    )
    assert [(each.minutes, each.start, each.end) for each in found] == [
        (15, at(60), at(75)),
        (10, at(100), at(110)),
    ]
    assert [each.worst_temperature_c for each in found] == [25.5, 17.0]
    assert [each.worst_humidity_percent for each in found] == [58.0, None]


def test_an_excursion_at_the_end_goes_on() -> None:
    (found,) = excursions([stretch(0, 5, "outside", (30.0, None))], ROOM)
    assert found.end is None
    assert found.worst_humidity_percent is None


def test_a_gap_in_the_log_is_no_excursion() -> None:
    assert excursions([stretch(0, 500, "unproven"), stretch(500, 510, "inside")], ROOM) == []


def test_two_masses_two_hours_apart_that_agree_are_equilibrium() -> None:
    found = equilibrium([(at(0), 10.0), (at(60), 9.9), (at(120), 9.98)])
    assert found.reached
    assert (found.at, found.against) == (at(120), at(0))
    assert found.change_percent == pytest.approx(100 * 0.02 / 9.98)


@pytest.mark.parametrize(
    ("later", "reached"), [(10.02505, True), (10.02507, False), (9.97507, True), (9.97505, False)]
)
def test_the_change_is_a_share_of_the_later_mass_with_its_limit_inside(
    later: float, *, reached: bool
) -> None:
    assert equilibrium([(at(0), 10.0), (at(120), later)]).reached is reached


def test_each_weighing_is_compared_with_the_latest_that_is_old_enough() -> None:
    found = equilibrium([(at(0), 10.5), (at(30), 10.0), (at(140), 9.99), (at(150), 10.0)])
    assert not equilibrium([(at(0), 10.5), (at(30), 10.0), (at(140), 9.99)]).reached
    assert (found.reached, found.against) == (True, at(30))


def test_one_weighing_says_nothing_yet() -> None:
    found = equilibrium([(at(0), 10.0)])
    assert (found.reached, found.against, found.change_percent) == (False, None, None)
    assert not equilibrium([(at(0), 10.0), (at(119), 10.0)]).reached
