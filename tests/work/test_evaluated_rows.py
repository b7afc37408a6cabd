"""Rows of a test: results of specimens against limits, and the calculation of each figure."""

from __future__ import annotations

from typing import Any

import pytest

from endurant.core.document import ResultDocument
from endurant.core.methods.results import SpecimenResult, Value
from endurant.store.tables import Job, Laboratory
from endurant.work.facts.evaluated_rows import criteria, guards, judged_rows, label_text
from endurant.work.facts.models import JudgedRow
from tests.work.rows import a_job, run, specimen, void

LABORATORY = Laboratory(
    id=1,
    name="Harbour Lab",
    address="",
    label_school="side-and-number",
    comparison="as-rounded",
    rounding="half-even",
)


def results_of(job: Job, forces: dict[str, float]) -> ResultDocument:
    """A result of each of these specimens, all of them accepted."""
    results = []
    for label, force in forces.items():
        row = specimen(job, label)
        run(row, "settled")
        values = {"max_force": Value(force, "N"), "elongation_at_max": Value(20.0, "%")}
        results.append(SpecimenResult(label, row.direction, "original", values))
    test = job.tests[0]
    return ResultDocument(test.method, test.parameters, results, [], [], {})


def limit(criterion: dict[str, Any], direction: str = "", **more: Any) -> dict[str, Any]:
    return {"property": "max_force", "direction": direction, "criterion": criterion, **more}


AT_LEAST_400 = {"on": "mean", "op": ">=", "limit": "400"}
WARP = {"W1": 396.0, "W2": 412.0, "W3": 420.0}


def rows_of(job: Job, result: ResultDocument | None) -> dict[tuple[str, str], JudgedRow]:
    rows = judged_rows(LABORATORY, job.tests[0], result)
    return {(row.property, row.group): row for row in rows}


def test_planned_directions_have_rows_from_the_beginning() -> None:
    rows = rows_of(a_job(), None)
    assert list(rows) == [
        ("max_force", "warp"),
        ("max_force", "weft"),
        ("elongation_at_max", "warp"),
        ("elongation_at_max", "weft"),
    ]
    row = rows["max_force", "warp"]
    assert (row.verdict, row.limit_text, row.to_go) == ("not judged", "report only", 3)
    assert row.summary is None


def test_a_mean_meets_its_limit_once_enough_specimens_count() -> None:
    job = a_job()
    job.tests[0].limits = [limit(AT_LEAST_400)]
    row = rows_of(job, results_of(job, WARP))["max_force", "warp"]
    assert row.verdict == "meets"
    assert row.labels == ["W1", "W2", "W3"]
    assert row.to_go == 0
    assert row.summary is not None
    assert (row.summary.n, row.summary.reported) == (3, "410")
    assert row.summary.mean == pytest.approx(1228 / 3)


def test_a_mean_of_too_few_specimens_says_nothing_yet() -> None:
    job = a_job()
    job.tests[0].limits = [limit(AT_LEAST_400)]
    row = rows_of(job, results_of(job, {"W1": 420.0}))["max_force", "warp"]
    assert (row.verdict, row.to_go) == ("not judged", 2)


def test_a_limit_of_a_direction_has_precedence_over_that_of_any() -> None:
    job = a_job()
    strict = {"on": "mean", "op": ">=", "limit": "500"}
    job.tests[0].limits = [limit(AT_LEAST_400), limit(strict, "weft")]
    result = results_of(job, WARP | {"F1": 450.0, "F2": 455.0, "F3": 460.0})
    rows = rows_of(job, result)
    assert rows["max_force", "warp"].verdict == "meets"
    assert rows["max_force", "weft"].verdict == "does not meet"
    assert rows["elongation_at_max", "weft"].verdict == "not judged"
    assert set(criteria(job.tests[0])) == {("max_force", ""), ("max_force", "weft")}


def test_a_void_is_drawn_and_counts_in_no_figure() -> None:
    job = a_job()
    result = results_of(job, WARP)
    result.specimens[0].flag("jaw-break", "void")
    row = rows_of(job, result)["max_force", "warp"]
    assert row.summary is not None
    assert (row.summary.n, row.to_go) == (2, 1)
    assert row.labels == ["W1", "W2", "W3"]


