"""Rounding, statistics, verdicts and the rule they are drawn on."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from endurant.core.judging.criteria import Criterion
from endurant.core.judging.limit_rule import limit_rule
from endurant.core.judging.verdicts import Evidence, Rules, judge, report_verdict
from endurant.core.quantities import above, at_least, factor_between, round_to_step
from endurant.core.refusals import Invalid
from endurant.core.rounding import round_to_decimals, round_to_significant
from endurant.core.statistics import Measured, summarise
from tests.examples import example, names


def rounded(request: dict[str, Any]) -> str:
    rule = request.get("rule", "half-even")
    if "step" in request:
        return round_to_step(request["value"], request["step"], rule)
    if "significant" in request:
        return round_to_significant(
            request["value"], request["significant"], rule, request.get("most_decimals")
        )
    return round_to_decimals(request["value"], request["decimals"], rule)


@pytest.mark.parametrize("name", names("judging--rounding"))
def test_rounding_examples(name: str) -> None:
    answer = example(name)
    assert rounded(answer["input"]) == answer["expect"]["text"]


@pytest.mark.parametrize(
    ("given", "text"),
    [
        ({"value": 2.675, "decimals": 2}, "2.68"),
        ({"value": 9.996, "significant": 3}, "10.0"),
        ({"value": 123456, "significant": 3}, "123000"),
        ({"value": 0, "significant": 3}, "0"),
        ({"value": -0.0004, "decimals": 2}, "0.00"),
        ({"value": "0.5", "decimals": 0}, "0"),
        ({"value": "-0.5", "decimals": 0, "rule": "half-up"}, "-1"),
        ({"value": 1.2345, "significant": 3, "most_decimals": 1}, "1.2"),
    ],
)
def test_rounding_by_hand(given: dict[str, Any], text: str) -> None:
    assert rounded(given) == text


@given(st.floats(-1e6, 1e6), st.integers(0, 4))
def test_a_rounded_value_is_within_half_a_step(value: float, decimals: int) -> None:
    assert abs(float(round_to_decimals(value, decimals)) - value) <= 0.5 * 10**-decimals + 1e-6


@pytest.mark.parametrize("name", names("judging--statistics"))
def test_statistics_examples(name: str) -> None:
    answer = example(name)
    statistics = summarise(answer["input"]["values"])
    for figure, value in answer["expect"].items():
        assert getattr(statistics, figure) == pytest.approx(value, rel=1e-6), figure


def test_one_value_has_no_spread() -> None:
    statistics = summarise([4.0])
    assert (statistics.sd, statistics.cv_percent, statistics.ci95_half_width) == (None, None, None)


@pytest.mark.parametrize(
    ("criterion", "values", "verdict"),
    [
        ({"limit": "25"}, [24.6, 24.6], "meets"),
        ({"limit": "25.0"}, [24.6, 24.6], "does not meet"),
        ({"on": "every", "limit": "20"}, [21.2, 19.4], "does not meet"),
        ({"on": "median", "op": "<=", "limit": "20"}, [10.0, 20.0, 90.0], "meets"),
        ({"limit": "1"}, [5.0], "not judged"),
    ],
)
def test_verdicts(criterion: dict[str, Any], values: list[float], verdict: str) -> None:
    measured = [Measured(value) for value in values]
    assert judge(Criterion(**criterion), Evidence(measured), 2, Rules()).verdict == verdict


def test_a_report_is_as_good_as_its_worst_required_row() -> None:
    assert report_verdict([]) == "not judged"
    assert report_verdict(["meets", "not judged", "does not meet"]) == "not judged"
    assert report_verdict(["meets", "does not meet"]) == "does not meet"
    assert report_verdict(["meets", "meets"]) == "meets"


@pytest.mark.parametrize("limit", ["--5", "abc", "", "1e3", "nan", "5,0"])
def test_a_limit_is_a_plain_number(limit: str) -> None:
    with pytest.raises(ValueError, match="plain number"):
        Criterion(limit=limit)


def test_limits_leave_binary_tails_aside() -> None:
    assert at_least(0.1 + 0.2, 0.3)
    assert not above(0.1 + 0.2, 0.3)


def test_units_of_headers() -> None:
    assert factor_between("kN", "N") == pytest.approx(1000)
    assert factor_between("lbf", "N") == pytest.approx(4.4482216)
    with pytest.raises(Invalid, match="quantity.unit-of-other-kind"):
        factor_between("s", "N")


@given(
    st.lists(st.floats(0, 1000), max_size=12),
    st.lists(st.floats(0, 1000), max_size=3),
    st.one_of(st.none(), st.integers(1, 500)),
)
def test_a_rule_shows_every_figure_and_its_limit(
    values: list[float], voids: list[float], limit: int | None
) -> None:
    criterion = None if limit is None else Criterion(limit=str(limit))
    rule = limit_rule(criterion, "N", values, voids)
    shown = [*values, *voids, *([] if limit is None else [float(limit)])]
    assert all(rule.low - 1e-6 <= figure <= rule.high + 1e-6 for figure in shown)
    assert 0 < (rule.high - rule.low) / rule.step <= 9


def test_a_guarded_limit_shows_the_stretch_where_it_cannot_be_said() -> None:
    between = Criterion(op="between", low="20", high="30")
    rule = limit_rule(between, "N", [22.0, 24.0], [], expanded_u=1.5)
    assert [(band.start, band.end) for band in rule.guarded] == [(18.5, 21.5), (28.5, 31.5)]
    assert rule.low <= 18.5
    assert rule.high >= 31.5
    assert limit_rule(between, "N", [22.0], []).guarded == ()
