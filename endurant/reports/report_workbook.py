"""A whole report as a workbook: its heads, results, specimens, parameters and deviations."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime

from endurant.core.csv_dialect import Cell
from endurant.core.field_names import title_and_unit
from endurant.core.methods.designation import designation
from endurant.core.tables import Table
from endurant.reports.client_report import has_spread, requirement_verdict, specimen_view
from endurant.reports.values import figure_columns, property_title
from endurant.work.facts.models import JudgedRow
from endurant.work.use_cases.reporting.models import ReportContent, ReportedTest

RESULTS_HEAD = (
    *("Test", "Method", "Property", "Direction", "Requirement", "Result", "Unit", "Statistic"),
    *("n", "SD", "CV, %", "Min", "Max", "95 % interval, ±", "Verdict"),
)
SPECIMENS_HEAD = ("Specimen", "Direction", "Tested yarns", "State", "Counts", "Void because")
PARAMETERS_HEAD = ("Test", "Parameter", "Unit", "Value", "Usual value")
MAX_TITLE = 28
"""A sheet has 31 letters at most; three are left for a number behind two alike titles."""


def report_tables(report: ReportContent) -> dict[str, list[Table]]:
    """Return the sheets of a report: one for each test, the others for the whole of it."""
    sheets = {
        "Report": [Table(("Item", "Value"), _heads(report))],
        "Results": [Table(RESULTS_HEAD, [*_results(report)])],
    }
    for test in report.tests:
        sheets[_title(test, sheets)] = [_specimens(test)]
    sheets["Parameters"] = [Table(PARAMETERS_HEAD, [*_parameters(report)])]
    sheets["Deviations"] = [Table(("Deviation",), [[line] for line in report.deviations])]
    return sheets


def _title(test: ReportedTest, taken: Iterable[str]) -> str:
    """The designation of a method, with a number where the report has it twice."""
    name = designation(test.view.method)[:MAX_TITLE]
    alike = sum(each == name or each.startswith(f"{name} (") for each in taken)
    return f"{name} ({alike + 1})" if alike else name


def _heads(report: ReportContent) -> list[list[Cell]]:
    return [
        ["Report", report.number],
        ["Revision", report.revision],
        ["Replaces the revision before, because", report.reason],
        ["Withdrawn", report.withdrawn or None],
        ["Laboratory", report.laboratory],
        ["Address", report.address],
        ["Client", report.client],
        ["Order", report.order_number],
        ["Client's reference", report.client_reference],
        ["Product", report.product],
        ["Lot", report.lot],
        ["Material", report.material],
        ["Sample", f"{report.arrived}, {report.arrival_state}"],
        ["Received (UTC)", _moment(report.received_at)],
        ["Tested from (UTC)", _moment(report.tested_from)],
        ["Tested to (UTC)", _moment(report.tested_to)],
        ["Tested by", ", ".join(report.tested_by)],
        ["Released (UTC)", _moment(report.released_at)],
        ["Released by", report.released_by],
        ["Verdict", requirement_verdict(report.verdict)],
        ["Comparison with limits", report.comparison.replace("-", " ")],
        ["Rounding of ties", report.rounding],
    ]


def _moment(at: datetime | None) -> str | None:
    return None if at is None else f"{at:%Y-%m-%d %H:%M}"


def _results(report: ReportContent) -> Iterable[list[Cell]]:
    for test in report.tests:
        for row in test.view.rows:
            head = [test.view.title, designation(test.view.method), row.title, row.group]
            requirement = row.limit_text if row.criterion else None
            verdict = requirement_verdict(row.verdict) if row.criterion else None
            yield [*head, requirement, *_summary(row, test), verdict]


def _summary(row: JudgedRow, test: ReportedTest) -> list[Cell]:
    """The result as it was reported and what it is made of; the spread where there is one."""
    summary = row.summary
    if summary is None:
        return [None, row.unit, *[None] * 7]
    spread: list[Cell] = [None, None, summary.minimum, summary.maximum, None]
    if has_spread(row, test):
        spread[0], spread[1] = summary.sd, summary.cv_percent
        spread[4] = summary.ci95_half_width
    result = f"{summary.qualifier or ''}{summary.reported or ''}"
    return [as_reported(result), row.unit, summary.statistic, summary.n, *spread]


def as_reported(text: str) -> Cell:
    """Return a result as a figure, where it was reported as one and nothing more."""
    try:
        return float(text)
    except ValueError:
        return text or None


def _specimens(test: ReportedTest) -> Table:
    """Every specimen with its values; a value has every digit, in the unit of its heading."""
    names = [name for columns in figure_columns(test) for name in columns]
    rows: list[list[Cell]] = []
    for specimen in test.result.get("specimens", []):
        known = specimen_view(test, specimen["label"])
        void = known.void if known else None
        rows.append(
            [
                specimen["label"],
                specimen["direction"],
                known.works_on if known else None,
                specimen["state"],
                "yes" if specimen["valid"] else "no",
                void.remark if void else None,
                *(specimen["values"].get(name, {}).get("value") for name in names),
                "; ".join(flag["text"] for flag in specimen["flags"]) or None,
            ]
        )
    headings = [property_title(name, test) for name in names]
    return Table((*SPECIMENS_HEAD, *headings, "Remarks"), rows)


def _parameters(report: ReportContent) -> Iterable[list[Cell]]:
    for test in report.tests:
        for line in test.parameters:
            name, unit = title_and_unit(line.name)
            values = [as_reported(line.value), as_reported(line.default)]
            yield [test.view.title, name, unit, *values]
