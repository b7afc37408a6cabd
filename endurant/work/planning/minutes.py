"""How long the steps of a test take: what its guide says, until the laboratory's record knows."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from math import ceil
from statistics import median
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from endurant.core.bench.pictures import PICTURES
from endurant.core.methods import all_methods
from endurant.core.methods.guide import SeriesGuide
from endurant.core.methods.method import Method
from endurant.store.tables import BenchEvent, Run, Specimen, Test
from endurant.work.jobs.views import View
from endurant.work.record.transactions import transaction

KNOWN_FROM = 10
"""The record is believed once it has so many of a step."""
LOOKED_AT = 40
TURNS_USUAL = 8
LONGEST_MIN = 240.0
"""Who was longer at one specimen went for a meal meanwhile."""
CUT_MIN, HANG_MIN, JUDGE_MIN = 20, 10, 10


class MinutesView(View):
    """Minutes of one specimen at the bench: by the guide, and by the record where it knows."""

    method: str
    title: str
    by_guide: float
    by_record: float | None
    seen: int

    @property
    def used(self) -> float:
        """The ones that are planned with."""
        return self.by_guide if self.by_record is None else self.by_record


def minutes_known() -> list[MinutesView]:
    """Every method that the record has something of, the best known first."""
    with transaction() as session:
        methods: list[tuple[Method, Mapping[str, Any]]] = [
            (method, {}) for method in all_methods().values()
        ]
        known = minutes_of(session, methods).values()
    return sorted((view for view in known if view.seen), key=lambda view: -view.seen)


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
            by_record=round(median(recorded[method.id]), 1)
            if len(recorded[method.id]) >= KNOWN_FROM
            else None,
            seen=len(recorded[method.id]),
        )
        for method, parameters in methods
    }


def by_guide(method: Method, parameters: Mapping[str, Any]) -> float:
    """What the acts of its picture add up to; a series takes so many turns as is usual."""
    if not method.runs_live:
        return 5.0
    acts = PICTURES[method.guide.bench].acts(method, parameters)
    turns = TURNS_USUAL if isinstance(method.guide.live, SeriesGuide) else 1
    return float(
        ceil(
            sum(
                act.hands_on_min * (turns if act.turns else 1) + act.unattended_min
                for act in acts
                if not act.optional
            )
        )
    )


def _recorded(session: Session, methods: Sequence[str]) -> dict[str, list[float]]:
    """From the first act to the last of the latest specimens that were kept, in minutes."""
    recorded: dict[str, list[float]] = defaultdict(list)
    if not methods:
        return recorded
    latest = (
        select(Run.specimen_id, Test.method)
        .join(Specimen, Specimen.id == Run.specimen_id)
        .join(Test, Test.id == Specimen.test_id)
        .where(Test.method.in_(methods), Run.state == "settled")
        .order_by(Run.id.desc())
        .limit(LOOKED_AT * len(methods))
        .subquery()
    )
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
