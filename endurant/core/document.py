"""The test document: the open form in which any test goes in and its results come out."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from pydantic import BaseModel, ValidationError

from endurant.core.methods import find_method
from endurant.core.methods.checks import by_direction_and_state
from endurant.core.methods.method import Flag, Method, SpecimenResult, TraceColumns, Value, Working
from endurant.core.refusals import Invalid
from endurant.core.statistics import summarise

MOST_SPECIMENS = 2000
MOST_SAMPLES = 1_000_000
FIELDS = ("method", "parameters", "specimens")
NEEDED_COLUMNS = ("extension_mm", "force_n")


@dataclass(frozen=True)
class TestDocument:
    """A document that was read and makes sense; `readings` are models of the method."""

    __test__ = False

    method: Method
    parameters: Any
    readings: list[Any]


@dataclass(frozen=True)
class Summary:
    """One property of one direction and state over the valid specimens."""

    property: str
    direction: str | None
    state: str
    unit: str
    n: int
    mean: float
    sd: float | None
    cv_percent: float | None
    minimum: float
    maximum: float
    median: float
    ci95_half_width: float | None
    statistic: str
    reported: str
    qualifier: str | None


@dataclass(frozen=True)
class ResultDocument:
    """Everything that came of a test, specimen by specimen and in sum."""

    method: str
    parameters: dict[str, Any]
    specimens: list[SpecimenResult]
    summary: list[Summary]
    flags: list[Flag]

    def as_json(self) -> dict[str, Any]:
        """The result document as plain data, ready to be written as JSON."""
        return {
            "method": self.method,
            "parameters": self.parameters,
            "specimens": [_specimen_json(specimen) for specimen in self.specimens],
            "summary": [vars(row) for row in self.summary],
            "flags": [vars(flag) for flag in self.flags],
        }


def analyse_text(text: str | bytes) -> ResultDocument:
    """Read a test document from JSON text and compute it. Raises Invalid."""
    return analyse(read_document(parse_json(text)))


def parse_json(text: str | bytes) -> Any:
    """JSON text as plain data; raises Invalid that says at which line it stops making sense."""
    try:
        return json.loads(text)
    except json.JSONDecodeError as error:
        raise Invalid(
            f"this is no JSON: {error.msg} at line {error.lineno}, column {error.colno}"
        ) from error
    except (UnicodeDecodeError, RecursionError) as error:
        raise Invalid("this is no JSON text in UTF-8 of a sensible depth") from error


def read_document(data: Any) -> TestDocument:
    """Check plain data against its method. Raises Invalid, and nothing is half taken."""
    if not isinstance(data, dict):
        raise Invalid("a test document is an object with method, parameters and specimens")
    for name in data:
        if name not in FIELDS:
            raise Invalid(
                f"field “{name}” is not known; a test document has {', '.join(FIELDS)}", field=name
            )
    method_id = data.get("method")
    if not isinstance(method_id, str):
        raise Invalid("method is missing; expected the id of a method", field="method")
    method = find_method(method_id)
    parameters = read_model(method.parameters, data.get("parameters", {}), "parameters")
    specimens = data.get("specimens")
    if not isinstance(specimens, list) or not specimens:
        raise Invalid("specimens is missing or empty; expected a list", field="specimens")
    if len(specimens) > MOST_SPECIMENS:
        raise Invalid(
            f"specimens holds {len(specimens)}; {MOST_SPECIMENS} at most are taken at once",
            field="specimens",
        )
    readings = [
        read_specimen(method, specimen, place) for place, specimen in enumerate(specimens, start=1)
    ]
    labels: set[str] = set()
    for reading in readings:
        if reading.label in labels:
            raise Invalid(
                f"specimen {reading.label}: label stands twice; each label is given once",
                field="label",
                specimen=reading.label,
            )
        labels.add(reading.label)
    return TestDocument(method, parameters, readings)


def read_specimen(method: Method, data: Any, place: int) -> Any:
    """Readings of one specimen as the method's model; raises Invalid with field and label."""
    label = data.get("label") if isinstance(data, dict) else None
    where = label if isinstance(label, str) and label else f"number {place}"
    reading = read_model(method.readings, data, f"specimen {where}", where)
    if reading.direction is not None and reading.direction not in method.directions:
        raise Invalid(
            f"specimen {where}: direction is “{reading.direction}”; "
            f"expected one of {', '.join(method.directions)}",
            field="direction",
            specimen=where,
        )
    if isinstance(getattr(reading, "trace", None), TraceColumns):
        check_trace(reading.trace, where)
    return reading


