"""The API held against its own contract, by requests made from it.

Shared by the short fixed run of `make test` and the long random one of `make fuzz`.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from random import Random
from typing import Any

import schemathesis
from fastapi import FastAPI
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis import Case
from schemathesis.checks import not_a_server_error
from schemathesis.core.result import Ok
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from endurant.api.examples import EXAMPLES
from tests.mutants import GONE, Path, changed, places

CHECKS = [
    not_a_server_error,
    status_code_conformance,
    content_type_conformance,
    response_schema_conformance,
]
UNAVAILABLE = 503
LEFT_OUT = {("DELETE", "/api/session"), ("POST", "/api/session"), ("GET", "/api/changes")}
"""What would end the session that the other requests need, and what is told for minutes on end."""
SHORTENED = {"seconds": 0, "time_limit_s": 0}
"""Times that a request may ask to be worked on: none, so that many can be made."""


SLOWEST_S = 120
FEW_IDS, FAR_ID = 2, 10_000
"""Small ids are made to name what is there; large ones stay what they are."""


@dataclass(frozen=True)
class Broken:
    """A request whose answer breaks the contract, and how to make it again."""

    operation: str
    wording: str
    curl: str


def operations_of(app: FastAPI) -> list[Any]:
    """Every operation of the contract that is explored."""
    schema = schemathesis.openapi.from_asgi("/api/openapi.json", app)
    anies: list[Any] = [
        get_all_operation.ok()
        for get_all_operation in schema.get_all_operations()
        if isinstance(get_all_operation, Ok)
    ]
    return [
        specimen for specimen in anies if (specimen.method.upper(), specimen.path) not in LEFT_OUT
    ]


def exampled(operation: Any, token: str) -> tuple[list[int], list[str]]:
    """The example of an operation, then the same with one thing changed: how each was answered.

    Gives the statuses, and a sentence for each answer that breaks the contract.
    """
    example = EXAMPLES[f"{operation.method.upper()} {operation.path.removeprefix('/api')}"]
    ids = {name: FIRST.get(name, 1) for name in re.findall(r"{(\w+)}", operation.path)}
    statuses: list[int] = []
    broken: list[str] = []
    for body in (example, *(changed(example, *change) for change in _changes(example))):
        case = operation.Case(path_parameters=ids, body=body, cookies={"endurant": token})
        try:
            response = case.call(timeout=SLOWEST_S)
            case.validate_response(response, checks=CHECKS)
            statuses.append(response.status_code)
        except Exception as error:  # the application let something through, or broke the contract
            wording = str(error).split("\nReproduce")[0].strip()[:400]
            broken.append(f"{operation.label} {body}: {type(error).__name__}: {wording}")
    return statuses, broken


FIRST = {"serial": "T-1", "number": 1}
SENT: tuple[Any, ...] = (0, -1, 10**12, 1e300, "\x00=1+1\n", "x" * 5000, [], {}, None, GONE)
"""What can be sent as JSON, and is mostly not what was asked for."""


def _changes(example: Any) -> Iterator[tuple[Path, Any]]:
    """Every place of a body in turn, with what is sent there instead, the same every time."""
    paths = list(places(example, Random(0)))
    for number, path in enumerate(paths):
        yield path, SENT[number % len(SENT)]


def explore(
    operation: Any, token: str, examples: int, *, at_random: bool = False
) -> Iterator[Broken]:
    """Requests to one operation by one person; those whose answers break the contract."""
    broken: dict[str, Broken] = {}
    requested = settings(
        max_examples=examples,
        derandomize=not at_random,
        deadline=None,
        database=None,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )

    @requested
    @given(case=operation.as_strategy())
    def ask(case: Case[Any]) -> None:
        if isinstance(case.body, dict):
            for name in SHORTENED.keys() & case.body.keys():
                case.body[name] = SHORTENED[name]
        for name, value in case.path_parameters.items():
            if name.endswith("_id") and isinstance(value, int) and abs(value) < FAR_ID:
                case.path_parameters[name] = 1 + abs(value) % FEW_IDS
        case.cookies = {**(case.cookies or {}), "endurant": token}
        try:
            response = case.call(timeout=SLOWEST_S)
        except Exception as error:  # the application let something through, or took too long
            wording = f"{type(error).__name__}: {error}"[:600]
            broken.setdefault(
                wording[:80], Broken(operation.label, wording, case.as_curl_command())
            )
            return
        if response.status_code == UNAVAILABLE:
            return
        try:
            case.validate_response(response, checks=CHECKS)
        except Exception as error:  # every way to break the contract is an exception of its own
            wording = str(error).split("\nReproduce")[0].strip()[:600]
            key = f"{response.status_code} {wording[:80]}"
            broken.setdefault(key, Broken(operation.label, wording, case.as_curl_command()))

    ask()
    yield from broken.values()
