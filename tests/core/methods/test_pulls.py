"""The start of a pull: zero, pretension, speed, the load cell, and the cross section."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any

import numpy as np
import pytest

from endurant.core.methods.pulling import (
    PullParameters,
    capacity_flags,
    cross_section,
    find_zero,
    gauge_length,
    grip_separation,
    pull_speed_flags,
    rising_ends,
    speed_between,
    start_flags,
    strain_of,
)
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import SpecimenResult
from endurant.core.refusals import Invalid

NAN = float("nan")


def result() -> SpecimenResult:
    return SpecimenResult("S1", None, "original")


def parameters(**given: Any) -> PullParameters:
    return PullParameters(**given)


def trace(**columns: list[float] | None) -> Any:
    """A trace of these columns; 10 mm in 6 s where nothing else is said: 100 mm/min."""
    known: dict[str, Any] = {
        "time_s": np.linspace(0, 6, 11),
        "extension_mm": np.linspace(0, 10, 11),
        "force_n": np.linspace(0, 100, 11),
        "strain": None,
    }
    given = {name: None if c is None else np.array(c, float) for name, c in columns.items()}
    return SimpleNamespace(**(known | given))


def readings(**given: Any) -> Readings:
    return Readings.model_validate({"label": "S1"} | given)


@pytest.mark.parametrize(
    ("own", "common", "length_mm"), [(50.0, None, 50.0), (50.0, 80.0, 50.0), (None, 80.0, 80.0)]
)
def test_a_specimens_own_gauge_length_goes_before_the_common_one(
    own: float | None, common: float | None, length_mm: float
) -> None:
    specimen = SimpleNamespace(gauge_length_mm=own)
    assert gauge_length(specimen, parameters(gauge_length_mm=common)) == length_mm


def test_a_gauge_length_that_nobody_gave_is_asked_for() -> None:
    with pytest.raises(Invalid) as refusal:
        gauge_length(readings(), parameters())
    assert (refusal.value.code, refusal.value.field) == (
        "reading.gauge-length-missing",
        "gauge_length_mm",
    )


def test_the_grips_stand_as_far_apart_as_was_said_else_the_gauge_length() -> None:
    specimen = SimpleNamespace(gauge_length_mm=50.0)
    assert grip_separation(specimen, parameters()) == 50
    assert grip_separation(specimen, parameters(grip_separation_mm=115)) == 115


@pytest.mark.parametrize(
    ("pretension_n", "place_mm"), [(0.0, 0.0), (10.0, 1.0), (25.0, 2.5), (100.0, 10.0)]
)
def test_zero_is_where_the_pretension_is_first_reached(
    pretension_n: float, place_mm: float
) -> None:
    pull, taken = trace(), result()
    zero = find_zero(taken, pull.force_n, pretension_n)
    assert zero.of(pull.extension_mm) == pytest.approx(place_mm)
    assert taken.flags == []


def test_a_pretension_that_is_never_reached_voids_the_specimen() -> None:
    taken = result()
    assert find_zero(taken, trace().force_n, 101.0).of(trace().extension_mm) == 0
    assert [(flag.code, flag.severity) for flag in taken.flags] == [
        ("pretension-not-reached", "void")
    ]


def test_an_extensometer_that_stays_on_gives_the_strain_as_it_is() -> None:
    strains = list(np.linspace(0, 0.1, 11))
    taken = result()
    specimen = SimpleNamespace(trace=trace(strain=strains), gauge_length_mm=100.0)
    assert list(strain_of(taken, specimen, parameters())) == pytest.approx(strains)
    assert taken.flags == []


def test_once_the_extensometer_is_off_the_crosshead_goes_on_from_its_last_value() -> None:
    strains = [0.0, 0.01, 0.02, *[NAN] * 8]
    taken = result()
    specimen = SimpleNamespace(trace=trace(strain=strains), gauge_length_mm=100.0)
    found = strain_of(taken, specimen, parameters(grip_separation_mm=200))
    assert list(found[:3]) == [0.0, 0.01, 0.02]
    # Each further sample is 1 mm of travel over 200 mm between the grips.
    assert list(found[3:]) == pytest.approx([0.02 + 0.005 * n for n in range(1, 9)])
    (flag,) = taken.flags
    assert (flag.code, flag.severity) == ("strain-from-crosshead", "note")
    assert "2 %" in flag.text


@pytest.mark.parametrize(
    ("first_n", "given", "is_flagged"),
    [
        (0.4, {}, False),
        (0.6, {}, True),
        (0.6, {"max_start_force_n": 1}, False),
        (1.1, {"max_start_force_n": 1}, True),
    ],
)
def test_force_before_the_first_movement_is_questioned(
    first_n: float, given: dict[str, float], is_flagged: bool
) -> None:
    """Half a percent of the maximum of 100 N, where no other limit is set."""
    force = np.array([first_n, *np.linspace(10, 100, 10)])
    flags = start_flags(force, parameters(**given), 0.0)
    assert [flag.code for flag in flags] == (["preloaded-at-start"] if is_flagged else [])


def test_a_pretension_is_no_preload() -> None:
    force = np.array([2.0, 50.0, 100.0])
    assert start_flags(force, parameters(), 2.0) == []
    assert start_flags(force, parameters(), 1.0) != []


def test_the_speed_is_taken_between_a_tenth_and_nine_tenths_of_the_maximum() -> None:
    pull = trace()
    assert rising_ends(pull.force_n) == (1, 9)
    assert speed_between(pull, 1, 9) == pytest.approx(100)
    assert speed_between(pull, 3, 3) is None
    assert speed_between(trace(time_s=None), 1, 9) is None


@pytest.mark.parametrize(
    ("speed", "is_flagged"), [(None, False), (100, False), (95, False), (80, True), (150, True)]
)
def test_a_speed_that_is_off_is_flagged(speed: float | None, is_flagged: bool) -> None:
    flags = pull_speed_flags(trace(), speed)
    assert [flag.code for flag in flags] == (["rate-out-of-tolerance"] if is_flagged else [])
    assert pull_speed_flags(trace(time_s=None), speed) == []


@pytest.mark.parametrize(
    ("max_n", "cell_n", "is_flagged"),
    [(50, None, False), (50, 1000, False), (20, 1000, False), (19, 1000, True), (1001, 1000, True)],
)
def test_a_load_cell_is_used_from_two_percent_to_its_capacity(
    max_n: float, cell_n: float | None, is_flagged: bool
) -> None:
    flags = capacity_flags(max_n, cell_n)
    assert [flag.code for flag in flags] == (["outside-range"] if is_flagged else [])


WIDE, THICK = [10.0, 10.2, 9.8], [4.0, 3.9, 4.1]


@pytest.mark.parametrize(
    ("dimensions", "rule", "area_mm2"),
    [
        ({"width_mm": [10.0], "thickness_mm": [4.0]}, "mean", 40.0),
        ({"width_mm": WIDE, "thickness_mm": THICK}, "mean", (40 + 10.2 * 3.9 + 9.8 * 4.1) / 3),
        ({"width_mm": WIDE, "thickness_mm": THICK}, "minimum", 10.2 * 3.9),
        ({"width_mm": WIDE, "thickness_mm": [4.0]}, "mean", 40.0),
        ({"width_mm": WIDE, "thickness_mm": [4.0, 3.8]}, "minimum", 9.8 * 3.8),
        ({"diameter_mm": [8.0]}, "mean", np.pi * 16),
        ({"diameter_mm": [8.0, 7.9]}, "minimum", np.pi * 7.9**2 / 4),
    ],
)
def test_the_cross_section_is_that_of_the_rule(
    dimensions: dict[str, list[float]], rule: Any, area_mm2: float
) -> None:
    area = cross_section(readings(dimensions=dimensions), rule)
    assert area.mm2 == pytest.approx(area_mm2)
    assert area.with_.endswith(" mm")


@pytest.mark.parametrize("dimensions", [None, {"width_mm": [10.0]}, {"thickness_mm": [4.0]}])
def test_a_cross_section_without_its_sizes_is_refused(dimensions: Any) -> None:
    with pytest.raises(Invalid):
        cross_section(readings(dimensions=dimensions), "mean")
