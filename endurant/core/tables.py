"""Tables for machines: typed once, written as CSV here and as a workbook by the reports."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any, NamedTuple

from endurant.core.csv_dialect import Cell, csv_text


class Table(NamedTuple):
    """A header and its rows. A lot that looks like a figure is text, a figure is a number."""

    header: Sequence[str]
    rows: Iterable[Sequence[Cell]]

    def csv(self) -> str:
        """Return the table as CSV, figures with every digit."""
        return csv_text(self.header, self.rows)


def specimen_table(result: dict[str, Any]) -> Table:
    """Return one row for each specimen of a result document, values in the units of its header."""
    names = sorted({name for specimen in result["specimens"] for name in specimen["values"]})
    units = {
        name: specimen["values"][name]["unit"]
        for specimen in result["specimens"]
        for name in specimen["values"]
    }
    header = [
        "label",
        "direction",
        "state",
        "valid",
        *(f"{name} ({units[name]})" for name in names),
        "flags",
    ]
    rows = [
        [
            specimen["label"],
            specimen["direction"],
            specimen["state"],
            "yes" if specimen["valid"] else "no",
            *(specimen["values"].get(name, {}).get("value") for name in names),
            " ".join(flag["code"] for flag in specimen["flags"]),
        ]
        for specimen in result["specimens"]
    ]
    return Table(header, rows)
