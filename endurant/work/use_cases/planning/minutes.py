"""How long the steps of a test take: what its guide says, until the laboratory's record knows."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from math import ceil
from statistics import median
from typing import Any

from sqlalchemy import Subquery, func, select
from sqlalchemy.orm import Session

from endurant.core.bench.procedures import PROCEDURES
from endurant.core.methods import all_methods, find_method
from endurant.core.methods.guide import SeriesGuide
from endurant.core.methods.method import Method
from endurant.store.tables import BenchEvent, Run, Specimen, Test
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View

KNOWN_FROM = 10
"""The record is believed once it has so many of a step."""
LOOKED_AT = 40
TURNS_USUAL = 8
LONGEST_MIN = 240.0
"""Who was longer at one specimen went for a meal meanwhile."""
CUT_MIN, PLACING_MIN, REVIEW_MIN = 20, 10, 10


class StepMinutes(View):
    """Minutes of one step at the bench, each turn of a series by itself."""

    title: str
    by_guide: float
    by_record: float | None
    seen: int


class MinutesView(View):
    """Minutes of one specimen at the bench: by the guide, and by the record where it knows.

    `steps` are what the record has of each step: from the step before to it.
    """

    method: str
    title: str
    by_guide: float
    by_record: float | None
    seen: int
    steps: list[StepMinutes] = []

    @property
    def used(self) -> float:
        """The ones that are planned with."""
        return self.by_guide if self.by_record is None else self.by_record


BY_NOBODY = (
    MinutesView(method="cut", title="A sample cut", by_guide=CUT_MIN, by_record=None, seen=0),
    MinutesView(
        method="hang", title="Placing of one set", by_guide=PLACING_MIN, by_record=None, seen=0
    ),
    MinutesView(
        method="review", title="A job reviewed", by_guide=REVIEW_MIN, by_record=None, seen=0
    ),
)
"""Steps that leave no beginning in the record, so that nobody can say how long they take."""


def minutes_known() -> list[MinutesView]:
    """Every method that the record has something of, the best known first; and what it has not."""
    with transaction() as session:
        methods: list[tuple[Method, Mapping[str, Any]]] = [
            (method, {}) for method in all_methods().values()
        ]
        known = [view for view in minutes_of(session, methods).values() if view.seen]
        steps = _recorded_steps(session, [view.method for view in known])
    with_steps = (
        view.model_copy(update={"steps": _steps(view, steps[view.method])}) for view in known
    )
    return [*sorted(with_steps, key=lambda view: -view.seen), *BY_NOBODY]


def _steps(view: MinutesView, recorded: Mapping[str, list[float]]) -> list[StepMinutes]:
    method = find_method(view.method)
    if not method.runs_live:
        return []
    actions = PROCEDURES[method.guide.bench].actions(method, method.defaults)
    return [
        StepMinutes(
            title=act.title.format(label="the specimen"),
            by_guide=act.hands_on_min + act.unattended_min,
            by_record=_believed(recorded[act.code]),
            seen=len(recorded[act.code]),
        )
        for act in actions
        if recorded[act.code]
    ]


def _believed(minutes: Sequence[float]) -> float | None:
    """The median, once there are enough of them."""
    return round(median(minutes), 1) if len(minutes) >= KNOWN_FROM else None


def minutes_of(
    session: Session, methods: Sequence[tuple[Method, Mapping[str, Any]]]
) -> dict[str, MinutesView]:
    """Minutes a specimen at the bench of each method, by its id."""
    recorded = _recorded(session, [method.id for method, _ in methods])
    return {
        method.id: MinutesView(
            method=method.id,
            title=method.title,
            by_guide=by_guide(method, parameters),
            by_record=_believed(recorded[method.id]),
            seen=len(recorded[method.id]),
        )
        for method, parameters in methods
    }


def by_guide(method: Method, parameters: Mapping[str, Any]) -> float:
    """What the actions of its procedure add up to; a series takes so many turns as is usual."""
    if not method.runs_live:
        return 5.0
    actions = PROCEDURES[method.guide.bench].actions(method, method.defaults | dict(parameters))
    turns = TURNS_USUAL if isinstance(method.guide.live, SeriesGuide) else 1
    return float(
        ceil(
            sum(
                act.hands_on_min * (turns if act.turns else 1) + act.unattended_min
                for act in actions
                if not act.optional
            )
        )
    )


def _recorded(session: Session, methods: Sequence[str]) -> dict[str, list[float]]:
    """From the first action to the last of the latest specimens that were kept, in minutes."""
    recorded: dict[str, list[float]] = defaultdict(list)
    if not methods:
        return recorded
    latest = _latest(methods)
    rows = session.execute(
        select(latest.c.method, func.min(BenchEvent.at), func.max(BenchEvent.at))
        .join(latest, latest.c.specimen_id == BenchEvent.specimen_id)
        .group_by(latest.c.method, BenchEvent.specimen_id)
    )
    for method, began, ended in rows:
        minutes = (ended - began).total_seconds() / 60
        if 0 < minutes <= LONGEST_MIN:
            recorded[method].append(minutes)
    return recorded


def _recorded_steps(session: Session, methods: Sequence[str]) -> dict[str, dict[str, list[float]]]:
    """From the step before to each step of the latest specimens, by method and kind of event."""
    recorded: dict[str, dict[str, list[float]]] = defaultdict(lambda: defaultdict(list))
    if not methods:
        return recorded
    latest = _latest(methods)
    own = BenchEvent.specimen_id
    before = func.lag(BenchEvent.at, type_=BenchEvent.at.type).over(
        partition_by=own, order_by=BenchEvent.number
    )
    rows = session.execute(
        select(latest.c.method, BenchEvent.kind, BenchEvent.at, before).join(
            latest, latest.c.specimen_id == own
        )
    )
    for method, kind, at, began in rows:
        minutes = None if began is None else (at - began).total_seconds() / 60
        if minutes is not None and 0 <= minutes <= LONGEST_MIN:
            recorded[method][kind].append(minutes)
    return recorded


def _latest(methods: Sequence[str]) -> Subquery:
    """The latest specimens of these methods that were kept, with the method of each."""
    return (
        select(Run.specimen_id, Test.method)
        .join(Specimen, Specimen.id == Run.specimen_id)
        .join(Test, Test.id == Specimen.test_id)
        .where(Test.method.in_(methods), Run.state == "settled")
        .order_by(Run.id.desc())
        .limit(LOOKED_AT * len(methods))
        .subquery()
    )
