"""Products as a table for a clerk: a row for each limit, in plain columns, out and in again.

A table is read as people keep theirs: parted by commas, semicolons or tabs, in UTF-8, UTF-16 or
Windows-1252, with a title above the header, blank rows, and blanks around names. What cannot be
read is refused by its cell.
"""

from __future__ import annotations

import csv
import json
import re
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, get_args

from pydantic import ValidationError

from endurant.core.complaints import message_of
from endurant.core.csv_dialect import DELIMITERS, Cell, as_it_was, text_of
from endurant.core.cutting.sheet import LabelSchool
from endurant.core.field_names import spoken
from endurant.core.judging.criteria import Criterion, On
from endurant.core.judging.verdicts import Comparison
from endurant.core.messages import Message, worded
from endurant.core.methods import all_methods, find_method
from endurant.core.methods.method import Method
from endurant.core.refusals import Invalid, Refusal
from endurant.core.tables import Table
from endurant.work.facts.test_settings import partial, requested_parameters
from endurant.work.use_cases.receiving.limits import LimitRequest, checked_limit
from endurant.work.use_cases.receiving.receiving import SampleForm, TestRequest

OWN_RULES = {
    "comparison": get_args(Comparison),
    "label_school": get_args(LabelSchool),
}
"""Rules of the laboratory that a product may have of its own, with the schools of each."""
COLUMNS = (
    *("client", "product", "revision", "material", "form", "method", "parameters"),
    *("property", "direction", "statistic", "rule", "limit", "upper limit", "unit"),
    *("no value below, % of limit", "number without failure", "guard factor k", "guard budget"),
    *("comparison", "label school"),
)
NEEDED = ("client", "product", "material", "method", "property", "limit")
"""Columns without which a row is not a header."""
RULES = {">=": "at least", "<=": "at most", "between": "between"}
SHARED = ("revision", "material", "form", "comparison", "label school")
"""Columns in which all rows of a product agree."""
LINES_BEFORE_HEADER = 20
_DATE = re.compile(r"\d{4}-\d\d-\d\d([ T].*)?|\d{1,2}[./]\d{1,2}[./]\d{2,4}")
_THOUSANDS = re.compile(r"-?\d{1,3},\d{3}")
_COMMA = re.compile(r"-?\d+,\d+")

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


@dataclass(frozen=True)
class _Row:
    """One row: its number, the letter of each column, and its cells without blanks around them."""

    number: int
    letters: Mapping[str, str]
    cells: Mapping[str, str]
    comma_parts: bool

    def __getitem__(self, column: str) -> str:
        return self.cells.get(column, "")

    def where(self, column: str) -> str:
        return f"{self.letters.get(column, '')}{self.number}"

    def refuse(self, column: str, code: str, /, **params: object) -> Invalid:
        """Return a refusal of this cell."""
        message = Message(code, params)
        return Invalid(message, field="file").within(
            "products.in-cell", cell=self.where(column), column=column
        )

    def at(self, column: str, refusal: Refusal) -> Refusal:
        """Return a refusal of the rules, placed at this cell; its code stays."""
        return refusal.within("products.in-cell", cell=self.where(column), column=column)

    def number_text(self, column: str) -> str | None:
        """The number of a cell with a decimal point; None where it is empty."""
        text = self[column].replace("\u2212", "-").replace(" ", "")
        if not text:
            return None
        if self.comma_parts and _THOUSANDS.fullmatch(text):
            raise self.refuse(column, "products.number-ambiguous", given=text)
        return text.replace(",", ".") if _COMMA.fullmatch(text) else text


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
    unit = _unit_of(test["method"], limit["property"])
    low = criterion.get("low") if criterion.get("op") == "between" else criterion.get("limit")
    budget = json.dumps(guard["budget"]) if guard and guard["budget"] else ""
    return [
        *(limit["property"], limit["direction"], criterion["on"]),
        *(RULES.get(criterion.get("op") or "", ""), low or "", criterion.get("high") or "", unit),
        *(criterion.get("none_below_percent"), criterion.get("of")),
        *(guard["k"] if guard else None, budget),
    ]


