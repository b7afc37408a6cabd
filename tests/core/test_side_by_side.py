"""Samples side by side: ranks, and Welch's interval of a difference."""

from __future__ import annotations

import pytest
from scipy import stats

from endurant.core.judging.side_by_side import Sample, side_by_side, welch_half_width
from endurant.core.statistics import summarise

FLAT = (51.2, 50.1, 52.4, 49.8, 51.5)
UPRIGHT = (31.0, 36.5, 28.9, 40.2, 33.3)
EDGE = (51.0, 50.4, 52.0, 50.2, 51.9)


def test_the_interval_of_a_difference_is_that_of_welch() -> None:
    half_width = welch_half_width(summarise(FLAT), summarise(UPRIGHT))
    interval = stats.ttest_ind(FLAT, UPRIGHT, equal_var=False).confidence_interval(0.95)
    assert half_width == pytest.approx((interval.high - interval.low) / 2, rel=1e-9)


def test_samples_are_ranked_and_held_against_one() -> None:
    samples = [Sample("upright", UPRIGHT), Sample("flat", FLAT), Sample("on edge", EDGE)]
    ranked = side_by_side([*samples, Sample("regrind", ())], "upright", "MPa")
    assert [(each.name, each.rank) for each in ranked] == [
        ("on edge", 1),
        ("flat", 2),
        ("upright", 3),
        ("regrind", None),
    ]
    by_name = {each.name: each for each in ranked}
    assert by_name["flat"].difference == pytest.approx(17.02)
    assert by_name["flat"].text == "17.0 MPa higher than upright (95 %: 11.5 to 22.5)"
    assert by_name["upright"].text == "baseline"
    assert by_name["regrind"].text == "no specimen is tested yet"
    against_flat = {each.name: each.text for each in side_by_side(samples, "flat", "MPa")}
    assert against_flat["on edge"].startswith("no difference from flat is shown (95 %: -")


def test_one_figure_gives_no_interval_and_none_at_all_no_difference() -> None:
    (high, low) = side_by_side([Sample("a", (10.0,)), Sample("b", (9.0, 9.5))], "b", "N")
    assert (high.difference, high.difference_half_width) == (0.75, None)
    assert "one result gives no interval" in high.text
    assert low.name == "b"
    (only, _) = side_by_side([Sample("a", (10.0, 11.0)), Sample("b", ())], "b", "N")
    assert (only.difference, only.text) == (None, "b has no result yet")
