"""Every answer is in the contract: a short run that is the same every time, as each role."""

from __future__ import annotations

import pytest
from fastapi import FastAPI

from tests.contract import explore, operations_of
from tests.laboratory import Bench


@pytest.mark.parametrize(("login", "examples"), [("ines", 2), ("maren", 1), ("pelle", 1)])
def test_no_request_made_from_the_contract_breaks_it(
    bench: Bench, login: str, examples: int
) -> None:
    bench.job_ready_to_test()
    app = bench.client.app
    assert isinstance(app, FastAPI)
    token = bench.as_(login).token
    broken = [
        f"{specimen.operation}: {specimen.says}\n{specimen.curl}"
        for operation in operations_of(app)
        for specimen in explore(operation, token, examples)
    ]
    assert broken == []