def _unit_of(method: str, name: str) -> str:
    known = all_methods().get(method)
    properties = known.properties if known is not None else ()
    return next((each.unit for each in properties if each.name == name), "")


def _parameters_text(parameters: Mapping[str, Any]) -> str:
    pairs = (f"{name}: {_value_text(value)}" for name, value in sorted(parameters.items()))
    return "; ".join(pairs)


def _value_text(value: Any) -> str:
    plain = isinstance(value, str) and ";" not in value and _typed(value) == value
    return str(value) if plain else json.dumps(value, ensure_ascii=False)


def _typed(text: str) -> Any:
    try:
        return json.loads(text)
    except ValueError:
        return text


def read_products(data: bytes) -> ReadTable:
    """Return the products of a table, with every refusal; raises Invalid where it has no header."""
    table = ReadTable()
    first: dict[Key, _Row] = {}
    for row in _rows(text_of(data)):
        try:
            _take(table.products, first, row)
        except Refusal as refusal:
            table.refusals.append(refusal.message)
    return table


def _rows(text: str) -> Iterator[_Row]:
    """The rows below the header, which is the first row that names the columns needed."""
    delimiter, lines, at = _header(text)
    names = [_column(cell) for cell in lines[at]]
    letters = {name: _letter(place) for place, name in enumerate(names) if name}
    for number, line in enumerate(lines[at + 1 :], start=at + 2):
        cells = {
            name: as_it_was(cell.strip()).strip()
            for name, cell in zip(names, line, strict=False)
            if name
        }
        if any(cells.values()):
            yield _Row(number, letters, cells, delimiter == ",")


def _header(text: str) -> tuple[str, list[list[str]], int]:
    found: list[str] = []
    for delimiter in DELIMITERS:
        lines = list(csv.reader(text.splitlines(keepends=True), delimiter=delimiter))
        for at, line in enumerate(lines[:LINES_BEFORE_HEADER]):
            names = [_column(cell) for cell in line]
            known = [name for name in NEEDED if name in names]
            if len(known) == len(NEEDED):
                return delimiter, lines, at
            found = max(found, known, key=len)
    missing = next(name for name in NEEDED if name not in found)
    raise Invalid("products.column-missing", missing=missing, known=list(COLUMNS), field="file")


def _column(cell: str) -> str:
    """The column that a heading names, however its capitals and blanks are written."""
    heading = " ".join(cell.replace("_", " ").casefold().split())
    return heading if heading in COLUMNS else ""


def _letter(place: int) -> str:
    """The letter of a column, as a spreadsheet has it."""
    text = ""
    while place >= 0:
        text = chr(ord("A") + place % 26) + text
        place = place // 26 - 1
    return text


def _check_cells(row: _Row) -> None:
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


def _take(products: dict[Key, ReadProduct], first: dict[Key, _Row], row: _Row) -> None:
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


def _begun(row: _Row) -> ReadProduct:
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


def _method(row: _Row) -> Method:
    """The method, by its id or as its standard is written: "ISO 13937-2"."""
    named = "-".join(row["method"].casefold().split())
    if not named:
        raise row.refuse("method", "products.empty")
    try:
        return find_method(named)
    except Refusal as refusal:
        raise row.refuse("method", "products.method-unknown", given=row["method"]) from refusal


def _test(tests: list[dict[str, Any]], row: _Row, method: Method) -> dict[str, Any]:
    """The test of this row: one that is there already, or a new one."""
    parameters: dict[str, Any] = {}
    for pair in filter(str.strip, row["parameters"].split(";")):
        name, parted, value = pair.partition(":")
        if not parted:
            raise row.refuse("parameters", "products.parameters-form", given=pair.strip())
        parameters[name.strip()] = _typed(value.strip())
    for test in tests:
        if (test["method"], test["parameters"]) == (method.id, parameters):
            return test
    try:
        requested_parameters(method, _with_count(method, parameters))
    except Refusal as refusal:
        raise row.at("parameters", refusal) from refusal
    return {"method": method.id, "parameters": parameters, "limits": []}


