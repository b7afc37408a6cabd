"""The list of jobs, page by page, from their cards."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from pydantic import Field
from sqlalchemy import ColumnElement, and_, collate, exists, func, or_, select

from endurant.core.refusals import Invalid
from endurant.store import clock
from endurant.store.tables import Job, JobCard, Test
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.facts.models import JobLine, JobList, NextScreen
from endurant.work.facts.next_step import NEXT, next_of
from endurant.work.read_models.job_cards import refresh_turned

MAX_WORDS = 8
_PARTED_BY = "~"


SCREENS: dict[NextScreen, tuple[NextScreen, ...]] = {"bench": ("bench", "readings")}
"""Where readings are brought in is a screen of the bench; every other place is its own."""


JobSort = Literal["due", "number", "product"]
JobFilter = Literal["late", "mine", "waiting", "on-hold"]


class JobsRequest(RequestBody):
    """Which jobs are listed: open or released, by the screen they wait at, by words, and in order.

    Every word must stand in the number, client, product, lot or material. `only` narrows the list
    to jobs that are late, that you received, that wait for conditioning, or with a test on hold.
    Without `sort`, open jobs are sorted by due date, and released ones by number, the newest first.
    """

    state: Literal["open", "released"] = "open"
    place: NextScreen | None = None
    search: str = Field("", max_length=120)
    only: JobFilter | None = None
    sort: JobSort | None = None
    descending: bool = False
    limit: int = Field(50, ge=1, le=200)
    after: str | None = Field(None, max_length=400)


OWN_FACTS = ("number", "client", "product", "variant", "study_id", "priority", "lot")
"""What a line of the list shows that stands in the job itself."""


def jobs(request: JobsRequest, person_id: int | None = None) -> JobList:
    """Return a page of jobs, as `person_id` asks for them.

    Raises Invalid for a page that no list has.
    """
    order = _Order.of(request)
    with transaction() as session:
        now = clock.now()
        refresh_turned(session, now)
        requested = [
            JobCard.released.is_(request.state == "released"),
            *_filters(request, person_id, now),
        ]
        total = session.scalar(select(func.count()).select_from(JobCard).where(*requested)) or 0
        page = (
            select(JobCard, *(getattr(Job, name) for name in OWN_FACTS))
            .join(Job, Job.id == JobCard.job_id)
            .where(*requested)
            .limit(request.limit + 1)
        )
        if request.after is not None:
            page = page.where(order.beyond(request.after))
        rows = session.execute(page.order_by(*order.columns())).all()
    shown = rows[: request.limit]
    lines = [_line(card, dict(zip(OWN_FACTS, facts, strict=True))) for card, *facts in shown]
    goes_on = len(rows) > request.limit
    return JobList(jobs=lines, total=total, after=order.end_of(lines[-1]) if goes_on else None)


@dataclass(frozen=True)
class _Order:
    """The order of a list, and where a page of it ends: a value of its column, and a job."""

    sort: JobSort
    descending: bool

    @classmethod
    def of(cls, request: JobsRequest) -> _Order:
        if request.sort is None and request.state == "released":
            return cls("number", True)
        return cls(request.sort or "due", request.descending)

    def columns(self) -> list[ColumnElement[Any]]:
        """The columns that the list is ordered by."""
        own = [] if self.sort == "number" else [_SORTED_BY[self.sort]]
        return [
            column.desc() if self.descending else column.asc() for column in (*own, JobCard.job_id)
        ]

    def end_of(self, line: JobLine) -> str:
        """Where a page ends with this line, as the next page is asked for."""
        value = {"due": line.due_at.isoformat(), "product": line.product, "number": ""}[self.sort]
        return f"{value}{_PARTED_BY}{line.id}"

    def beyond(self, after: str) -> ColumnElement[bool]:
        """What stands after the end of a page. Raises Invalid for what is no such end."""
        text, _, number = after.rpartition(_PARTED_BY)
        try:
            job_id = int(number)
            value: Any = datetime.fromisoformat(text) if self.sort == "due" else text
        except ValueError:
            raise Invalid("jobs.no-page", after=after, field="after") from None
        has_zone = not isinstance(value, datetime) or value.tzinfo is not None
        if not has_zone or not 0 <= job_id < 2**31:
            raise Invalid("jobs.no-page", after=after, field="after")
        further = JobCard.job_id < job_id if self.descending else JobCard.job_id > job_id
        if self.sort == "number":
            return further
        column = _SORTED_BY[self.sort]
        return or_(
            column < value if self.descending else column > value, and_(column == value, further)
        )


_SORTED_BY: dict[JobSort, Any] = {
    "due": JobCard.due_at,
    "product": collate(Job.product, "utf8mb4_unicode_ci"),
}
"""Words are ordered as in a list of words: upper and lower case alike."""


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


def _filters(
    request: JobsRequest, person_id: int | None, now: datetime
) -> list[ColumnElement[bool]]:
    filters: list[ColumnElement[bool]] = []
    if request.place is not None:
        filters.append(JobCard.next_code.in_(_codes_at(request.place)))
    if request.only == "late":
        filters.append(JobCard.due_at < now)
    elif request.only == "mine":
        own = select(Job.id).where(Job.received_by_id == person_id)
        filters.append(JobCard.job_id.in_(own))
    elif request.only == "waiting":
        filters.append(JobCard.next_code.in_(_codes_at("conditioning")))
    elif request.only == "on-hold":
        is_held = exists().where(
            Test.job_id == JobCard.job_id, Test.held_at.is_not(None), Test.dropped_at.is_(None)
        )
        filters.append(is_held)
    for word in request.search.lower().split()[:MAX_WORDS]:
        filters.append(JobCard.search.contains(word, autoescape=True))
    return filters


def _codes_at(place: NextScreen) -> list[str]:
    """The next steps that are done at a screen."""
    places = SCREENS.get(place, (place,))
    return [code for code, (_, own) in NEXT.items() if own in places]


def _line(card: JobCard, facts: dict[str, Any]) -> JobLine:
    wording, place = next_of(card.next_code)
    fields = {
        name: getattr(card, name)
        for name in ("due_at", "stage", "tested", "required", "verdict", "next_code", "problem")
    }
    return JobLine(
        id=card.job_id,
        **facts | {"priority": facts["priority"] or 0},
        next_text=wording,
        next_screen=place,
        **fields,
    )
