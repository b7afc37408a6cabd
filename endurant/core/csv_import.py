"""A test document from CSV files: one trace a file, several told apart by a column, or a table."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import PurePath
from typing import Any

import numpy as np

from endurant.core.csv_dialect import Dialect
from endurant.core.csv_trace import Form, Taken, read_form, read_trace, take
from endurant.core.methods import find_method
from endurant.core.methods.method import Method
from endurant.core.quantities import split_header_unit
from endurant.core.quoting import quoted
from endurant.core.recordings import ForceTrace
from endurant.core.refusals import Invalid
from endurant.core.workbooks import is_workbook, recorded_sheets


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
    for name, data in _tables(files):
        try:
            if "trace" not in method.readings.model_fields:
                entries, remarks = _specimen_rows(method, data)
            elif specimens_by is not None:
                entries, remarks = _told_apart(method, data, mapped or {}, specimens_by)
            else:
                entries, remarks = _traces(method, name, data, mapped or {})
            for entry in entries:
                _check_time(entry)
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


def _tables(files: Sequence[tuple[str, bytes]]) -> Iterator[tuple[str, bytes]]:
    """The tables of files, by name: a workbook holds one a sheet, and several by their titles."""
    for name, data in files:
        if not is_workbook(data):
            yield name, data
            continue
        try:
            sheets = recorded_sheets(data)
        except Invalid as refusal:
            raise refusal.within("file.in", file=name) from refusal
        for title, table in sheets:
            yield (name if len(sheets) == 1 else title), table


def _check_time(entry: Mapping[str, Any]) -> None:
    """Raises Invalid where the time of a trace falls: such a file is refused before it counts."""
    falls = np.diff(np.asarray(entry.get("trace", {}).get("time_s", []))) < 0
    if falls.any():
        raise Invalid(
            "csv.time-falls",
            specimen=entry["label"],
            sample=int(np.argmax(falls)) + 2,
            field="time_s",
        )


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


def _traces(method: Method, name: str, data: bytes, mapped: Mapping[str, str]) -> Found:
    """The trace of a file, or the traces that stand side by side in it."""
    form = read_form(data, mapped)
    blocks = _blocks(form)
    if len(blocks) > 1:
        return _side_by_side(method, name, form, blocks)
    taken = read_trace(form, columns_needed(method))
    return [_entry(method, PurePath(name).stem[:64], taken, form)], taken.said


def _entry(method: Method, label: str, taken: Taken, form: Form) -> dict[str, Any]:
    """A specimen with its trace; raises Invalid for a column that its method needs and lacks."""
    for column in columns_needed(method):
        if column not in taken.columns:
            raise Invalid("csv.column-missing", headers=form.headers, column=column, field=column)
    trace = {column: samples.tolist() for column, samples in taken.columns.items()}
    return {"label": label, "trace": trace}


def _blocks(form: Form) -> list[list[int]]:
    """The columns of each specimen of a file, where known columns come again, all as often.

    A time that stands once belongs to every specimen.
    """
    places: dict[str, list[int]] = {}
    for place, column in form.columns.items():
        places.setdefault(column.name, []).append(place)
    counts = {len(found) for name, found in places.items() if name != "time_s" or len(found) > 1}
    if len(counts) != 1 or counts == {1}:
        return [sorted(form.columns)]
    return [
        sorted(found[number if len(found) > 1 else 0] for found in places.values())
        for number in range(counts.pop())
    ]


def _side_by_side(method: Method, name: str, form: Form, blocks: list[list[int]]) -> Found:
    """The traces of specimens whose columns stand side by side, each as long as its own cells."""
    names = _names_above(form, blocks, PurePath(name).stem)
    samples: list[list[list[float]]] = [[] for _ in blocks]
    ended = [False] * len(blocks)
    shared = set(blocks[0]) & set(blocks[1])
    for number, row in enumerate(form.dialect.rows(form.rows), start=form.header_at + 2):
        cells = row + [""] * (len(form.headers) - len(row))
        for block, places in enumerate(blocks):
            own = [cells[place].strip() for place in places if place not in shared]
            if not any(own):
                ended[block] = True
                continue
            if ended[block] or not all(own) or not all(cells[place].strip() for place in places):
                raise Invalid("csv.gap-side-by-side", row=number, name=names[block], field="file")
            samples[block].append([_figure(form, cells, place, number) for place in places])
    entries: list[dict[str, Any]] = []
    for label, places, rows in zip(names, blocks, samples, strict=True):
        if not rows:
            raise Invalid("csv.no-samples-of", name=label, field="file")
        part = replace(
            form,
            headers=[form.headers[place] for place in places],
            columns={at: form.columns[place] for at, place in enumerate(places)},
        )
        taken = take(part, np.asarray(rows, dtype=np.float64))
        entries.append(_entry(method, label, taken, form))
        said = taken.said[1:]
    counted = ", ".join(
        f"{label} ({len(rows)} samples)" for label, rows in zip(names, samples, strict=True)
    )
    return entries, [f"{len(blocks)} specimens side by side: {counted}", *said]


def _names_above(form: Form, blocks: list[list[int]], stem: str) -> list[str]:
    """The names in the line above the header; without one, that of the file with a number."""
    above = [cell.strip() for cell in next(form.dialect.rows([form.above]), [])]
    shared = set(blocks[0]) & set(blocks[1])
    names = []
    for number, places in enumerate(blocks, start=1):
        own = [place for place in places if place not in shared]
        found = [above[place] for place in range(own[0], own[-1] + 1) if above[place : place + 1]]
        names.append(next((text for text in found if text), f"{stem} {number}")[:64])
    return names


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
        entries.append(_entry(method, label, taken, form))
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
    return label, [
        _figure(form, cells, place, number) if place in form.columns else 0.0
        for place in range(len(cells))
    ]


def _figure(form: Form, cells: Sequence[str], place: int, number: int) -> float:
    try:
        return form.dialect.number(cells[place])
    except ValueError:
        shown = quoted(form.dialect.plain(cells[place].strip()))
        raise Invalid(
            "csv.not-a-number", row=number, column=form.headers[place], given=shown, field="file"
        ) from None


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
