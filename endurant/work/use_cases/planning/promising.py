"""What a client can be promised at the counter: when tests can be through, and released."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import Field

from endurant.core.methods import find_method
from endurant.core.planning.codec import moment_of
from endurant.core.planning.plan import plan_document
from endurant.core.planning.rows import PlanAnswer, PlanDocument
from endurant.core.working_hours import worked_on
from endurant.store import clock
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.read_models.job_cards import refresh_turned
from endurant.work.use_cases.planning.lab import in_from, lab_now, with_new
from endurant.work.use_cases.planning.solving import Solver

RELEASE_MIN = 60
"""What judging and releasing takes after the last test, in the hours of the laboratory."""
PROMISE_S = 1.0


class ThoughtTest(RequestBody):
    """A test that may be asked for."""

    method: str = Field(max_length=80)
    parameters: dict[str, Any] = Field(default_factory=dict)


class PromiseRequest(RequestBody):
    """What may be received: its form, and the tests that are thought of."""

    form: Literal["sheet", "pieces", "granules", "packs"] = "sheet"
    tests: list[ThoughtTest] = Field(min_length=1, max_length=20)


class PromiseView(View):
    """When all of it can be tested and released, by the plan; None where it has no place."""

    tested_by: datetime | None
    released_by: datetime | None
    text: str


async def promise_for(solver: Solver, request: PromiseRequest) -> PromiseView:
    """When tests that may be asked for can be through, by the current plan."""
    document, names = await solver.read(lambda: promised(request))
    answer = await solver.solve(plan_document, document)
    return await solver.read(lambda: promise(answer, names))


def promised(request: PromiseRequest) -> tuple[PlanDocument, list[str]]:
    """The document with tests that nobody received yet, and what they are called in it."""
    with transaction() as session:
        refresh_turned(session, clock.now())
        lab = lab_now(session, clock.now())
        requested = [(find_method(test.method), test.parameters) for test in request.tests]
        names = with_new(session, lab, requested, request.form == "sheet")
        return {**lab.document, "time_limit_s": PROMISE_S}, names


def promise(answer: PlanAnswer, names: list[str]) -> PromiseView:
    """The earliest end that can be believed, or why there is none."""
    ends = [row["end"] for row in answer["steps"] if row["test"] in names]
    why = [row["why"] for row in answer["unplanned"] if row["test"] in names]
    if why or not ends:
        message = why[0] if why else "there is nothing to plan"
        return PromiseView(tested_by=None, released_by=None, text=message)
    at = max(map(moment_of, ends))
    with transaction() as session:
        released = worked_on(in_from(session, None, at), at, RELEASE_MIN)
    return PromiseView(tested_by=at, released_by=released, text="by the current plan")
