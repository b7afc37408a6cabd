"""Verdicts of every kind, and the conditioning document at its edges."""

from __future__ import annotations

from typing import Any

import pytest

from endurant.core.conditioning.document import condition_document
from endurant.core.judging.document import judge_document
from endurant.core.refusals import Invalid


def judged(criterion: dict[str, Any], result: dict[str, Any], **rules: Any) -> dict[str, Any]:
    row = {"property": "p", "criterion": criterion, "result": result}
    answer = judge_document({"kind": "criterion", "rows": [row], **rules})
    first_row: dict[str, Any] = answer["rows"][0]
    return first_row


ABOVE, BELOW = {"value": 30, "qualifier": ">"}, {"value": 20, "qualifier": "<"}


@pytest.mark.parametrize(
    ("criterion", "result", "verdict", "compared"),
    [
        ({"on": "mean", "op": "between", "low": "24", "high": "26.0"}, [25, 25.1], "meets", "25.0"),
        (
            {"on": "mean", "op": "between", "low": "24", "high": "25"},
            [26],
            "does not meet",
            "26",
        ),
        ({"on": "mean", "op": "<=", "limit": "25"}, [ABOVE], "does not meet", "30"),
        ({"on": "mean", "op": "<=", "limit": "35"}, [ABOVE], "cannot say", "30"),
        ({"on": "mean", "op": ">=", "limit": "25"}, [BELOW], "does not meet", "20"),
        ({"on": "mean", "op": ">=", "limit": "25"}, [ABOVE, BELOW], "cannot say", "25"),
        ({"on": "median", "op": ">=", "limit": "25"}, [26, 27, ABOVE], "meets", "27"),
        ({"on": "median", "op": "<=", "limit": "28"}, [26, 27, ABOVE], "meets", "27"),
        ({"on": "every", "op": ">=", "limit": "25"}, [26, ABOVE], "meets", None),
        ({"on": "grade", "limit": "3-4"}, ["4", "3-4", "3-4"], "meets", "3-4"),
        ({"on": "grade", "limit": "4"}, ["4", "3-4"], "does not meet", "3-4"),
    ],
)
def test_figures_bounds_and_grades(
    criterion: dict[str, Any], result: list[Any], verdict: str, compared: str | None
) -> None:
    row = judged(criterion, {"values": result})
    assert (row["verdict"], row["compared"]) == (verdict, compared)


def test_failures_and_classes() -> None:
    none_of_20 = {"on": "no-failures", "of": 20}
    assert judged(none_of_20, {"failures": 0, "n": 20})["compared"] == "0 of 20"
    assert judged(none_of_20, {"failures": 0, "n": 19})["verdict"] == "not judged"
    assert judged(none_of_20, {"failures": 1, "n": 3})["verdict"] == "does not meet"
    assert judged({"on": "class", "limit": "2"}, {"class": 3})["verdict"] == "does not meet"
    assert judged({"on": "class", "limit": "2"}, {"class": None})["verdict"] == "not judged"
    assert judged({"on": "report-only"}, {"values": [1]})["verdict"] == "not judged"


def test_a_guarded_decision_at_its_edges() -> None:
    at = {"on": "mean", "op": "<=", "limit": "10.0"}
    for value, verdict in ((9.5, "meets"), (9.6, "cannot say"), (10.5, "does not meet")):
        row = judged(at, {"values": [value], "u": 0.5}, decision="guarded")
        assert row["verdict"] == verdict
    floor = {"on": "mean", "op": ">=", "limit": "10", "none_below_percent": 90}
    assert judged(floor, {"values": [9.0, 12.0]})["verdict"] == "meets"
    assert judged(floor, {"values": [8.9, 13.0]}, comparison="unrounded")["verdict"] == (
        "does not meet"
    )


