"""Methods as the screens show them: their guides, forms and worked examples."""

from __future__ import annotations

import json
from collections.abc import Mapping
from functools import cache
from pathlib import Path
from typing import Any

from pydantic import BaseModel
from pydantic.fields import FieldInfo
from pydantic_core import PydanticUndefined

from endurant.core.conditioning.atmospheres import ATMOSPHERES, atmosphere_in_words, find_atmosphere
from endurant.core.conditioning.chains import stages_of
from endurant.core.document import analyse, read_document
from endurant.core.drawn import curves_of
from endurant.core.messages import worded
from endurant.core.methods import all_methods, find_method
from endurant.core.methods.differences import differences_of
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import Owner, owner_of
from endurant.core.methods.voids import SET_ASIDE, observations_of
from endurant.core.refusals import Unavailable
from endurant.core.rounding import in_numbers
from endurant.core.trace import thin
from endurant.work.base.view import View
from endurant.work.facts.models import CurveView, FlagRow

_EXAMPLES = Path(__file__).parent / "examples"
_POINTS_IN_EXAMPLE = 600
_COMMON_FIELDS = ("label", "direction", "state", "observations")


class PropertyLine(View):
    """A property that a method summarises."""

    name: str
    title: str
    unit: str
    statistic: str


class ReportedLine(View):
    """A property as it is reported, with its rounding in words."""

    title: str
    unit: str
    statistic: str
    rounded: str


class CodeLine(View):
    """A code that can be given to a specimen; one may ask for words of one's own."""

    code: str
    title: str
    text: str
    needs_reason: bool = False


class ObservationLine(View):
    """What may be seen on a specimen, and what it does to it."""

    code: str
    title: str
    severity: str
    text: str


class MethodLine(View):
    """A method that a test can be asked for by."""

    id: str
    title: str
    family: str
    purpose: str
    directions: list[str]
    properties: list[PropertyLine]
    specimens_per_direction: int
    spares_per_direction: int
    size_text: str
    cautions: list[str]
    watch: str
    void_codes: list[CodeLine]
    note_codes: list[CodeLine]
    at_frame: bool
    by_document: bool
    is_cut: bool
    forms: list[str]
    needed: list[str]
    optional: list[str]


class FieldView(View):
    """A parameter or a reading: its name, default and meaning."""

    name: str
    default: Any
    required: bool
    description: str
    owner: Owner = "requested"


class BlankMark(View):
    """A line drawn on the specimen."""

    name: str
    points_mm: list[tuple[float, float]]


class ReadyCheckLine(View):
    """One item of the list before a run, with its reason; a `hold` is confirmed every time."""

    title: str
    reason: str
    hold: bool


class CutView(View):
    """The blank of a specimen, in mm from its middle, the long side along y."""

    outline: str
    long_mm: float
    short_mm: float
    points_mm: list[tuple[float, float]]
    inner_marks: list[BlankMark]
    size_text: str


class SummaryLine(View):
    """One line of the card at the top of a page."""

    title: str
    value: str


class DifferenceLine(View):
    """A method that this one is easily taken for, and what it does otherwise."""

    method: str
    title: str
    text: str


class StageLine(View):
    """One stage of the conditioning that a method asks for, times in minutes."""

    atmosphere: str
    least_minutes: float
    most_wait_minutes: float | None
    why: str


class MethodPage(MethodLine):
    """The page of one method: what a technician looks for first stands in `summary`.

    `stages` is its conditioning; `atmospheres` are the titles of all that a stage may be in.
    """

    summary: list[SummaryLine]
    differs: list[DifferenceLine]
    specimen: str
    cut: CutView | None
    atmosphere: str
    atmospheres: dict[str, str]
    stages: list[StageLine]
    bench: str
    ready_checks: list[ReadyCheckLine]
    observations: list[ObservationLine]
    steps: list[str]
    computes: list[str]
    mistakes: list[str]
    parameters: list[FieldView]
    readings: list[FieldView]
    parameters_schema: dict[str, Any]
    readings_schema: dict[str, Any]
    reported: list[ReportedLine]


class ExampleSpecimen(View):
    """One specimen of a worked example: what was read, and what came of it."""

    label: str
    readings: dict[str, Any]
    curves: list[CurveView]
    result: dict[str, Any]


class ExampleView(View):
    """A worked example, computed as it is shown."""

    about: str
    parameters: dict[str, Any]
    specimens: list[ExampleSpecimen]
    summary: list[dict[str, Any]]
    flags: list[FlagRow]


def method_lines() -> list[MethodLine]:
    """Every method, in the order of the work."""
    return [MethodLine(**_line(method)) for method in all_methods().values()]


def _line(method: Method) -> dict[str, Any]:
    guide = method.guide
    return {
        "id": method.id,
        "title": method.title,
        "family": method.family,
        "purpose": guide.purpose,
        "directions": list(method.directions),
        "properties": [
            PropertyLine.model_validate(each) for each in method.properties if each.summed
        ],
        "specimens_per_direction": guide.count_per_direction,
        "spares_per_direction": guide.spares_per_direction,
        "size_text": guide.blank.size_in_words() if guide.blank else worded("guide-line.not-cut"),
        "cautions": list(guide.cautions),
        "watch": guide.watch,
        "void_codes": [
            CodeLine(
                code=observation.code,
                title=observation.title,
                text=observation.text,
                needs_reason=observation is SET_ASIDE,
            )
            for observation in observations_of(method)
            if observation.severity == "void"
        ],
        "note_codes": [
            CodeLine.model_validate(observation)
            for observation in observations_of(method)
            if observation.severity != "void"
        ],
        "at_frame": method.runs_live,
        "by_document": method.planned == "by-document",
        "is_cut": guide.blank is not None,
        "forms": list(method.forms),
        "needed": [
            name
            for name, field in method.parameters.model_fields.items()
            if field.is_required() and owner_of(method.parameters, name) == "requested"
        ],
        "optional": [
            name
            for name, field in method.parameters.model_fields.items()
            if not field.is_required() and owner_of(method.parameters, name) == "requested"
        ],
    }


