"""A table of products is read: each row adds a test or a limit, or is refused by its cell."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any, get_args

from pydantic import ValidationError

from endurant.core.complaints import message_of
from endurant.core.conditioning.chains import Stage
from endurant.core.judging.criteria import On
from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.methods.method import Method
from endurant.core.refusals import Invalid, Refusal
from endurant.work.facts.specifications import OWN_RULES, typed_value, unit_of
from endurant.work.facts.test_settings import partial, requested_parameters
from endurant.work.use_cases.products.specification import conditioning_of, with_count
from endurant.work.use_cases.products.table_columns import (
    COLUMNS,
    RULES,
    parameter_headings,
)
from endurant.work.use_cases.products.table_rows import TableRow, rows_of
from endurant.work.use_cases.products.table_stages import stages_from
from endurant.work.use_cases.receiving.limits import LimitRequest, checked_limit
from endurant.work.use_cases.receiving.receiving import SampleForm
from endurant.work.use_cases.receiving.stages import SpecimenState

SHARED = ("revision", "material", "form", "comparison", "label school")
"""Columns in which all rows of a product agree."""
_DATE = re.compile(r"\d{4}-\d\d-\d\d([ T].*)?|\d{1,2}[./]\d{1,2}[./]\d{2,4}")
_NUMBER = re.compile(r"[-\u2212]?[\d., ]+")

Key = tuple[str, str]


@dataclass
class ReadProduct:
    """A product as a table gives it: `revision` is the one that it goes on from, if it says so."""

    revision: int | None
    specification: dict[str, Any]


@dataclass
class ReadTable:
    """The products of a table, and each refusal with the cell it is about."""

    products: dict[Key, ReadProduct] = field(default_factory=dict)
    refusals: list[Message] = field(default_factory=list)


def read_products(data: bytes) -> ReadTable:
    """Return the products of a table, with every refusal; raises Invalid where it has no header."""
    table = ReadTable()
    first: dict[Key, TableRow] = {}
    for row in rows_of(data):
        try:
            _take(table.products, first, row)
        except Refusal as refusal:
            table.refusals.append(refusal.message)
    return table


def _check_cells(row: TableRow) -> None:
    """Raises Invalid for an empty name, a formula, or a date where the material stands."""
    for column in ("client", "product", "material"):
        if not row[column]:
            raise row.refuse(column, "products.empty")
        if not row[column].isprintable():
            raise row.refuse(column, "products.line-break", column=column)
    for column, cell in row.cells.items():
        if cell.startswith("="):
            raise row.refuse(column, "products.formula")
    if _DATE.fullmatch(row["material"]):
        raise row.refuse("material", "products.material-is-date", given=row["material"])


def _take(products: dict[Key, ReadProduct], first: dict[Key, TableRow], row: TableRow) -> None:
    """Add one row to the products; raises Invalid that names the cell."""
    _check_cells(row)
    method = _method(row)
    key = (row["client"], row["product"])
    product = products.get(key) or _begun(row)
    if key in first:
        for column in SHARED:
            if row[column] != first[key][column]:
                raise row.refuse(column, "products.rows-disagree", other=first[key].where(column))
    test = _test(product.specification["tests"], row, method)
    if row["property"]:
        limit = _limit(row, method, test)
        there = [(each["property"], each["direction"]) for each in test["limits"]]
        if (limit["property"], limit["direction"]) in there:
            raise row.refuse("property", "products.limit-doubled", property=row["property"])
        test["limits"].append(limit)
    if test not in product.specification["tests"]:
        product.specification["tests"].append(test)
    products[key] = product
    first.setdefault(key, row)


def _begun(row: TableRow) -> ReadProduct:
    """The product of its first row, without tests yet."""
    form = row["form"] or "sheet"
    if form not in get_args(SampleForm):
        raise row.refuse("form", "products.area-rule", given=form, known=list(get_args(SampleForm)))
    own: dict[str, Any] = {"material": row["material"], "form": form, "tests": []}
    for name, schools in OWN_RULES.items():
        column = name.replace("_", " ")
        if row[column] and row[column] not in schools:
            raise row.refuse(column, "products.area-rule", given=row[column], known=list(schools))
        if row[column]:
            own[name] = row[column]
    if row["revision"] and not row["revision"].isdecimal():
        raise row.refuse("revision", "products.revision-not-a-number", given=row["revision"])
    return ReadProduct(int(row["revision"]) if row["revision"] else None, own)


def _method(row: TableRow) -> Method:
    """The method, by its id or as its standard is written: "ISO 13937-2"."""
    named = "-".join(row["method"].casefold().split())
    if not named:
        raise row.refuse("method", "products.empty")
    try:
        return find_method(named)
    except Refusal as refusal:
        raise row.refuse("method", "products.method-unknown", given=row["method"]) from refusal


def _test(tests: list[dict[str, Any]], row: TableRow, method: Method) -> dict[str, Any]:
    """The test of this row: one that is there already, or a new one."""
    parameters, columns = _parameters(row)
    own = conditioning_of(_state(row), _stages(row))
    for test in tests:
        if _without_limits(test) == {"method": method.id, "parameters": parameters, **own}:
            return test
    try:
        _checked_parameters(method.id, json.dumps(parameters))
    except Invalid as refusal:
        column = columns.get(refusal.field or "", next(iter(columns.values()), "method"))
        raise row.at(column, refusal) from refusal
    return {"method": method.id, "parameters": parameters, "limits": [], **own}


def _without_limits(test: Mapping[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in test.items() if name != "limits"}


def _state(row: TableRow) -> str:
    """Whether the specimens are tested as received or wet."""
    state, known = row["specimen state"] or "original", list(get_args(SpecimenState))
    if state not in known:
        raise row.refuse("specimen state", "products.area-rule", given=state, known=known)
    return state


def _stages(row: TableRow) -> list[Stage] | None:
    try:
        return stages_from(row["conditioning"])
    except Refusal as refusal:
        raise row.at("conditioning", refusal) from refusal


def _parameters(row: TableRow) -> tuple[dict[str, Any], dict[str, str]]:
    """The parameters of a row, and the column that each stands in.

    A column each, or all in the one column of earlier releases: "name: value; name: value".
    """
    parameters: dict[str, Any] = {}
    columns: dict[str, str] = {}
    for pair in filter(str.strip, row["parameters"].split(";")):
        name, parted, value = pair.partition(":")
        if not parted:
            raise row.refuse("parameters", "products.parameters-form", given=pair.strip())
        parameters[name.strip()] = typed_value(value.strip())
        columns[name.strip()] = "parameters"
    for heading, text in row.cells.items():
        name = parameter_headings().get(heading, "")
        if not name or not text:
            continue
        if name in parameters:
            raise row.refuse(heading, "products.parameter-doubled", parameter=heading)
        parameters[name] = typed_value(_plain(row, heading))
        columns[name] = heading
    return parameters, columns


def _plain(row: TableRow, heading: str) -> str:
    """The text of a parameter without what a spreadsheet does to it: commas, "TRUE"."""
    text = row[heading]
    if _NUMBER.fullmatch(text):
        return row.number_text(heading) or ""
    return text.casefold() if text in ("TRUE", "FALSE") else text


@lru_cache(maxsize=64)
def _checked_parameters(method_id: str, parameters: str) -> Any:
    """The parameters of a test as its method's model; rows of a table repeat them often."""
    method = find_method(method_id)
    return partial(method, requested_parameters(method, with_count(method, json.loads(parameters))))


