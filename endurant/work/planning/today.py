"""The day: who does what next, what runs where, what is late; and the plan that says so."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable
from datetime import UTC, datetime, timedelta
from typing import Any, Literal

from pydantic import Field
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from endurant.core.planning.compare import Before, compare
from endurant.core.refusals import Invalid, NotFound
from endurant.store import clock
from endurant.store.asked_for import KeptPlan, PlanPin
from endurant.store.audit import record
from endurant.store.tables import Job, Person, Test
from endurant.work.jobs.cards import refresh_turned
from endurant.work.jobs.states import refuse_released, test_or_refuse
from endurant.work.jobs.views import View
from endurant.work.planning.lab import Lab, lab_now
from endurant.work.preparation.board import board_key
from endurant.work.record.asked import Asked, AskedMoment
from endurant.work.record.people import Actor
from endurant.work.record.transactions import transaction

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
    """One step on a lane; `begins` is its set-up, where there is one."""

    test: str
    step: str
    job_id: int | None
    test_id: int | None
    pinned: bool
    begins: datetime
    start: datetime
    end: datetime
    hands_on_end: datetime
    person: str | None
    place: str | None
    why: str
    late: bool


class LaneView(View):
    """A station, an enclosure or a person, and what is planned there."""

    kind: LaneKind
    name: str
    blocks: list[BlockView]


class TroubleView(View):
    """A test that is late or has no place, and why."""

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


class PinAsked(Asked):
    """A step that is wanted at a moment, by somebody where one is named."""

    test_id: int
    step: str = Field(min_length=1, max_length=40)
    start: AskedMoment
    person: str | None = Field(None, max_length=80)


class UnpinAsked(Asked):
    """A step that the plan may move again."""

    test_id: int
    step: str = Field(min_length=1, max_length=40)


def pin(actor: Actor, asked: PinAsked) -> TodayView:
    """Pin a step; the plan that is made next keeps to it.

    Raises NotFound for a test or person there is not, Invalid for a moment that is past.
    """
    actor.must("test")
    with transaction() as session:
        test = test_or_refuse(session, asked.test_id)
        refuse_released(session, test.job_id)
        start = asked.start.replace(second=0, microsecond=0)
        if start < clock.now().replace(second=0, microsecond=0):
            raise Invalid("start: it lies behind us; expected a moment from now on", field="start")
        person = None
        if asked.person:
            person = session.scalar(select(Person).where(Person.name == asked.person))
            if person is None:
                raise NotFound(f"nobody here is called {asked.person}")
        row = _pin_of(session, asked.test_id, asked.step)
        if row is None:
            row = PlanPin(test_id=asked.test_id, step=asked.step)
            session.add(row)
        row.start, row.by_id, row.at = start, actor.id, clock.now()
        row.person_id = None if person is None else person.id
        session.flush()
        whose = f" for {person.name}" if person else ""
        _note_pin(session, actor, row, test, f"pinned {row.step} to {start:%d %b %H:%M} UTC{whose}")
        return _view(session, _latest(session), clock.now())


def unpin(actor: Actor, asked: UnpinAsked) -> TodayView:
    """Let the plan move a step again. Raises NotFound for one that is not pinned."""
    actor.must("test")
    with transaction() as session:
        row = _pin_of(session, asked.test_id, asked.step)
        if row is None:
            raise NotFound(f"{asked.step} is not pinned")
        _note_pin(session, actor, row, test_or_refuse(session, row.test_id), f"let {row.step} go")
        session.delete(row)
        session.flush()
        return _view(session, _latest(session), clock.now())


def _pin_of(session: Session, test_id: int, step: str) -> PlanPin | None:
    return session.scalar(select(PlanPin).where(PlanPin.test_id == test_id, PlanPin.step == step))


def _note_pin(session: Session, actor: Actor, row: PlanPin, test: Test, words: str) -> None:
    record(
        session,
        person_id=actor.id,
        action="pin",
        entity="plan_pin",
        entity_id=row.id,
        job_id=test.job_id,
        words=f"{actor.name} {words}",
    )


class AwayAsked(Asked):
    """A station that is thought away for a while."""

    station: str = Field(max_length=60)
    start: AskedMoment
    end: AskedMoment


class DueAsked(Asked):
    """A job that is thought due at another moment."""

    job_id: int
    due_at: AskedMoment


class WhatIfAsked(Asked):
    """What is thought to be otherwise; nothing of it is written down."""

    away: list[AwayAsked] = Field(default_factory=list, max_length=20)
    due: list[DueAsked] = Field(default_factory=list, max_length=20)
    one_more_like: int | None = None


class WhatIfView(View):
    """What would move, and what would be late."""

    moved: list[str]
    later: list[str]
    sooner: list[str]
    stayed_percent: int
    late: list[TroubleView]
    added_ends: datetime | None


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


def keep(lab: Lab, board: str, answer: dict[str, Any]) -> TodayView:
    """Keep a plan that was just made, with what it moved of the one before."""
    with transaction() as session:
        now = clock.now()
        before = _latest(session)
        compared = None
        if before is not None:
            told = compare(_ahead(before, now), lab.document, answer)
            compared = {
                "moved": [f"{each.test}, {each.step}: {each.says}" for each in told.moved],
                "later": list(told.later),
                "stayed": told.stayed,
                "tell": _to_tell(session, lab, before.answer, answer),
            }
        session.add(
            KeptPlan(
                at=now,
                board=board,
                document=lab.document,
                answer=answer,
                names={"jobs": lab.job_of, "tests": lab.test_of, "left_out": lab.left_out},
                compared=compared,
            )
        )
        session.flush()
        old = list(session.scalars(select(KeptPlan.id).order_by(KeptPlan.id.desc())))[KEPT_PLANS:]
        if old:
            session.execute(delete(KeptPlan).where(KeptPlan.id.in_(old)))
        return _view(session, _latest(session), now)


def _to_tell(
    session: Session, lab: Lab, before: dict[str, Any], after: dict[str, Any]
) -> list[str]:
    """Whose jobs are late now and were not, or later by more than a little."""
    known = {row["test"]: row["minutes"] for row in before["late"]}
    worse = {
        lab.job_of[row["test"]]
        for row in after["late"]
        if row["minutes"] > known.get(row["test"], 0) + TOLD_FROM_MIN and row["test"] in lab.job_of
    }
    jobs = session.scalars(select(Job).where(Job.id.in_(worse)).order_by(Job.due_at)).all()
    ends: dict[int, datetime] = {}
    for row in after["steps"]:
        job_id = lab.job_of.get(row["test"])
        if job_id is not None:
            end = datetime.fromisoformat(row["end"])
            ends[job_id] = max(end, ends.get(job_id, end))
    return [
        f"Tell {job.client}: {job.number} {job.product} is tested by "
        f"{ends[job.id].astimezone():%a %d %b %H:%M}, due {job.due_at.astimezone():%a %d %b %H:%M}"
        for job in jobs
        if job.id in ends
    ]


def last_plan() -> Before | None:
    """What still lies ahead of the plan that was made last; None before the first."""
    with transaction() as session:
        kept = _latest(session)
        return None if kept is None else _ahead(kept, clock.now())


def imagined(asked: WhatIfAsked) -> tuple[Before, Lab]:
    """The plan that was made last, and the laboratory with what is thought otherwise.

    Raises NotFound while there is no plan, or for a job or station that is none of its own.
    """
    with transaction() as session:
        kept = _latest(session)
        if kept is None:
            raise NotFound("there is no plan yet; make one first")
        lab = lab_now(session, clock.now())
        before = _ahead(kept, clock.now())
    document = lab.document
    for away in asked.away:
        row = next((one for one in document["stations"] if one["name"] == away.station), None)
        if row is None:
            raise NotFound(f"there is no station {away.station[:60]}")
        if away.end <= away.start:
            raise Invalid("away: it ends before it begins", field="away")
        row.setdefault("away", []).append([_iso(away.start), _iso(away.end)])
    for due in asked.due:
        rows = [one for one in document["tests"] if lab.job_of[one["id"]] == due.job_id]
        if not rows:
            raise NotFound(f"no open test belongs to the job with id {due.job_id}")
        for row in rows:
            row["due"] = _iso(due.due_at)
    if asked.one_more_like is not None:
        _add_one_more(lab, asked.one_more_like)
    return before, lab


ADDED = "one more: "


def _add_one_more(lab: Lab, job_id: int) -> None:
    rows = [one for one in lab.document["tests"] if lab.job_of[one["id"]] == job_id]
    if not rows:
        raise NotFound(f"no open test belongs to the job with id {job_id}")
    for row in rows:
        again = row | {"id": f"{ADDED}{row['id']}"}
        lab.document["tests"].append(again)
        lab.job_of[again["id"]] = job_id


def what_if(before: Before, after: dict[str, Any], lab: Lab) -> WhatIfView:
    """What the thought-of plan moves."""
    told = compare(before, lab.document, after)
    added = [row["end"] for row in after["steps"] if row["test"].startswith(ADDED)]
    return WhatIfView(
        moved=[f"{each.test}, {each.step}: {each.says}" for each in told.moved][:MOVED_SHOWN],
        later=list(told.later),
        sooner=list(told.sooner),
        stayed_percent=round(100 * told.stayed),
        late=_troubles(after["late"], lab.job_of),
        added_ends=max(map(datetime.fromisoformat, added), default=None),
    )


def day_now(session: Session, now: datetime) -> TodayView:
    """The plan that was made last, as it stands at a moment."""
    return _view(session, _latest(session), now)


def calendar_rows(kind: LaneKind | None, name: str | None) -> list[BlockView]:
    """The steps of the plan for a calendar: of one lane, or all. Raises NotFound."""
    with transaction() as session:
        view = _view(session, _latest(session), clock.now())
    lanes = [lane for lane in view.lanes if kind is None or (lane.kind, lane.name) == (kind, name)]
    if kind is not None and not lanes:
        raise NotFound(f"nothing is planned for {kind} {name}")
    blocks = {(block.test, block.step): block for lane in lanes for block in lane.blocks}
    return sorted(blocks.values(), key=lambda block: block.start)


def _board(session: Session) -> str:
    return hashlib.sha256(repr(board_key(session)[:-1]).encode()).hexdigest()


def _latest(session: Session) -> KeptPlan | None:
    return session.scalar(select(KeptPlan).order_by(KeptPlan.id.desc()).limit(1))


def _ahead(kept: KeptPlan, now: datetime) -> Before:
    """A plan without what lies behind."""
    rows = [row for row in kept.answer["steps"] if datetime.fromisoformat(row["end"]) > now]
    return Before(kept.document, kept.answer | {"steps": rows})


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
    jobs = kept.names["jobs"]
    late = {row["test"] for row in kept.answer["late"]}
    blocks = [_block(row, jobs, kept.names.get("tests", {}), late) for row in kept.answer["steps"]]
    blocks = sorted((block for block in blocks if block.end > now), key=lambda each: each.begins)
    told = kept.compared or {}
    return TodayView(
        now=now,
        made_at=kept.at,
        stale=now - kept.at > OLD_AFTER or kept.board != _board(session),
        lanes=_lanes(kept.document, blocks),
        next=[block for block in blocks if block.person is not None and block.hands_on_end > now][
            :NEXT_SHOWN
        ],
        late=_troubles(kept.answer["late"], jobs),
        at_risk=_at_risk(kept, late),
        before_home=[block for block in blocks if _runs_overnight(block, now)],
        unplanned=_troubles(kept.answer["unplanned"], jobs),
        moved=[*told.get("later", []), *told.get("moved", [])][:MOVED_SHOWN],
        tell=told.get("tell", []),
        stayed_percent=round(100 * told["stayed"]) if told else None,
        ends=datetime.fromisoformat(kept.answer["ends"]) if kept.answer["ends"] else None,
        left_out=kept.names["left_out"],
    )


def _block(
    row: dict[str, Any], jobs: dict[str, int], tests: dict[str, int], late: Iterable[str]
) -> BlockView:
    moment: Callable[[str], datetime] = datetime.fromisoformat
    return BlockView(
        test=row["test"],
        step=row["step"],
        job_id=jobs.get(row["test"]),
        test_id=tests.get(row["test"]),
        pinned=row["why"]["rule"] == "pinned" and row["step"] != RUNS,
        begins=moment(row["set_up_start"] or row["start"]),
        start=moment(row["start"]),
        end=moment(row["end"]),
        hands_on_end=moment(row["hands_on_end"]),
        person=row["person"],
        place=row["station"] or row["enclosure"],
        why=row["why"]["words"],
        late=row["test"] in late,
    )


def _runs_overnight(block: BlockView, now: datetime) -> bool:
    """Begun by hand today, and by itself until tomorrow: what has to be hung before going home."""
    here = now.astimezone()
    night = (here + timedelta(days=1)).replace(hour=0, minute=0, second=0, microsecond=0)
    return block.person is not None and now < block.hands_on_end <= night and block.end > night


def _at_risk(kept: KeptPlan, late: set[str]) -> list[TroubleView]:
    """Tests that end shortly before they are due: a little trouble makes them late."""
    ends: dict[str, datetime] = {}
    for row in kept.answer["steps"]:
        ends[row["test"]] = datetime.fromisoformat(row["end"])
    tests = [test for test in kept.document["tests"] if test["id"] in ends]
    tests = [test for test in tests if test["id"] not in late and test.get("due")]
    rows = []
    for test in tests:
        left = datetime.fromisoformat(test["due"]) - ends[test["id"]]
        if left < AT_RISK:
            rows.append(
                TroubleView(
                    test=test["id"],
                    job_id=kept.names["jobs"].get(test["id"]),
                    minutes=left / timedelta(minutes=1),
                    why="so much is left between its end and its due date",
                )
            )
    return rows


def _lanes(document: dict[str, Any], blocks: list[BlockView]) -> list[LaneView]:
    """A lane for each person, station and enclosure that has something to do."""
    named: list[tuple[LaneKind, str]] = [
        *(("person", row["name"]) for row in document["people"]),
        *(("station", row["name"]) for row in document["stations"]),
        *(("enclosure", row["name"]) for row in document["enclosures"]),
    ]
    lanes = []
    for kind, name in named:
        own = [
            block for block in blocks if (block.person if kind == "person" else block.place) == name
        ]
        if own or kind == "person":
            lanes.append(LaneView(kind=kind, name=name, blocks=own))
    return lanes


def _troubles(rows: list[dict[str, Any]], jobs: dict[str, int]) -> list[TroubleView]:
    return [
        TroubleView(
            test=row["test"],
            job_id=jobs.get(row["test"]),
            minutes=row.get("minutes"),
            why=row["why"],
        )
        for row in rows
    ]


def _iso(at: datetime) -> str:
    return at.astimezone(UTC).isoformat().replace("+00:00", "Z")