def test_a_specimen_that_was_not_accepted_enters_nothing() -> None:
    job = a_job()
    result = results_of(job, WARP)
    specimen(job, "W3").runs[0].state = "ended"
    row = rows_of(job, result)["max_force", "warp"]
    assert row.labels == ["W1", "W2"]


def test_a_property_that_no_specimen_gave_has_no_row() -> None:
    job = a_job()
    result = results_of(job, WARP)
    for each in result.specimens:
        each.values["elongation_at_max"] = Value(None, "%")
    assert ("elongation_at_max", "weft") not in rows_of(job, result)


def test_every_figure_has_its_calculation() -> None:
    job = a_job()
    job.tests[0].limits = [limit(AT_LEAST_400)]
    row = rows_of(job, results_of(job, WARP))["max_force", "warp"]
    wording = [line["says"] for line in row.working]
    assert wording == [
        "mean of 3 valid specimens",
        "sample standard deviation",
        "coefficient of variation",
        "half width of the 95 % interval of the mean",
        row.working[4]["says"],
        "against the limit, compared as rounded",
    ]
    assert row.working[0]["with"] == "(396 + 412 + 420) / 3"
    assert row.working[4]["gives"] == "410 N"
    assert row.working[-1]["gives"] == "meets"


def test_one_specimen_has_no_spread_to_calculate() -> None:
    job = a_job(specimens_wanted=1)
    row = rows_of(job, results_of(job, {"W1": 412.0}))["max_force", "warp"]
    assert [line["says"][:4] for line in row.working] == ["mean", "repo"]


def test_a_guarded_limit_is_moved_by_the_uncertainty_and_says_so() -> None:
    job = a_job()
    guard = {"budget": [{"name": "load cell", "value": 100.0, "standard": 2.0}]}
    job.tests[0].limits = [limit(AT_LEAST_400, guard=guard)]
    row = rows_of(job, results_of(job, WARP))["max_force", "warp"]
    assert row.expanded_u is not None
    assert row.expanded_u > 10
    assert row.verdict == "cannot say"
    assert "expanded uncertainty that guards the limit" in [line["says"] for line in row.working]
    assert set(guards(job.tests[0])) == {("max_force", "")}


@pytest.mark.parametrize(
    ("school", "verdict"), [("as-rounded", "meets"), ("unrounded", "does not meet")]
)
def test_a_mean_at_the_edge_is_decided_by_the_school_of_its_job(school: str, verdict: str) -> None:
    job = a_job()
    job.lab_settings = {"comparison": school}
    job.tests[0].limits = [limit({"on": "mean", "op": ">=", "limit": "400"})]
    row = rows_of(job, results_of(job, {"W1": 399.6, "W2": 399.8, "W3": 399.7}))[
        "max_force", "warp"
    ]
    assert (row.verdict, row.other_school_differs) == (verdict, True)


def test_inch_pound_units_stand_beside_where_the_laboratory_wants_them() -> None:
    job = a_job()
    job.lab_settings = {"written": {"units": "both"}}
    row = rows_of(job, results_of(job, WARP))["max_force", "warp"]
    assert row.beside.endswith(" lbf")
    job.lab_settings = {}
    assert rows_of(job, results_of(job, {}))["max_force", "weft"].beside == ""


def test_a_void_by_hand_is_asked_for_again() -> None:
    job = a_job()
    result = results_of(job, WARP)
    void(specimen(job, "W1"))
    result.specimens[0].flag("set-aside", "void")
    assert rows_of(job, result)["max_force", "warp"].to_go == 1


def test_a_label_names_the_yarns_that_the_test_works_on() -> None:
    job = a_job("iso-13937-2", form="sheet")
    w1, f1 = specimen(job, "W1"), specimen(job, "F1")
    f1.long_side = "weft"
    assert "weft" in label_text(w1)
    assert "warp" in label_text(f1)
    assert label_text(w1).startswith("tears")