def _limit(row: TableRow, method: Method, test: Mapping[str, Any]) -> dict[str, Any]:
    unit = unit_of(method.id, row["property"])
    if unit and row["unit"] and row["unit"] != unit:
        raise row.refuse("unit", "products.unit-differs", given=row["unit"], unit=unit)
    statistic = row["statistic"] or "mean"
    if statistic not in get_args(On):
        raise row.refuse(
            "statistic", "products.area-rule", given=statistic, known=list(get_args(On))
        )
    signs = {text: sign for sign, text in RULES.items()} | {sign: sign for sign in RULES}
    if row["rule"] and row["rule"].casefold() not in signs:
        raise row.refuse(
            "rule", "products.area-rule", given=row["rule"], known=list(RULES.values())
        )
    op = signs.get(row["rule"].casefold())
    low, failures = row.number_text("limit"), _figure(row, "number without failure")
    criterion = {
        "on": statistic,
        "op": op,
        **({"low": low, "high": row.number_text("upper limit")} if op == "between" else {}),
        **({"limit": low} if op != "between" else {}),
        "none_below_percent": _figure(row, "no value below, % of limit"),
        "of": None if failures is None else int(failures),
    }
    guard = _guard(row)
    try:
        limit = LimitRequest.model_validate(
            {
                "property": row["property"],
                "direction": row["direction"],
                "criterion": {name: part for name, part in criterion.items() if part is not None},
                "guard": guard,
            }
        )
        whole = _checked_parameters(method.id, json.dumps(test["parameters"]))
        return checked_limit(method, whole, limit)
    except ValidationError as error:
        raise row.at("limit", Invalid(message_of(error.errors()[0], ""), field="file")) from error
    except Invalid as refusal:
        column = refusal.field if refusal.field in COLUMNS else "property"
        raise row.at(column or "property", refusal) from refusal


def _guard(row: TableRow) -> dict[str, Any] | None:
    k, budget = _figure(row, "guard factor k"), row["guard budget"]
    if k is None and not budget:
        return None
    try:
        read = json.loads(budget) if budget else []
    except ValueError as error:
        raise row.refuse("guard budget", "products.budget-unreadable") from error
    return {"budget": read} | ({} if k is None else {"k": k})


def _figure(row: TableRow, column: str) -> float | None:
    text = row.number_text(column)
    if text is None:
        return None
    try:
        return float(text)
    except ValueError as error:
        raise row.refuse(column, "products.not-a-number", given=text) from error