@cache
def method_page(method_id: str) -> MethodPage:
    """The page of one method; raises Invalid when there is no such method."""
    method = find_method(method_id)
    guide, cut = method.guide, method.guide.blank
    return MethodPage(
        **_line(method),
        summary=_summary(method),
        differs=[
            DifferenceLine(method=each.method, title=find_method(each.method).title, text=each.text)
            for each in differences_of(method_id)
        ],
        specimen=guide.specimen,
        cut=None
        if cut is None
        else CutView(
            outline=cut.outline,
            long_mm=cut.long_mm,
            short_mm=cut.short_mm,
            points_mm=list(cut.points_mm),
            inner_marks=[BlankMark.model_validate(mark) for mark in cut.inner_marks],
            size_text=cut.size_in_words(),
        ),
        atmosphere=atmosphere_in_words(
            None if guide.atmosphere is None else find_atmosphere(guide.atmosphere)
        ),
        atmospheres={key: atmosphere.title for key, atmosphere in ATMOSPHERES.items()},
        stages=[
            StageLine.model_validate(stage)
            for stage in stages_of(guide, method.defaults, "original")
        ],
        bench=guide.bench,
        ready_checks=[
            ReadyCheckLine.model_validate(check.in_general()) for check in guide.ready_checks
        ],
        observations=[
            ObservationLine.model_validate(observation) for observation in observations_of(method)
        ],
        steps=list(guide.steps),
        computes=list(guide.computes),
        mistakes=list(guide.mistakes),
        parameters=_fields(method.parameters),
        readings=[field for field in _fields(method.readings) if field.name not in _COMMON_FIELDS],
        parameters_schema=method.parameters.model_json_schema(),
        readings_schema=method.readings.model_json_schema(),
        reported=[
            ReportedLine(
                title=each.title,
                unit=each.unit,
                statistic=each.statistic,
                rounded=each.rounded_in_words(),
            )
            for each in method.properties_for(_any_parameters(method))
            if each.summed
        ],
    )


def _summary(method: Method) -> list[SummaryLine]:
    """Specimen, count, speed, gauge length, conditioning and result, each where there is one."""
    guide, fields = method.guide, method.parameters.model_fields
    count = f"{guide.count_per_direction}"
    if len(method.directions) > 1:
        count += worded("guide-line.in-each-direction", directions=", ".join(method.directions))
    room = None if guide.atmosphere is None else find_atmosphere(guide.atmosphere)
    lines = {
        "Specimen": guide.blank.size_in_words() if guide.blank else worded("guide-line.not-cut"),
        "Specimens": count,
        "Speed": _default(fields, "speed_mm_min", "mm/min"),
        "Grip separation": _default(fields, "grip_separation_mm", "mm"),
        "Gauge length": _default(fields, "gauge_length_mm", "mm"),
        "Conditioning": "none" if room is None else atmosphere_in_words(room),
        "Result": "; ".join(
            f"{each.title.lower()}, {each.unit}" if each.unit else each.title.lower()
            for each in method.properties
            if each.summed
        ),
    }
    return [SummaryLine(title=title, value=value) for title, value in lines.items() if value]


def _default(fields: Mapping[str, FieldInfo], name: str, unit: str) -> str:
    """The usual value of a parameter; empty where the method does not have it."""
    if name not in fields:
        return ""
    usual = fields[name].default
    if isinstance(usual, int | float):
        return f"{in_numbers(float(usual))} {unit}"
    return worded("guide-line.as-requested")


def _any_parameters(method: Method) -> Any:
    """Parameters with their defaults; what has none is left out."""
    return method.parameters.model_construct()


def _fields(model: type[BaseModel]) -> list[FieldView]:
    return [
        FieldView(
            name=name,
            default=None if field.default is PydanticUndefined else field.default,
            required=field.is_required(),
            description=field.description or "",
            owner=owner_of(model, name),
        )
        for name, field in model.model_fields.items()
    ]


def example_document(method_id: str) -> tuple[str, dict[str, Any]]:
    """What the worked example of a method is about, and its test document; raises Invalid."""
    find_method(method_id)
    path = _EXAMPLES / f"{method_id}.json"
    if not path.is_file():
        raise Unavailable("guide.example-missing", method=method_id, file=path.name)
    loads = json.loads(path.read_text(encoding="utf-8"))
    return loads["about"], loads["document"]


@cache
def method_example(method_id: str) -> ExampleView:
    """The worked example of one method, computed."""
    about, document = example_document(method_id)
    result = analyse(read_document(document)).as_json()
    specimens = []
    for entry, specimen in zip(document["specimens"], result["specimens"], strict=True):
        small = {
            name: value
            for name, value in entry.items()
            if name != "label" and not name.startswith("trace")
        }
        curves = []
        for curve in curves_of(entry):
            x, y = thin(curve.x, curve.y, _POINTS_IN_EXAMPLE)
            curves.append(CurveView(**{**vars(curve), "x": x.tolist(), "y": y.tolist()}))
        specimens.append(
            ExampleSpecimen(label=entry["label"], readings=small, curves=curves, result=specimen)
        )
    return ExampleView(
        about=about,
        parameters=document.get("parameters", {}),
        specimens=specimens,
        summary=result["summary"],
        flags=result["flags"],
    )
