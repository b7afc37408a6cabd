"""Tables for machines: the specimens and the raw traces of a report, and of a result document."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from endurant.core.csv_dialect import csv_text, figure_cell
from endurant.core.drawn import AXES, TRACES
from endurant.core.tables import specimen_table
from endurant.work.jobs.studies import StudyView
from endurant.work.reporting.views import ReportContent


def report_specimens(content: ReportContent) -> str:
    """The specimen tables of all tests of a report, one below the other."""
    return "\n".join(specimen_table(test.result) for test in content.tests if test.result)


def study_table(study: StudyView) -> str:
    """Samples side by side: a row for each property of each sample, the highest mean first."""
    head = ["test", "property", "group", "unit", "limit", "rank", "sample", "n", "result"]
    more = ["verdict", "difference", "difference_half_width_95", "against"]
    names = {sample.job.id: sample.variant for sample in study.samples}
    return csv_text(
        [*head, *more],
        (
            [
                *(row.test, row.title, row.group, row.unit, row.limit_words),
                *("" if each.rank is None else str(each.rank), each.name, str(each.n)),
                *(each.mean_text, each.verdict),
                *map(_figure_or_blank, (each.difference, each.difference_half_width)),
                names[study.against],
            ]
            for row in study.comparisons
            for each in row.samples
        ),
    )


def _figure_or_blank(figure: float | None) -> str:
    return "" if figure is None else figure_cell(figure)


def report_traces(content: ReportContent) -> str:
    """Every raw sample of a report: method, specimen, trace and the columns of it."""
    columns = tuple(AXES)

    def rows() -> Iterable[Sequence[str]]:
        for test in content.tests:
            for specimen in test.document["specimens"]:
                for name in TRACES:
                    trace = specimen.get(name)
                    if not isinstance(trace, dict):
                        continue
                    known = {key: _first(trace[key]) for key in columns if trace.get(key)}
                    count = max((len(column) for column in known.values()), default=0)
                    for sample in range(count):
                        cells = [
                            figure_cell(known[key][sample]) if key in known else ""
                            for key in columns
                        ]
                        yield [test.view.method, specimen["label"], name, *cells]

    return csv_text(["method", "specimen", "trace", *columns], rows())


def _first(column: list[Any]) -> list[Any]:
    """A column, or the first of several channels."""
    return column[0] if column and isinstance(column[0], list) else column
