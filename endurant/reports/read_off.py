"""What was read off each specimen, as a report prints it: all but the recordings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from endurant.core.field_names import title_and_unit
from endurant.core.methods import find_method
from endurant.core.rounding import in_numbers
from endurant.core.writing import Writing
from endurant.work.use_cases.reporting.models import ReportedTest

COLUMNS_AT_ONCE = 6
LONGEST_CELL = 24
"""Characters that a cell of six columns holds; a longer reading has a line of its own."""
NOT_READINGS = frozenset({"label", "direction", "state", "observations", "run"})


class ReadingsTable(NamedTuple):
    """As many columns as fit side by side: their headings, and the cells of each label."""

    headings: list[str]
    rows: list[tuple[str, list[str]]]


class LongReading(NamedTuple):
    """A series of looks, drops or cuts of one specimen, in words."""

    label: str
    heading: str
    wording: str


def readings_tables(test: ReportedTest, writing: Writing) -> list[ReadingsTable]:
    """The short readings of all specimens; nothing where a method has only recordings."""
    cells = {
        str(entry["label"]): _cells_of(test, entry, writing) for entry in test.document["specimens"]
    }
    long = _long_names(cells)
    names = [name for name in _names(cells) if name not in long]
    tables = []
    for start in range(0, len(names), COLUMNS_AT_ONCE):
        shown = names[start : start + COLUMNS_AT_ONCE]
        rows = [(label, [of.get(name, "–") for name in shown]) for label, of in cells.items()]
        tables.append(ReadingsTable([_heading(name) for name in shown], rows))
    return tables


def long_readings(test: ReportedTest, writing: Writing) -> list[LongReading]:
    """The readings that are series of their own, specimen by specimen."""
    cells = {
        str(entry["label"]): _cells_of(test, entry, writing) for entry in test.document["specimens"]
    }
    long = _long_names(cells)
    return [
        LongReading(label, _heading(name), of[name])
        for label, of in cells.items()
        for name in long
        if name in of
    ]


def _cells(test: ReportedTest, writing: Writing) -> dict[str, dict[str, str]]:
    """The readings of each label, by name."""
    entries = test.document["specimens"]
    return {str(entry["label"]): _cells_of(test, entry, writing) for entry in entries}


def _names(cells: Mapping[str, Mapping[str, str]]) -> list[str]:
    return list(dict.fromkeys(name for of in cells.values() for name in of))


def _long_names(cells: Mapping[str, Mapping[str, str]]) -> list[str]:
    return [
        name
        for name in _names(cells)
        if any(len(of.get(name, "")) > LONGEST_CELL for of in cells.values())
    ]


def _cells_of(test: ReportedTest, entry: Mapping[str, Any], writing: Writing) -> dict[str, str]:
    """Name and words of each reading of a specimen, sizes first."""
    sizes = entry.get("dimensions") or {}
    wording = find_method(test.view.method).readings.labels_of_codes
    read = dict(sizes) | {
        name: wording.get(name, {}).get(str(value), value)
        for name, value in entry.items()
        if name not in NOT_READINGS and not isinstance(value, Mapping)
    }
    written = {name: _in_words(value, writing) for name, value in read.items()}
    return {name: text for name, text in written.items() if text}


def _in_words(value: Any, writing: Writing) -> str:
    """A reading in words; empty for what was not read and for a recording."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float):
        return writing.figures(in_numbers(value))
    if isinstance(value, Mapping):
        return ", ".join(
            _part(name, part, writing) for name, part in value.items() if part is not None
        )
    if isinstance(value, Sequence) and not isinstance(value, str):
        if any(_is_recording(each) for each in value):
            return ""
        between = "; " if any(isinstance(each, Mapping) for each in value) else ", "
        return between.join(_in_words(each, writing) for each in value)
    return str(value)


def _is_recording(value: Any) -> bool:
    return isinstance(value, Mapping) and any(
        isinstance(part, list) and part and isinstance(part[0], int | float)
        for part in value.values()
    )


def _part(name: str, value: Any, writing: Writing) -> str:
    if isinstance(value, bool):
        spoken = name.replace("_", " ")
        return spoken if value else f"not {spoken}"
    title, unit = title_and_unit(name)
    return f"{title} {_in_words(value, writing)} {unit}".strip()


def _heading(name: str) -> str:
    title, unit = title_and_unit(name)
    return f"{title}, {unit}" if unit else title
