"""Every answer is in the contract: a short run that is the same every time, as each role."""

from __future__ import annotations

import pytest
from fastapi import FastAPI
from fastapi._compat import ModelField
from fastapi.params import File

from endurant.api.app import ROUTERS
from endurant.api.examples import EXAMPLES
from endurant.api.route import Route
from tests.contract import exampled, explore, operations_of
from tests.laboratory import Bench

DOCUMENTS = ("POST /cutting",)
"""Bodies that the core reads, not a model of the route; `tests/mutants.py` changes those."""


def test_every_route_that_takes_a_body_has_an_example_that_its_model_takes() -> None:
    shown = set()
    for router in ROUTERS:
        for route in router.routes:
            if not isinstance(route, Route) or not isinstance(route.body_field, ModelField):
                continue
            name = f"{next(iter(route.methods or ()))} {route.path}"
            if isinstance(route.body_field.field_info, File) or name in DOCUMENTS:
                continue
            shown.add(name)
            _, errors = route.body_field.validate(EXAMPLES[name], {}, loc=("body",))
            assert not errors, (name, errors)
    assert shown == set(EXAMPLES)


@pytest.mark.parametrize(("login", "at_least"), [("greta", 20), ("pelle", 3)])
def test_bodies_that_are_well_formed_are_answered_as_the_contract_says(
    bench: Bench, login: str, at_least: int
) -> None:
    bench.job_ready_to_test()
    app = bench.client.app
    assert isinstance(app, FastAPI)
    token = bench.as_(login).token
    answers = {
        operation.label: exampled(operation, token)
        for operation in operations_of(app)
        if f"{operation.method.upper()} {operation.path.removeprefix('/api')}" in EXAMPLES
    }
    broken = [each for _, wrong in answers.values() for each in wrong]
    assert broken == []
    taken = [label for label, (statuses, _) in answers.items() if statuses[0] < 300]
    assert len(taken) >= at_least, taken


def test_no_request_made_from_the_contract_breaks_it(bench: Bench) -> None:
    bench.job_ready_to_test()
    app = bench.client.app
    assert isinstance(app, FastAPI)
    token = bench.as_("maren").token
    broken = [
        f"{specimen.operation}: {specimen.wording}\n{specimen.curl}"
        for operation in operations_of(app)
        for specimen in explore(operation, token, examples=1)
    ]
    assert broken == []
