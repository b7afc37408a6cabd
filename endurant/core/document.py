"""The test document: the open form in which any test goes in and its results come out."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import Any

import numpy as np

from endurant.core.bounds import refuse_what_is_not_finite
from endurant.core.columns import as_lists
from endurant.core.methods import find_method
from endurant.core.methods.method import Method
from endurant.core.methods.results import Flag, Results, SpecimenResult, Value, Working
from endurant.core.methods.summary import SummaryRow, rows_of
from endurant.core.quantities import System, in_system, significant_digits
from endurant.core.quoting import quoted
from endurant.core.reading import read_model
from endurant.core.refusals import Invalid
from endurant.core.rounding import round_to_significant

MAX_SPECIMENS = 2000
FIELDS = ("method", "parameters", "specimens")
OF_SPECIMEN = {"label", "direction"}


@dataclass(frozen=True)
class TestDocument:
    """A document that was read and makes sense; `readings` are models of the method."""

    __test__ = False

    method: Method
    parameters: Any
    readings: list[Any]


@dataclass(frozen=True)
class ResultDocument:
    """Everything that came of a test, specimen by specimen and in sum."""

    method: str
    parameters: dict[str, Any]
    specimens: list[SpecimenResult]
    summary: list[SummaryRow]
    flags: list[Flag]
    more: dict[str, Any]

    def as_json(self) -> dict[str, Any]:
        """Return the result document as plain data, ready to be written as JSON."""
        return {
            "method": self.method,
            "parameters": self.parameters,
            "specimens": [_specimen_json(specimen) for specimen in self.specimens],
            "summary": [row.as_json() for row in self.summary],
            "flags": [flag.as_json() for flag in self.flags],
            **self.more,
        }


def read_document(data: Any) -> TestDocument:
    """Check plain data against its method. Raises Invalid, and nothing is half taken."""
    if not isinstance(data, dict):
        raise Invalid("document.shape")
    for name in data:
        if name not in FIELDS:
            raise Invalid("document.field-unknown", name=name, known=list(FIELDS), field=name)
    method_id = data.get("method")
    if not isinstance(method_id, str):
        raise Invalid("document.method-missing", field="method")
    method = find_method(method_id)
    parameters = read_parameters(method, data.get("parameters", {}))
    specimens = data.get("specimens")
    if not isinstance(specimens, list) or not specimens:
        raise Invalid("document.specimens-missing", field="specimens")
    if len(specimens) > MAX_SPECIMENS:
        raise Invalid(
            "document.too-many-specimens",
            count=len(specimens),
            max=MAX_SPECIMENS,
            field="specimens",
        )
    readings = [
        read_specimen(method, specimen, place) for place, specimen in enumerate(specimens, start=1)
    ]
    labels: set[str] = set()
    for reading in readings:
        if reading.label in labels:
            raise Invalid(
                "document.label-twice", label=reading.label, field="label", specimen=reading.label
            )
        labels.add(reading.label)
    return TestDocument(method, parameters, readings)


def read_parameters(method: Method, data: Any) -> Any:
    """Return the parameters of a test as the model of its method; raises Invalid with the field."""
    return read_model(method.parameters, data, "parameters")


def kept_form(reading: Any, names: Collection[str]) -> dict[str, Any]:
    """Return those fields of validated readings that were given, as they are stored.

    Label and direction belong to the specimen, and are not among them.
    """
    given = set(names) - OF_SPECIMEN
    dumped: dict[str, Any] = reading.model_dump(include=given, exclude_unset=True)
    return as_lists(dumped)


def read_specimen(method: Method, data: Any, place: int) -> Any:
    """Return readings of one specimen as the model of its method.

    Raises Invalid with field and label.
    """
    label = data.get("label") if isinstance(data, dict) else None
    where = quoted(label)[1:-1] if isinstance(label, str) and label else f"number {place}"
    reading = read_model(method.readings, data, f"specimen {where}", where)
    if reading.direction is None and method.direction_required:
        raise reading.refuse(
            "direction", "reading.direction-missing", directions=list(method.directions)
        )
    if reading.direction is not None and reading.direction not in method.known_directions:
        raise reading.refuse(
            "direction",
            "reading.direction-unknown",
            direction=reading.direction,
            known_directions=list(method.known_directions),
        )
    return reading


def analyse(document: TestDocument) -> ResultDocument:
    """Compute every specimen, the summary and the flags of the whole test.

    Raises Invalid; what it gives is finite, every figure of it.
    """
    method, parameters = document.method, document.parameters
    with np.errstate(all="ignore"):
        results = [_specimen(method, reading, parameters) for reading in document.readings]
        try:
            if method.together is not None:
                method.together(results, document.readings, parameters)
            result_document = ResultDocument(
                method=method.id,
                parameters=parameters.model_dump(mode="json"),
                specimens=results,
                summary=summary_of(method, parameters, results),
                flags=method.review(results, parameters),
                more=method.more(results, parameters) if method.more else {},
            )
        except ArithmeticError as error:
            raise _out_of_proportion("the results of this test") from error
    for result in results:
        refuse_what_is_not_finite(_specimen_json(result), f"specimen {result.label}")
    for row in result_document.summary:
        refuse_what_is_not_finite({row.property: row.as_json()}, f"summary of {row.property}")
    refuse_what_is_not_finite(result_document.more, "the test")
    return result_document


def _specimen(method: Method, reading: Any, parameters: Any) -> SpecimenResult:
    try:
        return method.analyse(reading, parameters)
    except ArithmeticError as error:
        raise _out_of_proportion(f"specimen {reading.label}", reading.label) from error


def _out_of_proportion(where: str, specimen: str | None = None) -> Invalid:
    """What is said when a computation runs out of the numbers that a machine has."""
    return Invalid("document.out-of-proportion", where=where, specimen=specimen)


def summary_of(method: Method, parameters: Any, results: Results) -> list[SummaryRow]:
    """Return the rows of the summary: by the method's own rule where it has one."""
    if method.summarise is not None:
        return method.summarise(method, results, parameters)
    return rows_of(method, parameters, results)


