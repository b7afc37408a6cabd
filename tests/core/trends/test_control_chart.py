"""Control limits and run rules, against figures worked out by hand."""

from __future__ import annotations

import numpy as np
import pytest

from endurant.core.refusals import Invalid
from endurant.core.trends.control_chart import (
    RULES,
    ControlLimits,
    Rule,
    control_limits,
    moving_ranges,
    signals,
)

UNIT = ControlLimits(0.0, 1.0, -3.0, 3.0, 1.128379, 3.686)


def test_limits_are_three_spreads_from_the_mean() -> None:
    base = np.array([10.0, 12.0, 11.0, 9.0, 13.0, 11.0])
    limits = control_limits(base)
    assert moving_ranges(base).tolist() == [2, 1, 2, 4, 2]
    assert limits.centre == 11
    assert limits.mean_range == pytest.approx(2.2)
    assert limits.spread == pytest.approx(2.2 / 1.128379)
    assert limits.upper == pytest.approx(11 + 2.66 * 2.2, abs=0.01)
    assert limits.lower == pytest.approx(11 - 2.66 * 2.2, abs=0.01)
    assert limits.upper_range == pytest.approx(3.267 * 2.2, abs=0.01)


def test_a_base_of_two_lots_is_refused() -> None:
    with pytest.raises(Invalid) as refused:
        control_limits(np.array([1.0, 2.0]))
    assert refused.value.code == "trend.base-too-short"


QUIET = [0.1, -0.2, 0.3, 0.2, -0.1, -0.3]


@pytest.mark.parametrize(
    ("rule", "values", "at"),
    [
        ("beyond-limits", [0, 3.1, -3.1, 3.0], [1, 2]),
        ("nine-on-one-side", [-0.1] + [0.5] * 10, [9, 10]),
        ("six-in-one-direction", [0, -0.5, -0.3, 0, 0.2, 0.4, 0.6, 0.5], [6]),
        ("six-in-one-direction", [0.6, 0.4, 0.3, 0.1, 0, -0.2], [5]),
        ("six-in-one-direction", [0.6, 0.4, 0.3, 0.3, 0.1, 0, -0.2], []),
        ("fourteen-alternating", [0.2, -0.2] * 7, [13]),
        ("fourteen-alternating", [0.2, -0.2] * 6 + [0.2], []),
        ("two-of-three-far", [2.1, 0, 2.2, 0, 0, 2.3], [2]),
        ("two-of-three-far", [2.1, -2.2, 0], []),
        ("two-of-three-far", [2.1, 2.2], [1]),
        ("four-of-five-off", [1.1, 1.2, 0, 1.3, 1.4, 0.5], [4]),
        ("fifteen-near", [0.5, -0.5, 0.4] * 5, [14]),
        ("eight-off-both-sides", [1.5, -1.5] * 4, [7]),
        ("eight-off-both-sides", [1.5] * 8, []),
    ],
)
def test_a_rule_speaks_where_its_pattern_is_complete(
    rule: Rule, values: list[float], at: list[int]
) -> None:
    completed = signals(np.array(values, float), UNIT)[rule]
    assert len(completed) == len(values)
    assert np.flatnonzero(completed).tolist() == at


def test_nothing_is_said_of_a_quiet_process() -> None:
    assert not any(completed.any() for completed in signals(np.array(QUIET), UNIT).values())


def test_a_process_without_scatter_shows_what_is_off() -> None:
    limits = control_limits(np.full(6, 4.0))
    completed = signals(np.array([4.0, 4.0, 4.1]), limits)
    assert completed["beyond-limits"].tolist() == [False, False, True]
    assert set(completed) == set(RULES)
    assert not any(completed[rule].any() for rule in RULES if rule != "beyond-limits")


def test_a_chart_of_one_lot_is_no_error() -> None:
    assert all(len(completed) == 1 for completed in signals(np.array([0.0]), UNIT).values())
