"""What a client report says beside the figures: verdicts, and the statement of conformity."""

from __future__ import annotations

from endurant.core.judging.verdicts import Verdict
from endurant.core.messages import worded
from endurant.reports.values import properties_of
from endurant.work.facts.models import JudgedRow, SpecimenView
from endurant.work.use_cases.reporting.models import ReportContent, ReportedTest

VERDICTS: dict[Verdict, str] = {
    "meets": worded("report-verdict.pass"),
    "does not meet": worded("report-verdict.fail"),
    "cannot say": worded("report-verdict.inconclusive"),
    "not judged": worded("report-verdict.not-evaluated"),
}


def requirement_verdict(verdict: Verdict) -> str:
    """Return a verdict as one word: pass, fail, inconclusive."""
    return VERDICTS[verdict]


def conformity(report: ReportContent) -> list[str]:
    """Return the statement of conformity with its decision rules, a sentence each."""
    rows = [row for test in report.tests for row in test.view.rows if row.criterion]
    if not rows:
        return [worded("report.no-requirement")]
    code = {
        "meets": "report.conforms",
        "does not meet": "report.does-not-conform",
        "cannot say": "report.conformity-open",
        "not judged": "report.conformity-open",
    }[report.verdict]
    said = [worded(code, product=report.product, lot=report.lot)]
    rule = "report.compared-unrounded" if report.comparison == "unrounded" else "report.compared"
    said.append(worded(rule))
    guarded = [row for row in rows if row.guard is not None]
    if not guarded:
        said.append(worded("report.simple-acceptance"))
    elif len(guarded) < len(rows):
        said.append(worded("report.simple-acceptance-else"))
    said += [_guard_sentence(row) for row in guarded]
    return said


def _guard_sentence(row: JudgedRow) -> str:
    name = f"{row.title}, {row.group}" if row.group else row.title
    k = 0.0 if row.guard is None else row.guard.k
    if row.expanded_u is None:
        return worded("report.guarded", name=name, k=k)
    return worded("report.guarded-by", name=name, k=k, u=row.expanded_u, unit=row.unit)


FEWEST_WITH_SPREAD = 3
"""Two values have no spread worth a figure."""


def has_spread(row: JudgedRow, test: ReportedTest) -> bool:
    """Return whether a spread is stated: not of grades, classes or counts, nor of two values."""
    if row.summary is None or (row.summary.n or 0) < FEWEST_WITH_SPREAD:
        return False
    known = properties_of(test).get(row.property)
    return row.summary.statistic == "mean" and not (known is not None and known.grade)


def specimen_view(test: ReportedTest, label: str) -> SpecimenView | None:
    """Return what the job knows of a specimen of the result; None where it has none."""
    return next((each for each in test.view.specimens if each.label == label), None)


def void_labels(test: ReportedTest) -> list[str]:
    """Return the labels of the specimens that do not count."""
    return [each["label"] for each in test.result.get("specimens", []) if not each["valid"]]
