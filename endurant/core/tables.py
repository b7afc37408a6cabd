"""The specimen table of a result document as CSV."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Sequence
from typing import Any


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
            *(cell(one["values"].get(name, {}).get("value")) for name in names),
            " ".join(flag["code"] for flag in one["flags"]),
        ]
        for one in result["specimens"]
    )
    return csv_text([*header, "flags"], rows)


def cell(figure: float | None) -> str:
    """A figure with every digit; nothing for none."""
    return "" if figure is None else repr(figure)


_NUMBER = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?")


def harmless(text: str) -> str:
    """A cell that a spreadsheet would take for a formula, made plain text; numbers stay."""
    formula = text.startswith(("=", "+", "-", "@", "\t", "\r"))
    return f"'{text}" if formula and not _NUMBER.fullmatch(text) else text


def csv_text(header: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """A header and its rows as CSV; no cell is a formula to whatever opens it."""
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow([harmless(name) for name in header])
    writer.writerows([harmless(each) for each in row] for row in rows)
    return text.getvalue()