def check_trace(trace: TraceColumns, where: str) -> None:
    """Columns present, of equal length, two samples or more, and time that does not fall."""

    def refuse(column: str, sentence: str) -> Invalid:
        return Invalid(f"specimen {where}: {sentence}", field=column, specimen=where)

    for column in NEEDED_COLUMNS:
        if getattr(trace, column) is None:
            raise refuse(column, f"the trace has no column {column}")
    lengths = {name: len(column) for name, column in trace if column and name != "displacement_mm"}
    lengths |= {name: len(getattr(trace, name)) for name in NEEDED_COLUMNS}
    for number, channel in enumerate(trace.displacement_mm or [], start=1):
        lengths[f"displacement_mm channel {number}"] = len(channel)
    expected = lengths["extension_mm"]
    for name, length in lengths.items():
        if length != expected:
            raise refuse(
                name.split()[0],
                f"{name} has {length} samples, extension_mm has {expected}; "
                "the columns of a trace are equally long",
            )
    if expected < 2:
        raise refuse("extension_mm", f"the trace has {expected} samples; two at least are needed")
    if expected > MOST_SAMPLES:
        raise refuse(
            "extension_mm", f"the trace has {expected} samples; {MOST_SAMPLES} at most are read"
        )
    if trace.time_s is not None:
        steps = np.diff(trace.samples("time_s"))
        if bool((steps < 0).any()):
            row = int(np.argmax(steps < 0)) + 2
            raise refuse("time_s", f"time_s falls at sample {row}; time runs on")


def read_model(model: type[BaseModel], data: Any, where: str, specimen: str | None = None) -> Any:
    """`data` as `model`; the first thing wrong with it is said in words. Raises Invalid."""
    if not isinstance(data, dict):
        raise Invalid(f"{where}: expected an object with named fields", specimen=specimen)
    try:
        return model.model_validate(data)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        path = [str(step) for step in first["loc"]]
        named = [step for step in path if not step.isdigit()] or [where]
        place = next((f" at place {int(step) + 1}" for step in path if step.isdigit()), "")
        raise Invalid(
            f"{where}: {'.'.join(named)}{place}: {_say(first)}", field=named[-1], specimen=specimen
        ) from error


def _say(error: Any) -> str:
    """What pydantic found, in our words."""
    given = error.get("input")
    shown = f"; “{str(given)[:40]}” was given" if isinstance(given, str | int | float) else ""
    context = error.get("ctx", {})
    words = {
        "missing": "is missing",
        "extra_forbidden": "is not a field that is known here",
        "finite_number": "must be a finite number",
        "float_type": "must be a number",
        "int_type": "must be a whole number",
        "string_type": "must be text",
        "list_type": "must be a list",
        "greater_than": f"must be above {context.get('gt')}",
        "greater_than_equal": f"must be {context.get('ge')} or more",
        "less_than": f"must be below {context.get('lt')}",
        "less_than_equal": f"must be {context.get('le')} or less",
        "literal_error": f"must be {context.get('expected')}",
        "string_too_short": "must not be empty",
        "string_too_long": f"may have {context.get('max_length')} characters at most",
    }
    kind = error["type"]
    if kind in ("missing", "extra_forbidden"):
        return words[kind]
    library_words = str(error["msg"])
    return words.get(kind, library_words[:1].lower() + library_words[1:]) + shown


def analyse(document: TestDocument) -> ResultDocument:
    """Compute every specimen, the summary and the flags of the whole test. Raises Invalid."""
    method, parameters = document.method, document.parameters
    results = [method.analyse(reading, parameters) for reading in document.readings]
    return ResultDocument(
        method=method.id,
        parameters=parameters.model_dump(),
        specimens=results,
        summary=summary_of(method, parameters, results),
        flags=method.review(results, parameters),
    )


def summary_of(method: Method, parameters: Any, results: Sequence[SpecimenResult]) -> list[Summary]:
    """One row for each property, direction and state that has a valid figure."""
    rows = []
    for (direction, state), members in by_direction_and_state(results).items():
        for wanted in method.properties:
            figures = [
                figure.value
                for result in members
                if result.valid
                and (figure := result.values.get(wanted.name)) is not None
                and figure.value is not None
            ]
            if not figures:
                continue
            found = summarise(figures)
            statistic = found.mean if wanted.statistic == "mean" else found.median
            rows.append(
                Summary(
                    property=wanted.name,
                    direction=direction,
                    state=state,
                    unit=wanted.unit,
                    n=found.n,
                    mean=found.mean,
                    sd=found.sd,
                    cv_percent=found.cv_percent,
                    minimum=found.minimum,
                    maximum=found.maximum,
                    median=found.median,
                    ci95_half_width=found.ci95_half_width,
                    statistic=wanted.statistic,
                    reported=wanted.reported(statistic, parameters.rounding),
                    qualifier=None,
                )
            )
    return rows


def _specimen_json(result: SpecimenResult) -> dict[str, Any]:
    return {
        "label": result.label,
        "direction": result.direction,
        "state": result.state,
        "valid": result.valid,
        "values": {name: _value_json(value) for name, value in result.values.items()},
        "flags": [vars(flag) for flag in result.flags],
        "working": [_working_json(line) for line in result.working],
        "marks": [vars(mark) for mark in result.marks],
    }


def _value_json(value: Value) -> dict[str, Any]:
    plain: dict[str, Any] = {"value": value.value, "unit": value.unit}
    if value.qualifier is not None:
        plain["qualifier"] = value.qualifier
    return plain


def _working_json(line: Working) -> dict[str, str]:
    return {
        "says": line.says,
        "formula": line.formula,
        "with": line.with_,
        "gives": line.gives,
    }
