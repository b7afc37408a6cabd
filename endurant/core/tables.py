"""The specimen table of a result document as CSV."""

from __future__ import annotations

from typing import Any

from endurant.core.csv_dialect import csv_text, figure_cell


def specimen_table(result: dict[str, Any]) -> str:
    """One row for each specimen of a result document, as CSV."""
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
    ]
    rows = (
        [
            specimen["label"],
            specimen["direction"] or "",
            specimen["state"],
            "yes" if specimen["valid"] else "no",
            *(figure_cell(specimen["values"].get(name, {}).get("value")) for name in names),
            " ".join(flag["code"] for flag in specimen["flags"]),
        ]
        for specimen in result["specimens"]
    )
    return csv_text([*header, "flags"], rows)
