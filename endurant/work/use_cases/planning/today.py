"""The day: who does what next, what runs where, what is late; and the plan that says so."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime, timedelta
from functools import partial
from typing import Literal, cast

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from endurant.core.messages import worded
from endurant.core.planning.codec import moment_of
from endurant.core.planning.compare import Before, compare
from endurant.core.planning.kept import plan_beside
from endurant.core.planning.rows import (
    LateTest,
    PlanAnswer,
    PlanDocument,
    PlannedStep,
    UnplannedTest,
    titles_of,
)
from endurant.core.refusals import NotFound
from endurant.store import clock
from endurant.store.plans import KeptPlan
from endurant.store.tables import Job
from endurant.work.base.actors import Actor
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.models import NextScreen
from endurant.work.read_models.board import board_key
from endurant.work.read_models.job_cards import refresh_turned
from endurant.work.use_cases.planning.lab import Lab, lab_now
from endurant.work.use_cases.planning.reviews import STEP as REVIEW
from endurant.work.use_cases.planning.solving import Solver

KEPT_PLANS = 50
OLD_AFTER = timedelta(minutes=15)
AT_RISK = timedelta(hours=4)
RUNS = "condition"
"""A step that stands where it does because it runs already."""
NEXT_SHOWN = 12
TOLD_FROM_MIN = 15
MOVED_SHOWN = 12
LaneKind = Literal["station", "enclosure", "person"]


class BlockView(View):
    """One step on a lane; `begins` is its set-up, where there is one, `at` where it is done.

    `id` names the test in the plan, `test` is what people call it.
    """

    id: str
    test: str
    step: str
    job_number: str | None
    job_id: int | None
    test_id: int | None
    pinned: bool
    begins: datetime
    start: datetime
    end: datetime
    hands_on_end: datetime
    person: str | None
    person_id: int | None
    place: str | None
    why: str
    late: bool
    at: NextScreen


class LaneView(View):
    """A station, an enclosure or a person, and what is planned there."""

    kind: LaneKind
    name: str
    blocks: list[BlockView]


class TroubleView(View):
    """A test that is late or has no place, and why."""

    id: str
    test: str
    job_id: int | None
    minutes: float | None
    why: str


class TodayView(View):
    """The plan as it stands; `stale` when the laboratory has moved on since it was made."""

    now: datetime
    made_at: datetime | None
    stale: bool
    lanes: list[LaneView]
    next: list[BlockView]
    late: list[TroubleView]
    at_risk: list[TroubleView]
    before_home: list[BlockView]
    unplanned: list[TroubleView]
    moved: list[str]
    tell: list[str]
    stayed_percent: int | None
    ends: datetime | None
    left_out: int


def today(actor: Actor) -> TodayView:
    """The plan that was made last, and whether the laboratory has moved on since."""
    with transaction() as session:
        now = clock.now()
        return _view(session, _latest(session), now)


def lab_document() -> tuple[Lab, str]:
    """The laboratory as a planning document, and the state that it is of."""
    with transaction() as session:
        refresh_turned(session, clock.now())
        return lab_now(session, clock.now()), _board(session)


async def plan_again(solver: Solver) -> TodayView:
    """Make the plan of the laboratory again, for everybody; most of the plan before stays."""
    lab, board = await solver.read(lab_document)
    before = await solver.read(last_plan)
    answer = await solver.solve(partial(plan_beside, before=before), lab.document)
    return await solver.read(lambda: keep(lab, board, answer))


async def plan_where_stale(actor: Actor, solver: Solver) -> None:
    """Make the plan again before it is printed or exported, where the laboratory has moved on.

    A person without the right to plan is given the plan that was made last.
    """
    if actor.may("plan-schedule") and (await solver.read(partial(today, actor))).stale:
        await plan_again(solver)


def keep(lab: Lab, board: str, answer: PlanAnswer) -> TodayView:
    """Keep a plan that was just made, with what it moved of the one before."""
    with transaction() as session:
        now = clock.now()
        before = _latest(session)
        compared = None
        if before is not None:
            beside = compare(_ahead(before, now), lab.document, answer)
            compared = {
                "moved": beside.moved_in_words(lab.document),
                "later": list(beside.later),
                "stayed": beside.stayed,
                "tell": _to_tell(session, lab, _answer_of(before), answer),
            }
        session.add(
            KeptPlan(
                at=now,
                board=board,
                document=lab.document,
                answer=answer,
                names={
                    "jobs": lab.job_of,
                    "numbers": lab.number_of,
                    "tests": lab.test_of,
                    "people": lab.person_of,
                    "left_out": lab.left_out,
                },
                compared=compared,
            )
        )
        session.flush()
        old = list(session.scalars(select(KeptPlan.id).order_by(KeptPlan.id.desc())))[KEPT_PLANS:]
        if old:
            session.execute(delete(KeptPlan).where(KeptPlan.id.in_(old)))
        return _view(session, _latest(session), now)


def _to_tell(session: Session, lab: Lab, before: PlanAnswer, after: PlanAnswer) -> list[str]:
    """Whose jobs are late now and were not, or later by more than a little."""
    known = {row["test"]: row["minutes"] for row in before["late"]}
    worse = {
        lab.job_of[row["test"]]
        for row in after["late"]
        if row["minutes"] > known.get(row["test"], 0) + TOLD_FROM_MIN and row["test"] in lab.job_of
    }
    missing = {row["test"] for row in before["unplanned"]}
    left = {
        lab.job_of[row["test"]]: row["why"]
        for row in after["unplanned"]
        if row["test"] in lab.job_of and row["test"] not in missing
    }
    concerned = worse | left.keys()
    jobs = session.scalars(select(Job).where(Job.id.in_(concerned)).order_by(Job.due_at)).all()
    ends: dict[int, datetime] = {}
    for row in after["steps"]:
        job_id = lab.job_of.get(row["test"])
        if job_id is not None:
            end = moment_of(row["end"])
            ends[job_id] = max(end, ends.get(job_id, end))
    notes = []
    for job in jobs:
        named = f"{job.number} {job.product}"
        if job.id in left:
            notes.append(
                worded("plan.notify-unscheduled", client=job.client, job=named, reason=left[job.id])
            )
        elif job.id in ends:
            notes.append(
                worded(
                    "plan.notify", client=job.client, job=named, ends=ends[job.id], due=job.due_at
                )
            )
    return notes


def last_plan() -> Before | None:
    """What still lies ahead of the plan that was made last; None before the first."""
    with transaction() as session:
        kept = _latest(session)
        return None if kept is None else _ahead(kept, clock.now())


def day_now(session: Session, now: datetime) -> TodayView:
    """The plan that was made last, as it stands at a moment."""
    return _view(session, _latest(session), now)


def calendar_rows(kind: LaneKind | None, name: str | None) -> list[BlockView]:
    """The steps of the plan for a calendar: of one lane, or all. Raises NotFound."""
    if name is not None and not name.isprintable():
        raise NotFound("schedule.name-with-line-break")
    with transaction() as session:
        view = _view(session, _latest(session), clock.now())
    lanes = [lane for lane in view.lanes if kind is None or (lane.kind, lane.name) == (kind, name)]
    if kind is not None and not lanes:
        raise NotFound("schedule.nothing-planned", kind=kind, name=name)
    blocks = {(block.id, block.step): block for lane in lanes for block in lane.blocks}
    return sorted(blocks.values(), key=lambda block: block.start)


def rows_of_person(name: str) -> list[BlockView]:
    """The steps of the last plan for one person; none where nothing is planned for them."""
    with transaction() as session:
        view = _view(session, _latest(session), clock.now())
    lanes = [lane for lane in view.lanes if (lane.kind, lane.name) == ("person", name)]
    return [block for lane in lanes for block in lane.blocks]


def _board(session: Session) -> str:
    return hashlib.sha256(repr(board_key(session)[:-1]).encode()).hexdigest()


def _latest(session: Session) -> KeptPlan | None:
    return session.scalar(select(KeptPlan).order_by(KeptPlan.id.desc()).limit(1))


def _ahead(kept: KeptPlan, now: datetime) -> Before:
    """A plan without what lies behind."""
    answer = _answer_of(kept)
    steps = [step for step in answer["steps"] if moment_of(step["end"]) > now]
    return Before(_document_of(kept), {**answer, "steps": steps})


def _answer_of(kept: KeptPlan) -> PlanAnswer:
    """A plan as it was made."""
    return cast(PlanAnswer, kept.answer)


def _document_of(kept: KeptPlan) -> PlanDocument:
    return cast(PlanDocument, kept.document)


def _view(session: Session, kept: KeptPlan | None, now: datetime) -> TodayView:
    if kept is None:
        return TodayView(
            now=now,
            made_at=None,
            stale=True,
            lanes=[],
            next=[],
            late=[],
            at_risk=[],
            before_home=[],
            unplanned=[],
            moved=[],
            tell=[],
            stayed_percent=None,
            ends=None,
            left_out=0,
        )
    jobs, answer = kept.names["jobs"], _answer_of(kept)
    titles = titles_of(_document_of(kept))
    late = {row["test"] for row in answer["late"]}
    blocks = [_block(row, kept, titles, late) for row in answer["steps"]]
    blocks = sorted((block for block in blocks if block.end > now), key=lambda each: each.begins)
    beside = kept.compared or {}
    return TodayView(
        now=now,
        made_at=kept.at,
        stale=now - kept.at > OLD_AFTER or kept.board != _board(session),
        lanes=_lanes(_document_of(kept), blocks),
        next=[block for block in blocks if block.person is not None and block.hands_on_end > now][
            :NEXT_SHOWN
        ],
        late=troubles(answer["late"], jobs, titles),
        at_risk=_at_risk(kept, late),
        before_home=[block for block in blocks if _runs_overnight(block, now)],
        unplanned=troubles(answer["unplanned"], jobs, titles),
        moved=[*beside.get("later", []), *beside.get("moved", [])][:MOVED_SHOWN],
        tell=beside.get("tell", []),
        stayed_percent=round(100 * beside["stayed"]) if beside else None,
        ends=moment_of(answer["ends"]) if answer["ends"] else None,
        left_out=kept.names["left_out"],
    )


def _block(
    row: PlannedStep, kept: KeptPlan, titles: Mapping[str, str], late: Iterable[str]
) -> BlockView:
    return BlockView(
        id=row["test"],
        test=titles[row["test"]],
        step=row["step"],
        job_number=kept.names.get("numbers", {}).get(row["test"]),
        job_id=kept.names["jobs"].get(row["test"]),
        test_id=kept.names.get("tests", {}).get(row["test"]),
        pinned=row["why"]["rule"] == "pinned" and row["step"] != RUNS,
        begins=moment_of(row["set_up_start"] or row["start"]),
        start=moment_of(row["start"]),
        end=moment_of(row["end"]),
        hands_on_end=moment_of(row["hands_on_end"]),
        person=row["person"],
        person_id=kept.names.get("people", {}).get(row["person"]),
        place=row["station"] or row["enclosure"],
        why=row["why"]["words"],
        late=row["test"] in late,
        at=_page_of(row["step"]),
    )


def _page_of(step: str) -> NextScreen:
    """The screen where a step is done."""
    if step == "cut":
        return "cutting"
    if step == REVIEW:
        return "judge"
    return "conditioning" if step.startswith("hang") else "bench"


def _runs_overnight(block: BlockView, now: datetime) -> bool:
    """Begun by hand today, then by itself until tomorrow: what to place before going home."""
    here = now.astimezone()
    night = (here + timedelta(days=1)).replace(hour=0, minute=0, second=0, microsecond=0)
    return block.person is not None and now < block.hands_on_end <= night and block.end > night


def _at_risk(kept: KeptPlan, late: set[str]) -> list[TroubleView]:
    """Tests that end shortly before they are due: a little trouble makes them late."""
    ends: dict[str, datetime] = {}
    for row in _answer_of(kept)["steps"]:
        ends[row["test"]] = moment_of(row["end"])
    rows = []
    for test in _document_of(kept)["tests"]:
        due = test.get("due")
        if not due or test["id"] in late or test["id"] not in ends:
            continue
        left = moment_of(due) - ends[test["id"]]
        if left < AT_RISK:
            rows.append(
                TroubleView(
                    id=test["id"],
                    test=test.get("title") or test["id"],
                    job_id=kept.names["jobs"].get(test["id"]),
                    minutes=left / timedelta(minutes=1),
                    why="so much is left between its end and its due date",
                )
            )
    return rows


def _lanes(document: PlanDocument, blocks: list[BlockView]) -> list[LaneView]:
    """A lane for each person, station and enclosure that has something to do."""
    named: list[tuple[LaneKind, str]] = [
        *(("person", row["name"]) for row in document["people"]),
        *(("station", row["name"]) for row in document.get("stations", [])),
        *(("enclosure", row["name"]) for row in document.get("enclosures", [])),
    ]
    lanes = []
    for kind, name in named:
        own = [
            block for block in blocks if (block.person if kind == "person" else block.place) == name
        ]
        if own or kind == "person":
            lanes.append(LaneView(kind=kind, name=name, blocks=own))
    return lanes


def troubles(
    rows: Sequence[LateTest | UnplannedTest],
    jobs: Mapping[str, int],
    titles: Mapping[str, str],
) -> list[TroubleView]:
    """Tests that are late or have no place, each with its job."""
    return [
        TroubleView(
            id=row["test"],
            test=titles[row["test"]],
            job_id=jobs.get(row["test"]),
            minutes=row.get("minutes"),
            why=row["why"],
        )
        for row in rows
    ]
