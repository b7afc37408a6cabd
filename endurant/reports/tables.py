"""Tables for machines: the specimens and the raw traces of a report, and of a result document."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from endurant.core.columns import as_lists
from endurant.core.csv_dialect import Cell
from endurant.core.drawn import AXES, TRACES, first_channel
from endurant.core.judging.side_by_side import difference_text
from endurant.core.tables import Table, specimen_table
from endurant.work.use_cases.reporting.models import ReportContent
from endurant.work.views.studies import StudyView


def report_specimens(content: ReportContent) -> list[Table]:
    """The specimen table of each test of a report."""
    return [specimen_table(test.result) for test in content.tests if test.result]


def study_table(study: StudyView) -> Table:
    """Samples side by side: a row for each property of each sample, the highest mean first."""
    head = ["test", "property", "group", "unit", "limit", "rank", "sample", "n", "result"]
    more = ["verdict", "difference", "difference_half_width_95", "against"]
    names = {sample.job.id: sample.variant for sample in study.samples}
    rows = [
        [
            *(row.test, row.title, row.group, row.unit, row.limit_text),
            *(each.rank, each.name, each.n, _as_reported(each.mean_text), each.verdict),
            *(_as_shown(each.difference), _as_shown(each.difference_half_width)),
            names[study.against],
        ]
        for row in study.comparisons
        for each in row.samples
    ]
    return Table([*head, *more], rows)


def _as_shown(difference: float | None) -> float | None:
    """A difference with the digits that the page shows."""
    return None if difference is None else float(difference_text(difference))


def _as_reported(text: str) -> str | float:
    """A mean as a figure, where it was reported as one and nothing more."""
    try:
        return float(text)
    except ValueError:
        return text


def report_traces(content: ReportContent) -> Table:
    """Every raw sample of a report: method, specimen, trace and the columns of it."""
    columns = tuple(AXES)

    def rows() -> Iterable[Sequence[Cell]]:
        for test in content.tests:
            for specimen in test.document["specimens"]:
                for name in TRACES:
                    trace = specimen.get(name)
                    if not isinstance(trace, dict):
                        continue
                    known = {
                        key: as_lists(first_channel(trace[key]))
                        for key in columns
                        if trace.get(key) is not None and len(trace[key])
                    }
                    count = max((len(column) for column in known.values()), default=0)
                    for sample in range(count):
                        cells = [known[key][sample] if key in known else None for key in columns]
                        yield [test.view.method, specimen["label"], name, *cells]

    return Table(["method", "specimen", "trace", *columns], rows())