def _specimen_json(result: SpecimenResult) -> dict[str, Any]:
    return {
        "label": result.label,
        "direction": result.direction,
        "state": result.state,
        "valid": result.valid,
        "values": {name: _value_json(value) for name, value in result.values.items()},
        "flags": [flag.as_json() for flag in result.flags],
        "working": [_working_json(line) for line in result.working],
        "marks": [vars(mark) for mark in result.marks],
        **result.facts,
        **result.more,
    }


def _value_json(value: Value) -> dict[str, Any]:
    plain: dict[str, Any] = {"value": value.value, "unit": value.unit}
    if value.qualifier is not None:
        plain["qualifier"] = value.qualifier
    return plain


def _working_json(line: Working) -> dict[str, str | None]:
    return {
        "value": line.value,
        "says": line.text,
        "formula": line.formula,
        "with": line.with_,
        "gives": line.gives,
    }


def in_units(result: dict[str, Any], system: System) -> dict[str, Any]:
    """Return a result document with its figures in another system; the working stays."""
    if system == "metric":
        return result
    specimens = [
        specimen
        | {
            "values": {
                name: _converted(value, system) for name, value in specimen["values"].items()
            }
        }
        for specimen in result["specimens"]
    ]
    summary = [_converted_row(row, system) for row in result["summary"]]
    return result | {"specimens": specimens, "summary": summary}


_ROW_FIGURES = ("mean", "sd", "minimum", "maximum", "median", "ci95_half_width")


def _converted(value: dict[str, Any], system: System) -> dict[str, Any]:
    unit, factor = in_system(value["unit"], system)
    figure = value["value"]
    return value | {"unit": unit, "value": None if figure is None else figure * factor}


def _converted_row(row: dict[str, Any], system: System) -> dict[str, Any]:
    """A summary row, reported with as many significant digits as before."""
    unit, factor = in_system(row["unit"], system)
    if factor == 1:
        return row
    figures = {name: None if row[name] is None else row[name] * factor for name in _ROW_FIGURES}
    reported = row["reported"]
    figure = figures["median" if row["statistic"] == "median" else "mean"]
    if reported is not None and figure is not None:
        reported = round_to_significant(figure, significant_digits(reported))
    return row | figures | {"unit": unit, "reported": reported}
