"""What a product asks for, as it is sent, and checked before it is kept."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

from pydantic import Field

from endurant.core.conditioning.chains import Stage
from endurant.core.cutting.sheet import LabelSchool
from endurant.core.judging.verdicts import Comparison
from endurant.core.methods import find_method
from endurant.core.methods.method import Method
from endurant.work.base.requests import RequestBody
from endurant.work.facts.specifications import OWN_RULES
from endurant.work.facts.test_settings import partial, requested_parameters
from endurant.work.use_cases.receiving.limits import checked_limit
from endurant.work.use_cases.receiving.receiving import SampleForm, TestRequest


class Specification(RequestBody):
    """What is asked of every lot of a product.

    Without a `comparison` of its own it is compared as the laboratory does, and without a
    `label_school` its specimens are called as the laboratory calls them.
    """

    material: str = Field(min_length=1, max_length=200)
    form: SampleForm = "sheet"
    comparison: Comparison | None = None
    label_school: LabelSchool | None = None
    tests: list[TestRequest] = Field(min_length=1, max_length=20)


def checked_specification(specification: Specification) -> dict[str, Any]:
    """Return it as it is kept; raises Invalid for parameters or limits that are not valid."""
    tests = [_checked_test(test) for test in specification.tests]
    kept = specification.model_dump(mode="json") | {"tests": tests}
    for name in OWN_RULES:
        if kept[name] is None:
            del kept[name]
    return kept


def _checked_test(test: TestRequest) -> dict[str, Any]:
    method = find_method(test.method)
    whole = partial(method, requested_parameters(method, with_count(method, test.parameters)))
    stages = None if test.stages is None else [stage.stage() for stage in test.stages]
    return {
        "method": method.id,
        "parameters": test.parameters,
        "limits": [checked_limit(method, whole, limit) for limit in test.limits],
        **conditioning_of(test.state, stages),
    }


def conditioning_of(state: str, stages: Sequence[Stage] | None) -> dict[str, Any]:
    """Return what a specification keeps of how a test is conditioned: what is not usual."""
    own: dict[str, Any] = {} if state == "original" else {"state": state}
    return own if stages is None else own | {"stages": [asdict(stage) for stage in stages]}


def with_count(method: Method, parameters: Mapping[str, Any]) -> dict[str, Any]:
    """Return the parameters with the count of the method where they name none."""
    return {"specimens_wanted": method.guide.count_per_direction, **parameters}
