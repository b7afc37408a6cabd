"""Which lots may be compared, and which figure of a lot stands on the chart."""

from __future__ import annotations

from datetime import UTC, datetime
from types import SimpleNamespace
from typing import Any

import pytest

from endurant.work.facts.released_lots import ReleasedLot, _lot, comparable

SPEED, OTHER = {"speed_mm_min": 100.0}, {"speed_mm_min": 50.0, "evaluation": "median-peaks"}


def lot(job_id: int, **changes: Any) -> ReleasedLot:
    figures: dict[str, Any] = {
        "key": "a",
        "title": "Tear force",
        "unit": "N",
        "conditions": SPEED,
        "value": 24.0,
        "text": "24.0",
        "n": 5,
        "qualifier": None,
        "low": None,
        "high": None,
        "is_withdrawn": False,
        "job_id": job_id,
        "number": f"J-{job_id}",
        "lot": "L",
        "received_at": datetime(2026, 3, 2, tzinfo=UTC),
    }
    return ReleasedLot(**figures | changes)


def test_lots_tested_as_most_were_are_kept_and_the_others_say_why() -> None:
    lots = [
        lot(1),
        lot(2, conditions=OTHER),
        lot(3, is_withdrawn=True),
        lot(4, qualifier=">"),
        lot(5),
        lot(5, value=25.0),
    ]
    kept, left_out = comparable(lots)
    assert [each.job_id for each in kept] == [1, 5]
    assert {(each.job_id, why) for each, why in left_out} == {
        (
            2,
            "tested differently: evaluation median-peaks, usually –, "
            "speed (mm/min) 50.0, usually 100.0",
        ),
        (3, "its report was withdrawn"),
        (4, "only a bound is known, because a specimen went beyond what was measured"),
        (5, "tested twice; the first result counts"),
    }


def test_lots_that_are_all_withdrawn_leave_an_empty_chart() -> None:
    kept, left_out = comparable([lot(1, is_withdrawn=True)])
    assert kept == []
    assert len(left_out) == 1
    assert comparable([]) == ([], [])


def stored(limits: tuple[dict[str, Any], ...] = (), method: str = "iso-13937-2") -> Any:
    return SimpleNamespace(
        id=1,
        number="J-1",
        lot="L",
        received_at=datetime(2026, 3, 2, tzinfo=UTC),
        method=method,
        parameters=SPEED | {"rounding": "half-even", "specimens_wanted": 5},
        limits=limits,
        withdrawn=None,
    )


FIGURE = {
    "property": "tear_force",
    "direction": "warp",
    "state": "original",
    "unit": "N",
    "n": 5,
    "mean": 24.05,
    "median": 24.09,
    "statistic": "mean",
    "reported": "24.0",
    "qualifier": None,
    "facts": {},
}


def test_the_figure_that_was_reported_counts() -> None:
    mean = _lot(stored(), FIGURE)
    median = _lot(stored(), FIGURE | {"statistic": "median"})
    assert mean is not None
    assert median is not None
    assert (mean.value, median.value) == (24.05, 24.09)
    assert mean.conditions == SPEED


def test_figures_at_several_temperatures_are_several_series() -> None:
    cold = _lot(stored(), FIGURE | {"facts": {"temperature_c": -20.0}})
    warm = _lot(stored(), FIGURE | {"facts": {"temperature_c": 23.0}})
    assert cold is not None
    assert warm is not None
    assert cold.key != warm.key
    assert cold.title == "ISO 13937-2: Tear force, warp, at −20 °C"


@pytest.mark.parametrize(
    "changes", [{"mean": None}, {"statistic": "class"}, {"statistic": "count"}]
)
def test_what_has_no_figure_is_not_charted(changes: dict[str, Any]) -> None:
    assert _lot(stored(), FIGURE | changes) is None
    assert _lot(stored(method="no-longer-served"), FIGURE) is None


def limit(direction: str, **criterion: Any) -> dict[str, Any]:
    return {"property": "tear_force", "direction": direction, "criterion": criterion}


@pytest.mark.parametrize(
    ("limits", "expected"),
    [
        ((), (None, None)),
        ((limit("", limit="20"),), (20.0, None)),
        ((limit("", limit="20"), limit("warp", limit="22")), (22.0, None)),
        ((limit("", limit="20"), limit("weft", limit="18")), (20.0, None)),
        ((limit("", limit="30", op="<="),), (None, 30.0)),
        ((limit("", op="between", low="20", high="30"),), (20.0, 30.0)),
        ((limit("", on="report-only"),), (None, None)),
        (({"property": "other", "direction": "", "criterion": {"limit": "1"}},), (None, None)),
    ],
)
def test_the_requirement_is_that_of_its_direction_or_of_any(
    limits: tuple[dict[str, Any], ...], expected: tuple[float | None, float | None]
) -> None:
    figure = _lot(stored(limits), FIGURE)
    assert figure is not None
    assert (figure.low, figure.high) == expected
