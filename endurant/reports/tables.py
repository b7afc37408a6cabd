"""Tables for machines: the specimens and the raw traces of a report, and of a result document."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from typing import Any

from endurant.work.reporting import ReportContent


def specimen_table(result: dict[str, Any]) -> str:
    """One row for each specimen of a result document, as CSV."""
    names = sorted({name for one in result["specimens"] for name in one["values"]})
    units = {
        name: one["values"][name]["unit"] for one in result["specimens"] for name in one["values"]
    }
    header = [
        "label",
        "direction",
        "state",
        "valid",
        *(f"{name} ({units[name]})" for name in names),
    ]
    rows = (
        [
            one["label"],
            one["direction"] or "",
            one["state"],
            "yes" if one["valid"] else "no",
            *(_cell(one["values"].get(name, {}).get("value")) for name in names),
            " ".join(flag["code"] for flag in one["flags"]),
        ]
        for one in result["specimens"]
    )
    return _csv([*header, "flags"], rows)


def report_specimens(content: ReportContent) -> str:
    """The specimen tables of all tests of a report, one below the other."""
    return "\n".join(specimen_table(test.result) for test in content.tests if test.result)


def report_traces(content: ReportContent) -> str:
    """Every raw sample of a report: method, specimen, and the columns of the trace."""
    columns = ("time_s", "extension_mm", "force_n")

    def rows() -> Iterable[Sequence[str]]:
        for test in content.tests:
            for one in test.document["specimens"]:
                count = len(one["trace"]["force_n"])
                for sample in range(count):
                    yield [
                        test.view.method,
                        one["label"],
                        *(
                            _cell(one["trace"][name][sample]) if name in one["trace"] else ""
                            for name in columns
                        ),
                    ]

    return _csv(["method", "specimen", *columns], rows())


def _cell(figure: float | None) -> str:
    return "" if figure is None else repr(figure)


def _csv(header: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(header)
    writer.writerows(rows)
    return text.getvalue()
