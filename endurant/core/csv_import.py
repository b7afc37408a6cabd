"""A test document from CSV files: one trace a file, several told apart by a column, or a table."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import PurePath
from typing import Any

import numpy as np

from endurant.core.csv_dialect import Dialect
from endurant.core.csv_trace import Form, read_form, read_trace_csv, take
from endurant.core.methods import find_method
from endurant.core.methods.method import Method
from endurant.core.quantities import split_header_unit
from endurant.core.quoting import quoted
from endurant.core.recordings import ForceTrace
from endurant.core.refusals import Invalid


@dataclass(frozen=True)
class Imported:
    """A test document, and sentences on what was taken for what."""

    document: dict[str, Any]
    said: list[str]


def import_csv(
    files: Sequence[tuple[str, bytes]],
    method_id: str,
    mapped: Mapping[str, str] | None = None,
    specimens_by: str | None = None,
    given: Mapping[str, Any] | None = None,
    parameters: Mapping[str, Any] | None = None,
) -> Imported:
    """Make a test document of CSV files; it is not computed yet.

    `given` stands in every specimen (its dimensions, say). Raises Invalid that names the file.
    """
    method = find_method(method_id)
    specimens: list[dict[str, Any]] = []
    said: list[str] = []
    for name, data in files:
        try:
            if "trace" not in method.readings.model_fields:
                entries, remarks = _specimen_rows(method, data)
            elif specimens_by is not None:
                entries, remarks = _told_apart(method, data, mapped or {}, specimens_by)
            else:
                entries, remarks = _one_trace(method, name, data, mapped or {})
        except Invalid as refusal:
            raise refusal.within("file.in", file=name) from refusal
        specimens += entries
        said += [f"{name}: {line}" for line in remarks]
    document = {
        "method": method_id,
        "parameters": dict(parameters or {}),
        "specimens": [dict(given or {}) | specimen for specimen in specimens],
    }
    return Imported(document, said)


def columns_needed(method: Method) -> tuple[str, ...]:
    """Return the columns that a trace of this method must have, each with its unit in its name."""
    annotation = method.readings.model_fields["trace"].annotation
    model = next(
        (
            specimen
            for specimen in (annotation, *getattr(annotation, "__args__", ()))
            if _is_trace(specimen)
        ),
        ForceTrace,
    )
    return tuple(name for name, field in model.model_fields.items() if field.is_required())


def _is_trace(specimen: Any) -> bool:
    return hasattr(specimen, "model_fields")


Found = tuple[list[dict[str, Any]], list[str]]


def _one_trace(method: Method, name: str, data: bytes, mapped: Mapping[str, str]) -> Found:
    taken = read_trace_csv(data, columns_needed(method), mapped)
    trace = {column: samples.tolist() for column, samples in taken.columns.items()}
    return [{"label": PurePath(name).stem[:64], "trace": trace}], taken.said


def _told_apart(method: Method, data: bytes, mapped: Mapping[str, str], by: str) -> Found:
    """The traces of a file whose rows say which specimen they belong to."""
    form = read_form(data, mapped, also=(by,))
    names = [split_header_unit(header)[0].lower() for header in form.headers]
    if by.strip().lower() not in names:
        raise Invalid("csv.specimen-column-missing", headers=form.headers, by=by, field="map")
    place = names.index(by.strip().lower())
    groups: dict[str, list[list[float]]] = {}
    for number, cells in enumerate(form.dialect.rows(form.rows), start=form.header_at + 2):
        label, figures = _row(form, cells, place, number)
        groups.setdefault(label, []).append(figures)
    entries: list[dict[str, Any]] = []
    said: list[str] = []
    for label, rows in groups.items():
        taken = take(form, np.asarray(rows, dtype=np.float64))
        for column in columns_needed(method):
            if column not in taken.columns:
                raise Invalid(
                    "csv.column-missing", headers=form.headers, column=column, field=column
                )
        trace = {column: samples.tolist() for column, samples in taken.columns.items()}
        entries.append({"label": label, "trace": trace})
        said = said or taken.said[1:]
    counted = ", ".join(f"{label} ({len(rows)} samples)" for label, rows in groups.items())
    return entries, [f"{len(groups)} specimens separated by {quoted(by)}: {counted}", *said]


def _row(form: Form, cells: list[str], place: int, number: int) -> tuple[str, list[float]]:
    """Label and figures of one row; cells that no known column needs may hold text."""
    if len(cells) != len(form.headers):
        raise Invalid(
            "csv.cell-count", row=number, count=len(cells), expected=len(form.headers), field="file"
        )
    label = cells[place].strip()
    if not label:
        raise Invalid("csv.specimen-missing", row=number, field="file")
    figures = []
    for column, cell in enumerate(cells):
        try:
            figures.append(form.dialect.number(cell) if column in form.columns else 0.0)
        except ValueError:
            shown = quoted(form.dialect.plain(cell.strip()))
            raise Invalid(
                "csv.not-a-number",
                row=number,
                column=form.headers[column],
                given=shown,
                field="file",
            ) from None
    return label, figures


def _specimen_rows(method: Method, data: bytes) -> Found:
    """A table with a specimen in each row and the fields of the method as its columns."""
    fields = set(method.readings.model_fields)
    form = read_form(data, {}, also=tuple(fields))
    names = [split_header_unit(header)[0].strip() for header in form.headers]
    unknown = [name for name in names if name and name not in fields]
    if "label" not in names or unknown:
        has_label = "label" in names
        raise Invalid(
            "csv.column-not-of-method" if has_label else "csv.label-missing",
            headers=form.headers,
            column=unknown[0] if has_label else "label",
            known=sorted(fields),
            field="file",
        )
    rows = []
    for cells in form.dialect.rows(form.rows):
        entry = {
            name: _value(cell, form.dialect, name)
            for name, cell in zip(names, cells, strict=False)
            if name and cell.strip()
        }
        rows.append(entry)
    return rows, [f"{len(rows)} specimens, a row each; columns {', '.join(names)}"]


_TEXTS = ("label", "direction", "state")


def _value(cell: str, dialect: Dialect, name: str) -> Any:
    """A cell as a number, a list, true or false where it reads as one; else text."""
    shown = cell.strip()
    if name in _TEXTS:
        return shown
    try:
        return json.loads(dialect.plain(shown))
    except ValueError:
        return shown
