"""The values of specimens in a report: their headings, and how they are written."""

from __future__ import annotations

from typing import Any

from endurant.core.methods import find_method
from endurant.core.methods.properties import Property
from endurant.core.rounding import four_digits
from endurant.work.use_cases.reporting.models import ReportedTest

COLUMNS_AT_ONCE = 6


def figure_columns(test: ReportedTest) -> list[list[str]]:
    """The names of all values of the specimens, as many to a table as there is room for."""
    names = list(
        dict.fromkeys(
            name for specimen in test.result.get("specimens", []) for name in specimen["values"]
        )
    )
    return [
        names[start : start + COLUMNS_AT_ONCE] for start in range(0, len(names), COLUMNS_AT_ONCE)
    ]


def properties_of(test: ReportedTest) -> dict[str, Property]:
    """Return the properties of a test with its parameters, by name."""
    method = find_method(test.view.method)
    parameters = method.parameters.model_validate(test.document["parameters"])
    return {known.name: known for known in method.properties_for(parameters)}


def property_title(name: str, test: ReportedTest) -> str:
    """What stands over the column of a value, with its unit."""
    known = properties_of(test).get(name)
    if known is None:
        return name.replace("_", " ")
    return f"{known.title}, {known.unit}" if known.unit else known.title


def figure_text(value: dict[str, Any] | None, name: str, test: ReportedTest) -> str:
    """A value of one specimen to the digits of its property; a dash where there is none."""
    if value is None or value["value"] is None:
        return "–"
    known = properties_of(test).get(name)
    rounding = test.document["parameters"]["rounding"]
    written = (
        four_digits(value["value"]) if known is None else known.reported(value["value"], rounding)
    )
    return f"{value.get('qualifier') or ''} {written}".strip()
