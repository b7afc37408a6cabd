"""The columns of the table of products, and the table as it is written."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from functools import cache
from typing import Any

from endurant.core.csv_dialect import Cell
from endurant.core.field_names import spoken
from endurant.core.methods import all_methods
from endurant.core.tables import Table
from endurant.work.facts.specifications import OWN_RULES, own_stages, unit_of, value_text
from endurant.work.use_cases.products.table_stages import stages_text

COLUMNS = (
    *("client", "product", "revision", "material", "form", "method"),
    *("property", "direction", "statistic", "rule", "limit", "upper limit", "unit"),
    *("no value below, % of limit", "number without failure", "guard factor k", "guard budget"),
    *("comparison", "label school", "specimen state", "conditioning"),
)
OLDER_COLUMNS = ("parameters",)
"""Columns that tables of earlier releases have, and that are still read."""
NEEDED = ("client", "product", "material", "method", "property", "limit")
"""Columns without which a row is not a header."""
RULES = {">=": "at least", "<=": "at most", "between": "between"}


@cache
def parameter_headings() -> Mapping[str, str]:
    """The parameters of all methods by their column: "grip separation (mm)", in lower case."""
    return {
        spoken(name).casefold(): name
        for method in all_methods().values()
        for name in method.parameters.model_fields
    }


def table_of_products(products: Sequence[Mapping[str, Any]]) -> Table:
    """Return the products as a table; each has client, name, revision and specification.

    Every parameter that a product names has a column of its own, after the columns of all tables.
    """
    parameters = sorted(
        {
            name
            for each in products
            for test in each["specification"]["tests"]
            for name in test["parameters"]
        }
    )
    rows: list[list[Cell]] = []
    for product in products:
        own = product["specification"]
        for test in own["tests"]:
            start: list[Cell] = [product["client"], product["name"], product["revision"]]
            start += [own["material"], own["form"], test["method"]]
            end: list[Cell] = [own.get(name) or "" for name in OWN_RULES]
            end += [test.get("state", ""), stages_text(own_stages(test))]
            end += [_parameter_cell(test["parameters"], name) for name in parameters]
            for limit in test["limits"] or [None]:
                middle = [""] * 11 if limit is None else _limit_cells(test, limit)
                rows.append([*start, *middle, *end])
    return Table([*COLUMNS, *map(spoken, parameters)], rows)


def _limit_cells(test: Mapping[str, Any], limit: Mapping[str, Any]) -> list[Cell]:
    criterion, guard = limit["criterion"], limit.get("guard")
    unit = unit_of(test["method"], limit["property"])
    low = criterion.get("low") if criterion.get("op") == "between" else criterion.get("limit")
    budget = json.dumps(guard["budget"]) if guard and guard["budget"] else ""
    return [
        *(limit["property"], limit["direction"], criterion["on"]),
        *(RULES.get(criterion.get("op") or "", ""), low or "", criterion.get("high") or "", unit),
        *(criterion.get("none_below_percent"), criterion.get("of")),
        *(guard["k"] if guard else None, budget),
    ]


def _parameter_cell(parameters: Mapping[str, Any], name: str) -> Cell:
    if name not in parameters:
        return ""
    value = parameters[name]
    is_number = isinstance(value, int | float) and not isinstance(value, bool)
    return value if is_number else value_text(value)
