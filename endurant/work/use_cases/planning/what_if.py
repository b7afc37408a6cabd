"""What would be if: a station away, a job due sooner, one more job. Nothing of it is kept."""

from __future__ import annotations

from datetime import datetime
from functools import partial

from pydantic import Field

from endurant.core.planning.codec import moment_of, text_of
from endurant.core.planning.compare import Before, compare
from endurant.core.planning.kept import plan_beside
from endurant.core.planning.rows import PlanAnswer, WantedTest, titles_of
from endurant.core.refusals import Invalid, NotFound
from endurant.store import clock
from endurant.work.base.requests import Moment, RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.use_cases.planning.lab import Lab, lab_now
from endurant.work.use_cases.planning.solving import Solver
from endurant.work.use_cases.planning.today import (
    MOVED_SHOWN,
    TroubleView,
    last_plan,
    troubles,
)

ADDED = "one more "


class AwayRequest(RequestBody):
    """A station that is thought away for a while."""

    station: str = Field(max_length=60)
    start: Moment
    end: Moment


class DueRequest(RequestBody):
    """A job that is thought due at another moment."""

    job_id: int
    due_at: Moment


class WhatIfRequest(RequestBody):
    """What is thought to be otherwise; nothing of it is written down."""

    away: list[AwayRequest] = Field(default_factory=list, max_length=20)
    due: list[DueRequest] = Field(default_factory=list, max_length=20)
    one_more_like: int | None = None


class WhatIfView(View):
    """What would move, and what would be late."""

    moved: list[str]
    later: list[str]
    sooner: list[str]
    stayed_percent: int
    late: list[TroubleView]
    added_ends: datetime | None


async def explore(solver: Solver, request: WhatIfRequest) -> WhatIfView:
    """What would move, and what would be late; nothing is changed.

    Raises NotFound while there is no plan, or for a job or station that is none of its own.
    """
    before, lab = await solver.read(lambda: imagined(request))
    after = await solver.solve(partial(plan_beside, before=before), lab.document)
    return what_if(before, after, lab)


def imagined(request: WhatIfRequest) -> tuple[Before, Lab]:
    """The plan that was made last, and the laboratory with what is thought otherwise.

    Raises NotFound while there is no plan, or for a job or station that is none of its own.
    """
    before = last_plan()
    if before is None:
        raise NotFound("schedule.no-plan")
    with transaction() as session:
        lab = lab_now(session, clock.now())
    stations = {row["name"]: row for row in lab.document["stations"]}
    for away in request.away:
        station = stations.get(away.station)
        if station is None:
            raise NotFound("station.name-unknown", station=away.station)
        if away.end <= away.start:
            raise Invalid("schedule.absence-backwards", field="away")
        stretch = [text_of(away.start), text_of(away.end)]
        station["away"] = [*station.get("away", []), stretch]
    for due in request.due:
        for test in _tests_of(lab, due.job_id):
            test["due"] = text_of(due.due_at)
    if request.one_more_like is not None:
        for test in _tests_of(lab, request.one_more_like):
            title = test.get("title") or test["id"]
            again: WantedTest = {
                **test,
                "id": f"{ADDED}{test['id']}",
                "title": f"additional: {title}",
            }
            lab.document["tests"].append(again)
            lab.job_of[again["id"]] = request.one_more_like
    return before, lab


def _tests_of(lab: Lab, job_id: int) -> list[WantedTest]:
    tests = [test for test in lab.document["tests"] if lab.job_of[test["id"]] == job_id]
    if not tests:
        raise NotFound("schedule.no-open-test", job_id=job_id)
    return tests


def what_if(before: Before, after: PlanAnswer, lab: Lab) -> WhatIfView:
    """What the thought-of plan moves."""
    compared = compare(before, lab.document, after)
    added = [row["end"] for row in after["steps"] if row["test"].startswith(ADDED)]
    return WhatIfView(
        moved=compared.moved_in_words(lab.document)[:MOVED_SHOWN],
        later=list(compared.later),
        sooner=list(compared.sooner),
        stayed_percent=round(100 * compared.stayed),
        late=troubles(after["late"], lab.job_of, titles_of(lab.document)),
        added_ends=max(map(moment_of, added), default=None),
    )
