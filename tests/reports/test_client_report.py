"""What a client report says beside its figures."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any, cast

import pytest

from endurant.core.methods import find_method
from endurant.core.methods.designation import designation
from endurant.reports.client_report import (
    conformity,
    has_spread,
    requirement_verdict,
    void_labels,
)
from endurant.reports.drawings import draw_curves_together
from endurant.work.facts.models import JudgedRow
from endurant.work.use_cases.reporting.models import ReportContent, ReportedTest


def row(*, criterion: bool = True, k: float | None = None, u: float | None = None) -> Any:
    return SimpleNamespace(
        title="Tear force",
        group="warp",
        unit="N",
        criterion=object() if criterion else None,
        guard=None if k is None else SimpleNamespace(k=k),
        expanded_u=u,
    )


def report(verdict: str, *rows: Any, comparison: str = "as-rounded") -> ReportContent:
    test = SimpleNamespace(view=SimpleNamespace(rows=list(rows)))
    content = SimpleNamespace(
        verdict=verdict, product="Cloth", lot="A-1", comparison=comparison, tests=[test]
    )
    return cast(ReportContent, content)


@pytest.mark.parametrize(
    ("verdict", "said"),
    [
        ("meets", "Cloth, lot A-1, meets every requirement above."),
        ("does not meet", "Cloth, lot A-1, does not meet every requirement above."),
        ("cannot say", "conformity with every requirement above cannot be stated"),
        ("not judged", "conformity with every requirement above cannot be stated"),
    ],
)
def test_conformity_is_stated_by_the_verdict(verdict: str, said: str) -> None:
    assert said in conformity(report(verdict, row()))[0]


def test_without_a_requirement_nothing_is_stated() -> None:
    (sentence,) = conformity(report("not judged", row(criterion=False)))
    assert sentence.startswith("No requirement was agreed.")


def test_the_decision_rule_is_named_for_every_kind_of_limit() -> None:
    simple = conformity(report("meets", row()))
    assert simple[1].startswith("Each result is rounded")
    assert simple[2].startswith("A result at the limit passes")
    exact = conformity(report("meets", row(), comparison="unrounded"))
    assert exact[1].startswith("Each result is compared with its limit before")
    guarded = conformity(report("meets", row(k=2.0, u=0.8345)))
    assert guarded[2:] == [
        "Tear force, warp: the limit is guarded by the expanded uncertainty of 0.835 N (k = 2)."
    ]
    mixed = conformity(report("meets", row(), row(k=1.65)))
    assert mixed[2].startswith("Where no guard is named")
    assert mixed[3].endswith("expanded uncertainty (k = 1.65).")


def test_a_verdict_is_one_word() -> None:
    words = [requirement_verdict(each) for each in ("meets", "does not meet", "cannot say")]
    assert words == ["pass", "fail", "inconclusive"]


@pytest.mark.parametrize(
    ("method", "cited"),
    [
        ("iso-13937-2", "ISO 13937-2"),
        ("astm-d1424", "ASTM D1424"),
        ("16-cfr-1610", "16 CFR 1610"),
        ("melt-density", "melt density"),
    ],
)
def test_a_method_is_cited_as_its_standard(method: str, cited: str) -> None:
    assert designation(method) == cited


def test_curves_stand_over_each_other_and_a_void_one_is_dashed() -> None:
    trace = {"extension_mm": [0.0, 1.0, 2.0], "force_n": [0.0, 4.0, 1.0]}
    entries = [{"label": label, "trace": trace} for label in ("W1", "W2", "W3")]
    svg = draw_curves_together(entries, ["W2"])
    assert svg.count("<polyline") == 3
    assert svg.count("stroke-dasharray") == 1
    assert draw_curves_together([{"label": "T1", "dry_g": 2.0}], []) == ""


def test_specimens_that_do_not_count_are_named() -> None:
    result = {"specimens": [{"label": "W1", "valid": True}, {"label": "W2", "valid": False}]}
    assert void_labels(cast(ReportedTest, SimpleNamespace(result=result))) == ["W2"]


@pytest.mark.parametrize(
    ("method", "name", "statistic", "n", "stated"),
    [
        ("iso-13937-2", "tear_force", "mean", 5, True),
        ("iso-13937-2", "tear_force", "mean", 2, False),
        ("iso-13937-2", "tear_force", "mean", None, False),
        ("iso-105-x12", "grade", "median", 5, False),
        ("16-cfr-1610", "class", "class", 5, False),
    ],
)
def test_a_spread_is_stated_of_three_measured_values_and_more(
    method: str, name: str, statistic: str, n: int | None, stated: bool
) -> None:
    needed = {"surface": "raised"} if method == "16-cfr-1610" else {}
    parameters = find_method(method).defaults | needed
    test = SimpleNamespace(view=SimpleNamespace(method=method), document={"parameters": parameters})
    summary = SimpleNamespace(n=n, statistic=statistic)
    given = cast(JudgedRow, SimpleNamespace(property=name, summary=summary))
    assert has_spread(given, cast(ReportedTest, test)) is stated