def _with_count(method: Method, parameters: Mapping[str, Any]) -> dict[str, Any]:
    return {"specimens_wanted": method.guide.count_per_direction, **parameters}


def _limit(row: _Row, method: Method, test: Mapping[str, Any]) -> dict[str, Any]:
    unit = _unit_of(method.id, row["property"])
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
        whole = partial(
            method, requested_parameters(method, _with_count(method, test["parameters"]))
        )
        return checked_limit(method, whole, limit)
    except ValidationError as error:
        raise row.at("limit", Invalid(message_of(error.errors()[0], ""), field="file")) from error
    except Invalid as refusal:
        column = refusal.field if refusal.field in COLUMNS else "property"
        raise row.at(column or "property", refusal) from refusal


def _guard(row: _Row) -> dict[str, Any] | None:
    k, budget = _figure(row, "guard factor k"), row["guard budget"]
    if k is None and not budget:
        return None
    try:
        read = json.loads(budget) if budget else []
    except ValueError as error:
        raise row.refuse("guard budget", "products.budget-unreadable") from error
    return {"budget": read} | ({} if k is None else {"k": k})


def _figure(row: _Row, column: str) -> float | None:
    text = row.number_text(column)
    if text is None:
        return None
    try:
        return float(text)
    except ValueError as error:
        raise row.refuse(column, "products.not-a-number", given=text) from error


def checked_test(test: TestRequest) -> dict[str, Any]:
    """The test as it is kept; raises Invalid for parameters or limits that are not valid."""
    method = find_method(test.method)
    whole = partial(method, requested_parameters(method, _with_count(method, test.parameters)))
    return {
        "method": method.id,
        "parameters": test.parameters,
        "limits": [checked_limit(method, whole, limit) for limit in test.limits],
    }


def differences_between(before: Mapping[str, Any] | None, after: Mapping[str, Any]) -> list[str]:
    """Return what differs between two specifications, a line each; None is a new one before."""
    was, now = ({} if each is None else _as_lines(each) for each in (before, after))
    lines = [
        worded("product-line.changed", what=name, before=was[name], after=now[name])
        for name in now
        if name in was and was[name] != now[name]
    ]
    lines += [
        worded("product-line.added", what=name, after=now[name]) for name in now.keys() - was.keys()
    ]
    lines += [worded("product-line.removed", what=name) for name in was.keys() - now.keys()]
    return sorted(lines)


def _as_lines(specification: Mapping[str, Any]) -> dict[str, str]:
    """A specification as named texts: its rules, and each limit of each test."""
    lines = {name: str(specification[name]) for name in ("material", "form")}
    lines |= {
        name.replace("_", " "): str(specification.get(name) or "lab default") for name in OWN_RULES
    }
    seen: Counter[str] = Counter()
    for test in specification["tests"]:
        method = all_methods().get(test["method"])
        named = method.title if method else test["method"]
        seen[named] += 1
        named = named if seen[named] == 1 else f"{named} ({seen[named]})"
        lines[named] = worded("product-line.test")
        for name, value in test["parameters"].items():
            lines[f"{named}, {spoken(name)}"] = _value_text(value)
        for limit in test["limits"]:
            criterion = Criterion.model_validate(limit["criterion"])
            of = f"{named}, {spoken(limit['property'])}"
            guarded = worded("product-line.guarded") if limit.get("guard") else ""
            unit = _unit_of(test["method"], limit["property"])
            of = f"{of}, {limit['direction']}" if limit["direction"] else of
            lines[of] = criterion.in_words(unit) + guarded
    return lines
