"""The columns of the table of products, and the table as it is written."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from typing import Any

from endurant.core.csv_dialect import Cell
from endurant.core.tables import Table
from endurant.work.facts.specifications import OWN_RULES, unit_of, value_text

COLUMNS = (
    *("client", "product", "revision", "material", "form", "method", "parameters"),
    *("property", "direction", "statistic", "rule", "limit", "upper limit", "unit"),
    *("no value below, % of limit", "number without failure", "guard factor k", "guard budget"),
    *("comparison", "label school"),
)
NEEDED = ("client", "product", "material", "method", "property", "limit")
"""Columns without which a row is not a header."""
RULES = {">=": "at least", "<=": "at most", "between": "between"}


def table_of_products(products: Sequence[Mapping[str, Any]]) -> Table:
    """Return the products as a table; each has client, name, revision and specification."""
    rows: list[list[Cell]] = []
    for product in products:
        own = product["specification"]
        for test in own["tests"]:
            start: list[Cell] = [product["client"], product["name"], product["revision"]]
            start += [own["material"], own["form"], test["method"]]
            start.append(_parameters_text(test["parameters"]))
            end: list[Cell] = [own.get(name) or "" for name in OWN_RULES]
            for limit in test["limits"] or [None]:
                middle = [""] * 11 if limit is None else _limit_cells(test, limit)
                rows.append([*start, *middle, *end])
    return Table(COLUMNS, rows)


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


def _parameters_text(parameters: Mapping[str, Any]) -> str:
    pairs = (f"{name}: {value_text(value)}" for name, value in sorted(parameters.items()))
    return "; ".join(pairs)
