"""Sizes off a specimen: figures, odd readings, slips of the unit, sections and grammage."""

from __future__ import annotations

from math import inf, nan, pi

import pytest
from hypothesis import given
from hypothesis import strategies as st

from endurant.core.measuring import (
    NAMES,
    check_readings,
    grammage_g_m2,
    look_at,
    places_mm,
    section_of,
)
from endurant.core.methods import all_methods, find_method
from endurant.core.methods.guide import Blank, Measure
from endurant.core.refusals import Invalid


def kinds(readings: list[float], usual_mm: float | None = None) -> list[tuple[int | None, str]]:
    return [(remark.place, remark.kind) for remark in look_at(readings, usual_mm).remarks]


def test_mean_least_and_spread() -> None:
    looked = look_at([4.0, 4.1, 4.2])
    assert looked.mean_mm == pytest.approx(4.1)
    assert looked.min_mm == 4.0
    assert looked.spread_percent == pytest.approx(100 * 0.2 / 4.1)
    assert looked.remarks == ()


@pytest.mark.parametrize(
    ("readings", "usual", "expected"),
    [
        ([10, 10.1, 11, 10.05, 10], None, [(2, "odd")]),
        ([10, 10.4, 10.2], None, []),
        ([10, 12], None, [(None, "odd")]),
        ([10, 10.4], None, []),
        ([14.99, 15.03, 15, 0.0041], None, [(3, "odd")]),
        ([4.1, 4.12, 0.16, 4.09], None, [(2, "unit-slip")]),
        ([0.16], 4.1, [(0, "unit-slip")]),
        ([4.1, 0.16], 4.1, [(1, "unit-slip")]),
        ([0.41, 4.1, 4.0], None, [(0, "unit-slip")]),
        ([4100, 4.1, 4.0], None, [(0, "unit-slip")]),
        ([4.5], 4.1, []),
        ([4.1], None, []),
    ],
)
def test_the_odd_one_is_named_and_no_other(
    readings: list[float], usual: float | None, expected: list[tuple[int | None, str]]
) -> None:
    assert kinds(readings, usual) == expected


def test_inches_are_recognised_in_words() -> None:
    (remark,) = look_at([4.1, 4.12, 0.16]).remarks
    assert remark.text == "0.16 looks like inches where the others say 4.11 mm"


@given(st.lists(st.floats(9.8, 10.2), min_size=1, max_size=12))
def test_readings_within_two_percent_are_quiet(readings: list[float]) -> None:
    assert look_at(readings).remarks == ()


@pytest.mark.parametrize("reading", [0.0, -1.0, nan, inf, 20_000.0])
def test_what_no_gauge_gives_is_refused(reading: float) -> None:
    with pytest.raises(Invalid, match="measuring.reading-out-of-range") as refused:
        check_readings([10.0, reading], "W1", "width_mm")
    assert refused.value.specimen == "W1"


def test_a_section_by_both_schools() -> None:
    paired = section_of([10.0, 9.8], [4.0, 4.1], [])
    assert paired is not None
    assert paired.mean_mm2 == pytest.approx((40 + 9.8 * 4.1) / 2)
    assert paired.min_mm2 == pytest.approx(40.0)
    apart = section_of([10.0, 9.8, 9.9], [4.0, 4.1], [])
    assert apart is not None
    assert apart.mean_mm2 == pytest.approx(9.9 * 4.05)
    assert apart.min_mm2 == pytest.approx(9.8 * 4.0)
    turned = section_of([], [], [6.0, 6.2])
    assert turned is not None
    assert turned.min_mm2 == pytest.approx(9 * pi)
    assert section_of([10.0], [], []) is None


def test_places_lie_along_the_gauge_length() -> None:
    assert places_mm(Measure("width_mm", 5, 60)) == [30, 15, 0, -15, -30]
    assert places_mm(Measure("width_mm", 1)) == [0]


def test_grammage_is_mass_over_area() -> None:
    disc = Blank(outline="disc", long_mm=112.838, short_mm=112.838, works_on="")
    assert grammage_g_m2([1.0, 1.02], disc) == pytest.approx(101.0, rel=1e-4)
    square = Blank(outline="rectangle", long_mm=100, short_mm=100, works_on="")
    assert grammage_g_m2([0.8], square) == pytest.approx(80)
    with pytest.raises(Invalid, match="measuring.mass-not-positive"):
        grammage_g_m2([0.0], square)


def test_printed_and_moulded_parts_are_read_at_five_sections() -> None:
    for name in ("iso-527", "astm-d638", "astm-d882"):
        measures = {measure.field: measure.count for measure in find_method(name).guide.measures}
        assert measures == {"width_mm": 5, "thickness_mm": 5}


def test_every_size_that_is_asked_for_has_a_name_and_lies_on_its_specimen() -> None:
    for method in all_methods().values():
        for measure in method.guide.measures:
            assert measure.field in NAMES
            assert method.guide.blank is not None
            assert measure.span_mm < method.guide.blank.long_mm