@pytest.mark.parametrize(
    ("document", "wording"),
    [
        ({"kind": "dice"}, "review.kind-missing"),
        ({"kind": "statistics", "values": []}, "field.too-few"),
        ({"kind": "statistics", "values": [0.0, 0.0], "budget": [{}]}, "field.missing"),
        ({"kind": "grubbs", "values": [1.0, 2.0], "labels": ["a"]}, "review.labels-count"),
        ({"kind": "rounding", "value": "abc", "decimals": 2}, "review.value-expected"),
        ({"kind": "rounding", "value": 1.0}, "review.rounding-rule"),
        ({"kind": "rounding", "value": 1.0, "step": 0}, "quantity.step-not-positive"),
        (
            {
                "kind": "criterion",
                "decision": "guarded",
                "rows": [
                    {
                        "property": "p",
                        "criterion": {"on": "mean", "limit": "5"},
                        "result": {"values": [4.0]},
                    }
                ],
            },
            "review.uncertainty-missing",
        ),
        (
            {
                "kind": "criterion",
                "rows": [{"property": "p", "criterion": {"on": "class", "op": ">=", "limit": "1"}}],
            },
            "limit.operator-differs",
        ),
    ],
)
def test_judging_documents_that_make_no_sense(document: dict[str, Any], wording: str) -> None:
    with pytest.raises(Invalid) as refusal:
        judge_document(document)
    assert refusal.value.code == wording


ROOM = {
    "temperature_c": 20,
    "temperature_tolerance_c": 2,
    "humidity_percent": 65,
    "humidity_tolerance_percent": 4,
    "least_minutes": 60,
}


def log(*rows: tuple[str, float, float]) -> list[list[Any]]:
    return [[f"2026-03-02T{at}:00Z", temperature, humidity] for at, temperature, humidity in rows]


def period(rows: list[list[Any]], until: str, **more: Any) -> dict[str, Any]:
    return condition_document(
        {
            "atmosphere": ROOM,
            "log": rows,
            "hung_at": "2026-03-02T08:00:00Z",
            "now": f"2026-03-02T{until}:00Z",
            "max_gap_min": 600,
            **more,
        }
    )


def test_schools_part_after_an_excursion() -> None:
    rows = log(("08:00", 20, 65), ("08:30", 25, 65), ("08:32", 20, 65))
    answer = period(rows, "09:00", policy="subtract")
    assert answer["minutes_outside"] == 2
    assert answer["restart"]["minutes"] == 28
    assert answer["subtract"]["minutes"] == 58
    assert answer["subtract"]["due_at"] == "2026-03-02T09:02:00Z"
    assert answer["excursions"][0]["worst_temperature_c"] == 25
    longer = period(log(("08:00", 20, 65), ("08:30", 20, 80), ("08:33", 20, 65)), "09:00")
    assert longer["subtract"]["minutes"] == 27
    assert longer["excursions"][0]["worst_humidity_percent"] == 80


def test_an_excursion_that_still_runs_and_an_empty_log() -> None:
    answer = period(log(("08:00", 20, 65), ("08:50", 30, 65)), "09:00")
    assert answer["excursions"][0]["to"] is None
    assert (answer["restart"]["minutes"], answer["restart"]["due_at"]) == (0, None)
    nothing = period([], "09:00")
    assert (nothing["minutes_unproven"], nothing["ready"]) == (60, False)


@pytest.mark.parametrize(
    ("changes", "wording"),
    [
        ({"log": log(("09:00", 20, 65), ("08:00", 20, 65))}, "conditioning.log-time-not-rising"),
        ({"log": [["2026-03-02T08:00:00", 20.0, 65.0]]}, "conditioning.not-a-time"),
        ({"log": log(("08:00", 20, 130))}, "field.above-max"),
        ({"log": [["2026-03-02T08:00:00Z", "warm", 65.0]]}, "field.number-expected"),
        ({"now": "2026-03-02T07:00:00Z"}, "conditioning.now-before-start"),
        ({"atmosphere": "sauna"}, "conditioning.atmosphere-unknown"),
    ],
)
def test_conditioning_documents_that_make_no_sense(changes: dict[str, Any], wording: str) -> None:
    document = {
        "atmosphere": ROOM,
        "log": [],
        "hung_at": "2026-03-02T08:00:00Z",
        "now": "2026-03-02T09:00:00Z",
    }
    with pytest.raises(Invalid) as refusal:
        condition_document(document | changes)
    assert refusal.value.code == wording
