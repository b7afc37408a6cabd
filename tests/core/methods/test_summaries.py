"""Groups of specimens and the rows of their summary."""

from __future__ import annotations

import statistics
from typing import Any

import pytest

from endurant.core.methods.properties import Property
from endurant.core.methods.results import Flag, SpecimenResult, Value
from endurant.core.methods.summary import (
    count_row,
    fact_in_words,
    groups_of,
    measured,
    pooled,
    row_of,
    text_row,
)

FORCE = Property("force", "Force", "N", significant=3)
MIDDLE = Property("force", "Force", "N", statistic="median", significant=3)


def specimen(
    label: str, value: float | None, direction: str | None = "warp", **changes: Any
) -> SpecimenResult:
    result = SpecimenResult(label, direction, changes.pop("state", "original"), **changes)
    if value is not None:
        result.values["force"] = Value(value, "N")
    return result


def void(result: SpecimenResult) -> SpecimenResult:
    result.flags.append(Flag.of("no-force", "void"))
    return result


def test_groups_are_by_direction_and_state_in_the_order_of_the_document() -> None:
    results = [
        specimen("W1", 1.0),
        specimen("F1", 2.0, "weft"),
        specimen("W2", 3.0),
        specimen("W3", 4.0, state="wet"),
    ]
    groups = groups_of(results)
    assert [group.in_words() for group in groups] == ["warp", "weft", "warp, wet"]
    assert [[member.label for member in group.members] for group in groups] == [
        ["W1", "W2"],
        ["F1"],
        ["W3"],
    ]


def test_groups_part_by_further_facts() -> None:
    results = [
        specimen("A", 1.0, None, facts={"temperature_c": -20.0}),
        specimen("B", 1.0, None, facts={"temperature_c": 23.0}),
        specimen("C", 1.0, None, facts={"temperature_c": -20.0}),
    ]
    cold, warm = groups_of(results, "temperature_c")
    assert [member.label for member in cold.members] == ["A", "C"]
    assert cold.in_words() == "at −20 °C"
    assert warm.facts == {"temperature_c": 23.0}
    assert [group.in_words() for group in groups_of(results)] == ["all specimens"]


@pytest.mark.parametrize(
    ("name", "value", "text"),
    [
        ("temperature_c", -30.0, "at −30 °C"),
        ("temperature_c", None, ""),
        ("break_type", "hinge-break", "hinge break"),
    ],
)
def test_a_fact_is_written_as_a_reader_takes_it(name: str, value: Any, text: str) -> None:
    assert fact_in_words(name, value) == text


def test_a_void_specimen_and_one_left_out_enter_no_row() -> None:
    members = [
        specimen("W1", 10.0),
        void(specimen("W2", 99.0)),
        specimen("W3", 12.0),
        specimen("W4", 50.0, left_out={"force"}),
        specimen("W5", None),
    ]
    assert [value.value for value in measured("force", members)] == [10.0, 12.0]


def test_a_row_holds_the_statistics_of_its_valid_members() -> None:
    values = [10.0, 12.0, 17.0]
    (group,) = groups_of([specimen(f"W{n}", value) for n, value in enumerate(values)])
    row = row_of(FORCE, group, "half-even")
    assert row is not None
    assert (row.n, row.direction, row.unit) == (3, "warp", "N")
    assert row.mean == pytest.approx(statistics.mean(values))
    assert row.sd == pytest.approx(statistics.stdev(values))
    assert row.cv_percent == pytest.approx(100 * statistics.stdev(values) / 13)
    assert (row.minimum, row.maximum, row.median) == (10.0, 17.0, 12.0)
    assert (row.statistic, row.reported) == ("mean", "13.0")
    middle = row_of(MIDDLE, group, "half-even")
    assert middle is not None
    assert (middle.statistic, middle.reported) == ("median", "12.0")


def test_a_group_without_a_figure_has_no_row() -> None:
    (group,) = groups_of([void(specimen("W1", 3.0)), specimen("W2", None)])
    assert row_of(FORCE, group, "half-even") is None
    assert count_row(FORCE, group) is None


@pytest.mark.parametrize(
    ("figures", "count", "share"),
    [([0.0, 0.0], "0 of 2", 0.0), ([1.0, 0.0, 1.0, 1.0], "3 of 4", 0.75)],
)
def test_counts_are_of_the_specimens_that_have_a_figure(
    figures: list[float], count: str, share: float
) -> None:
    (group,) = groups_of([specimen(f"P{n}", one, None) for n, one in enumerate(figures)])
    row = count_row(FORCE, group, limit=True)
    assert row is not None
    assert (row.reported, row.mean, row.statistic) == (count, share, "count")
    assert row.facts["count"] == sum(figures)
    assert share * 100 < row.facts["upper95_percent"] < 100


def test_none_of_twenty_failing_is_at_most_fourteen_percent() -> None:
    """The one-sided exact limit of no failure in n is 1 - 0.05^(1/n)."""
    (group,) = groups_of([specimen(f"P{n}", 0.0, None) for n in range(20)])
    row = count_row(FORCE, group, limit=True)
    assert row is not None
    assert row.facts["upper95_percent"] == pytest.approx(100 * (1 - 0.05 ** (1 / 20)))


def test_a_row_of_words_has_no_figures() -> None:
    (group,) = groups_of([specimen("A", 1.0)])
    row = text_row(FORCE, "class", group, 4, "class 1", further=2)
    assert (row.mean, row.sd, row.n, row.reported) == (None, None, 4, "class 1")
    plain = row.as_json()
    assert plain["further"] == 2
    assert "facts" not in plain


def test_all_together_are_one_group() -> None:
    everything = pooled([specimen("W1", 1.0), specimen("F1", 2.0, "weft")])
    assert [member.label for member in everything.members] == ["W1", "F1"]
    row = row_of(FORCE, everything, "half-even")
    assert row is not None
    assert row.mean == 1.5
