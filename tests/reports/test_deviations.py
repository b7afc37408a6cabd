"""A departure stands once among the deviations of a report."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any, cast

from endurant.work.use_cases.reporting.content import deviations_of
from endurant.work.use_cases.reporting.models import ReportedTest

FLAG = {"code": "preheat-out-of-window", "severity": "warn", "text": "preheated for 13 s; 300 ± 30"}
CLOCK = SimpleNamespace(code="clock-preheat", says="Preheat: 13 s; 300 s required", why="hurry")


def melted(label: str, *deviations: Any) -> ReportedTest:
    """As much of a reported melt test as its deviations need."""
    run = SimpleNamespace(deviations=list(deviations), source_name=None)
    view = SimpleNamespace(
        title="Melt flow", specimens=[SimpleNamespace(label=label, flags=[FLAG])], flags=[]
    )
    test = SimpleNamespace(
        doubts=[], prepared_otherwise=[], parameters=[], runs={label: run}, view=view
    )
    return cast(ReportedTest, test)


def test_a_clock_with_its_reason_takes_the_place_of_the_flag_that_says_the_same() -> None:
    assert deviations_of([melted("S1", CLOCK)]) == [
        "S1: Preheat: 13 s; 300 s required Reason: hurry."
    ]


def test_a_flag_that_no_clock_says_stays() -> None:
    assert deviations_of([melted("S1")]) == ["S1: preheated for 13 s; 300 ± 30"]
