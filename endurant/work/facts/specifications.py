"""A product's specification in words: what each of its tests and limits is, and what differs."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Mapping
from typing import Any, get_args

from endurant.core.conditioning.chains import Stage, stage_in_words
from endurant.core.cutting.sheet import LabelSchool
from endurant.core.field_names import spoken
from endurant.core.judging.criteria import Criterion
from endurant.core.judging.verdicts import Comparison
from endurant.core.messages import worded
from endurant.core.methods import all_methods
from endurant.work.base.view import View

OWN_RULES = {
    "comparison": get_args(Comparison),
    "label_school": get_args(LabelSchool),
}
"""Rules of the laboratory that a product may have of its own, with the schools of each."""
RULE_NAMES = {"comparison": "comparison with limits", "label_school": "specimen labels"}


class SpecificationLine(View):
    """One thing that a specification says, such as "material": "woven"."""

    name: str
    text: str


class SpecifiedTest(View):
    """One test of a specification: parameters with its own conditioning, and limits, in words."""

    method: str
    title: str
    parameters: list[SpecificationLine]
    limits: list[SpecificationLine]


def specified_tests(specification: Mapping[str, Any]) -> list[SpecifiedTest]:
    """Return the tests of a specification in words; a method that is not known stays as its id."""
    return [_specified_test(test) for test in specification["tests"]]


def _specified_test(test: Mapping[str, Any]) -> SpecifiedTest:
    method = all_methods().get(test["method"])
    parameters = test["parameters"].items()
    return SpecifiedTest(
        method=test["method"],
        title=method.title if method else test["method"],
        parameters=[
            *(
                SpecificationLine(name=spoken(name), text=value_text(value))
                for name, value in parameters
            ),
            *_conditioning_lines(test),
        ],
        limits=[
            SpecificationLine(name=_limited(limit), text=_limit_text(test["method"], limit))
            for limit in test["limits"]
        ],
    )


def _conditioning_lines(test: Mapping[str, Any]) -> list[SpecificationLine]:
    """How a test is conditioned, where it is not as its method asks for."""
    lines = []
    if "state" in test:
        name = worded("product-line.specimen-state")
        lines.append(SpecificationLine(name=name, text=test["state"]))
    stages = own_stages(test)
    if stages is not None:
        text = "; ".join(map(stage_in_words, stages)) or worded("product-line.no-conditioning")
        lines.append(SpecificationLine(name=worded("product-line.conditioning"), text=text))
    return lines


def own_stages(test: Mapping[str, Any]) -> list[Stage] | None:
    """Return the stages that a specification sets for a test; None where its method's are meant."""
    stages = test.get("stages")
    return None if stages is None else [Stage(**stage) for stage in stages]


def _limited(limit: Mapping[str, Any]) -> str:
    of = spoken(limit["property"])
    return f"{of}, {limit['direction']}" if limit["direction"] else of


def _limit_text(method: str, limit: Mapping[str, Any]) -> str:
    guarded = worded("product-line.guarded") if limit.get("guard") else ""
    unit = unit_of(method, limit["property"])
    return Criterion.model_validate(limit["criterion"]).in_words(unit) + guarded


def unit_of(method: str, name: str) -> str:
    """Return the unit of a property of a method; empty for one without, or not known."""
    known = all_methods().get(method)
    properties = known.properties if known is not None else ()
    return next((each.unit for each in properties if each.name == name), "")


def value_text(value: Any) -> str:
    """Return a parameter as a table holds it: plain text where `typed_value` reads it back."""
    plain = isinstance(value, str) and ";" not in value and typed_value(value) == value
    return str(value) if plain else json.dumps(value, ensure_ascii=False)


def typed_value(text: str) -> Any:
    """Return what a text stands for: JSON, or else the text itself."""
    try:
        return json.loads(text)
    except ValueError:
        return text


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
    lines = {line.name: line.text for line in own_lines(specification)}
    seen: Counter[str] = Counter()
    for test in specified_tests(specification):
        seen[test.title] += 1
        named = test.title if seen[test.title] == 1 else f"{test.title} ({seen[test.title]})"
        lines[named] = worded("product-line.test")
        lines |= {f"{named}, {line.name}": line.text for line in (*test.parameters, *test.limits)}
    return lines


def own_lines(specification: Mapping[str, Any]) -> list[SpecificationLine]:
    """Return what a specification says beside its tests: material, form, and rules of its own."""
    texts = {name: str(specification[name]) for name in ("material", "form")}
    for name in OWN_RULES:
        texts[RULE_NAMES[name]] = str(specification.get(name) or worded("product-line.lab-default"))
    return [SpecificationLine(name=name, text=text) for name, text in texts.items()]
