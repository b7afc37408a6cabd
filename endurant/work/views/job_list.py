"""The list of jobs, page by page, from their cards."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import Field
from sqlalchemy import ColumnElement, and_, func, or_, select

from endurant.core.refusals import Invalid
from endurant.store import clock
from endurant.store.tables import Job, JobCard
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.facts.models import JobLine, JobList, NextPlace
from endurant.work.facts.next_step import NEXT, next_of
from endurant.work.read_models.job_cards import refresh_turned

MAX_WORDS = 8
_PARTED_BY = "~"


SCREENS: dict[NextPlace, tuple[NextPlace, ...]] = {"bench": ("bench", "readings")}
"""Where readings are brought in is a screen of the bench; every other place is its own."""


class JobsRequest(RequestBody):
    """Which jobs are looked for: open or released, by the screen they wait at, and by words.

    Every word must stand in the number, client, product, lot or material.
    """

    state: Literal["open", "released"] = "open"
    place: NextPlace | None = None
    search: str = Field("", max_length=120)
    limit: int = Field(50, ge=1, le=200)
    after: str | None = Field(None, max_length=60)


OWN_FACTS = ("number", "client", "product", "variant", "study_id", "priority", "lot")
"""What a line of the list shows that stands in the job itself."""


def jobs(request: JobsRequest) -> JobList:
    """A page of jobs: open ones by due date, released ones by number, the newest first.

    Raises Invalid for a page that no list has.
    """
    released = request.state == "released"
    wanted = [JobCard.released.is_(released), *_filters(request)]
    with transaction() as session:
        refresh_turned(session, clock.now())
        total = session.scalar(select(func.count()).select_from(JobCard).where(*wanted)) or 0
        page = (
            select(JobCard, *(getattr(Job, name) for name in OWN_FACTS))
            .join(Job, Job.id == JobCard.job_id)
            .where(*wanted)
            .limit(request.limit + 1)
        )
        if request.after is not None:
            page = page.where(_beyond(request.after, released=released))
        order = (
            [JobCard.job_id.desc()] if released else [JobCard.due_at.asc(), JobCard.job_id.asc()]
        )
        rows = session.execute(page.order_by(*order)).all()
    shown = rows[: request.limit]
    lines = [_line(card, dict(zip(OWN_FACTS, facts, strict=True))) for card, *facts in shown]
    goes_on = len(rows) > request.limit
    return JobList(jobs=lines, total=total, after=_place_of(shown[-1][0]) if goes_on else None)


def waiting() -> dict[str, int]:
    """How many open jobs wait at each screen."""
    counts: dict[str, int] = {}
    with transaction() as session:
        refresh_turned(session, clock.now())
        rows = session.execute(
            select(JobCard.next_code, func.count())
            .where(JobCard.released.is_(False))
            .group_by(JobCard.next_code)
        )
        for code, count in rows:
            place = next_of(code)[1]
            screen = next((name for name, held in SCREENS.items() if place in held), place)
            counts[screen] = counts.get(screen, 0) + count
    return counts


def _filters(request: JobsRequest) -> list[ColumnElement[bool]]:
    filters: list[ColumnElement[bool]] = []
    if request.place is not None:
        places = SCREENS.get(request.place, (request.place,))
        codes = [code for code, (_, place) in NEXT.items() if place in places]
        filters.append(JobCard.next_code.in_(codes))
    for word in request.search.lower().split()[:MAX_WORDS]:
        filters.append(JobCard.search.contains(word, autoescape=True))
    return filters


def _place_of(card: JobCard) -> str:
    """Where a page ends, as the next one is asked for."""
    return f"{card.due_at.isoformat()}{_PARTED_BY}{card.job_id}"


def _beyond(after: str, *, released: bool) -> ColumnElement[bool]:
    moment, _, number = after.partition(_PARTED_BY)
    try:
        due_at, job_id = datetime.fromisoformat(moment), int(number)
    except ValueError:
        raise Invalid("jobs.no-page", after=after, field="after") from None
    if due_at.tzinfo is None or not 0 <= job_id < 2**31:
        raise Invalid("jobs.no-page", after=after, field="after")
    if released:
        return JobCard.job_id < job_id
    same_day = and_(JobCard.due_at == due_at, JobCard.job_id > job_id)
    return or_(JobCard.due_at > due_at, same_day)


def _line(card: JobCard, facts: dict[str, Any]) -> JobLine:
    words, place = next_of(card.next_code)
    fields = {
        name: getattr(card, name)
        for name in ("due_at", "stage", "tested", "wanted", "verdict", "next_code", "trouble")
    }
    return JobLine(
        id=card.job_id,
        **facts | {"priority": facts["priority"] or 0},
        next_words=words,
        next_place=place,
        **fields,
    )
