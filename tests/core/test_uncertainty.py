"""The expanded uncertainty of a mean, against figures worked by hand."""

from __future__ import annotations

from math import sqrt
from typing import Any

import pytest
from pydantic import ValidationError

from endurant.core.judging.uncertainty import Contribution, Guard, uncertainty
from endurant.core.refusals import Invalid
from endurant.core.statistics import summarise

VALUES = [24.0, 25.0, 26.0]


def contribution(**changes: Any) -> Contribution:
    return Contribution.model_validate({"name": "load cell", "value": 100.0} | changes)


def test_the_spread_of_the_specimens_is_the_first_contribution() -> None:
    found = uncertainty(summarise(VALUES), [])
    assert found.standard == pytest.approx(1 / sqrt(3))
    assert found.expanded == pytest.approx(2 / sqrt(3))
    assert [row.name for row in found.rows] == ["repeat"]


def test_contributions_are_added_relative_to_the_mean() -> None:
    budget = [contribution(standard=0.5), contribution(name="width", value=50.0, standard=0.1)]
    found = uncertainty(summarise([25.0]), budget, k=2.5)
    relative = sqrt(0.005**2 + 0.002**2)
    assert [row.name for row in found.rows] == ["load cell", "width"]
    assert found.relative == pytest.approx(relative)
    assert found.expanded == pytest.approx(2.5 * relative * 25.0)


@pytest.mark.parametrize(
    ("given", "standard"),
    [
        ({"standard": 0.3}, 0.3),
        ({"half_interval": 0.3}, 0.3 / sqrt(3)),
        ({"expanded": 0.3}, 0.15),
        ({"expanded": 0.3, "k": 3.0}, 0.1),
    ],
)
def test_a_contribution_is_given_in_one_of_three_ways(
    given: dict[str, float], standard: float
) -> None:
    assert contribution(**given).standard_uncertainty() == pytest.approx(standard)


@pytest.mark.parametrize("power", [2.0, -2.0])
def test_a_quantity_that_enters_squared_counts_twice_whatever_its_sign(power: float) -> None:
    found = uncertainty(summarise([25.0]), [contribution(standard=1.0, power=power)])
    assert found.rows[0].relative == pytest.approx(0.02)


@pytest.mark.parametrize(
    "given",
    [{}, {"standard": 0.1, "expanded": 0.2}, {"standard": 0.1, "value": 0.0}, {"standard": -0.1}],
)
def test_a_contribution_that_is_none_is_refused(given: dict[str, float]) -> None:
    with pytest.raises(ValidationError):
        contribution(**given)


def test_nothing_is_relative_to_a_mean_of_zero() -> None:
    with pytest.raises(Invalid, match="review.mean-zero"):
        uncertainty(summarise([-1.0, 1.0]), [])


def test_a_guard_needs_a_spread_or_a_budget() -> None:
    assert Guard().expanded_u([]) is None
    assert Guard().expanded_u([25.0]) is None
    assert Guard().expanded_u(VALUES) == pytest.approx(2 / sqrt(3))
    budget = [contribution(standard=0.5)]
    assert Guard(budget=budget).expanded_u([25.0]) == pytest.approx(0.25)
