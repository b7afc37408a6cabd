"""Location, remainder and disposition of a sample, and who was notified of a failure."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Literal

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.messages import Message, worded
from endurant.core.methods.guide import Blank
from endurant.core.refusals import Conflict, Invalid
from endurant.core.rounding import in_numbers
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.custody import CustodyEvent
from endurant.store.tables import Job
from endurant.work.base.actors import Actor
from endurant.work.base.requests import Moment, RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.job_status import REMAINDER_ENDING
from endurant.work.facts.status import GONE, job_or_refuse
from endurant.work.views.sheet_drawing import lies_of, piece_of, pieces_on

Kind = Literal["kept", "split", "returned", "disposed", "told", "collected"]
SAID: dict[str, str] = {
    "kept": worded("custody-line.stored-at"),
    "split": worded("custody-line.split-off-to"),
    "returned": worded("custody-line.given-back-to"),
    "disposed": worded("custody-line.disposed-of"),
    "told": worded("custody-line.notified"),
    "collected": worded("custody-line.report-handed-to"),
}
NEEDS_PLACE: tuple[Kind, ...] = ("kept", "split", "returned", "told", "collected")
OF_REPORTS: tuple[Kind, ...] = ("told", "collected")
"""What is said of a report, whether or not its sample is still here."""
FAILED = "does not meet"


class CustodyRequest(RequestBody):
    """What becomes of a sample: where or to whom, how much of it, until when."""

    kind: Kind
    location: str = Field("", max_length=80)
    amount: float | None = Field(None, gt=0, le=1e7, allow_inf_nan=False)
    until: Moment | None = None
    remark: str = Field("", max_length=300)


class CustodyLine(View):
    """One thing that became of it."""

    kind: str
    text: str
    until: datetime | None
    at: datetime
    by: str


class CustodyView(View):
    """A sample: its remainder with its own code, what became of it, and who is to be notified.

    `remains` is None where nobody can say by counting; `unit` is mm of the roll, pieces or g.
    `kept_until` has passed where it is `overdue`; `is_here` is False once it was given away.
    """

    code: str
    remains: float | None
    unit: str
    is_here: bool
    location: str
    kept_until: datetime | None
    overdue: bool
    tell: str
    lines: list[CustodyLine]


def custody(job_id: int) -> CustodyView:
    """What there is of a sample. Raises NotFound."""
    with transaction() as session:
        return _view(session, job_or_refuse(session, job_id))


def note_custody(actor: Actor, job_id: int, request: CustodyRequest) -> CustodyView:
    """Write down what became of a sample, released or not.

    Raises NotFound, Conflict for one that is not here any more, Invalid for more than remains.
    """
    actor.must("receive")
    with transaction() as session:
        job = job_or_refuse(session, job_id, lock=True)
        before = _view(session, job)
        _refuse(before, job, request)
        row = CustodyEvent(
            job_id=job_id, at=clock.now(), by_id=actor.id, **request.model_dump(exclude_none=False)
        )
        session.add(row)
        session.flush()
        record(
            session,
            person_id=actor.id,
            action=f"custody-{request.kind}",
            entity="custody_event",
            entity_id=row.id,
            job_id=job_id,
            message=Message(
                "audit.custody",
                {"actor": actor.name, "job": job.number, "event": _event_text(row, before.unit)},
            ),
        )
        return _view(session, job)


def _refuse(before: CustodyView, job: Job, request: CustodyRequest) -> None:
    if request.kind in NEEDS_PLACE and not request.location:
        whom = "whom" if request.kind in ("returned", *OF_REPORTS) else "where"
        raise Invalid("custody.place-missing", whom=whom, field="location")
    if request.kind == "collected" and job.released_at is None:
        raise Conflict("custody.not-released", job=job.number)
    if request.kind in OF_REPORTS:
        return
    if request.until is not None and request.until < job.received_at:
        raise Invalid("custody.until-before-receipt", job=job.number, field="until")
    if not before.is_here:
        raise Conflict("custody.gone", job=job.number, reason=before.lines[0].text)
    if request.kind == "split" and request.amount is None:
        raise Invalid("custody.amount-missing", field="amount")
    if (
        request.amount is not None
        and before.remains is not None
        and request.amount > before.remains
    ):
        raise Invalid(
            "custody.amount-too-large",
            amount=request.amount,
            unit=before.unit,
            remaining=before.remains,
            field="amount",
        )


def _view(session: Session, job: Job) -> CustodyView:
    rows = session.scalars(
        select(CustodyEvent).where(CustodyEvent.job_id == job.id).order_by(CustodyEvent.id.desc())
    ).all()
    remains, unit = _remains(job, rows)
    ended = next((row for row in rows if row.kind in GONE), None)
    kept = next((row for row in rows if row.kind == "kept"), None)
    was_notified = any(row.kind == "told" for row in rows)
    until = kept.until if kept is not None and ended is None else None
    return CustodyView(
        code=f"{job.number}{REMAINDER_ENDING}",
        remains=remains,
        unit=unit,
        is_here=ended is None,
        location="" if ended is not None else (kept.location if kept else job.shelf or ""),
        kept_until=until,
        overdue=until is not None and until < clock.now(),
        tell=_to_tell(job, was_notified=was_notified),
        lines=[
            CustodyLine(
                kind=row.kind,
                text=_event_text(row, unit),
                until=row.until,
                at=row.at,
                by=row.by.name,
            )
            for row in rows
        ],
    )


def _to_tell(job: Job, *, was_notified: bool) -> str:
    """Who is to be notified of a failed report; empty once somebody was."""
    if was_notified or job.released_at is None or not job.reports:
        return ""
    if job.reports[-1].verdict != FAILED:
        return ""
    return worded(
        "custody-line.was-released-as-not-meeting-tell-and-the",
        number=job.number,
        client=job.client,
    )


def _remains(job: Job, rows: Sequence[CustodyEvent]) -> tuple[float | None, str]:
    """What is left after cutting, testing and splitting, as far as counting says."""
    split = sum(row.amount or 0.0 for row in rows if row.kind == "split")
    arrived = job.arrived or {}
    if job.form == "sheet":
        ends = [
            _end_mm(lies.y_mm, lies.long_side, piece_of(specimen, place).blank)
            for specimen, place in pieces_on(job)
            if (lies := lies_of(specimen, place)).y_mm is not None
        ]
        whole = job.length_mm or 0.0
        used = max(ends, default=0.0) if job.cut_at is not None else 0.0
        return max(round(whole - used - split, 1), 0.0), "mm"
    if job.form == "granules":
        return max(float(arrived.get("mass_g", 0)) - split, 0.0), "g"
    taken = sum(not each.spare or bool(each.runs) for test in job.tests for each in test.specimens)
    return max(float(arrived.get("count", 0)) - taken - split, 0.0), "pieces"


def _end_mm(middle_mm: float, long_side: str, blank: Blank) -> float:
    """Where a specimen ends along the roll."""
    along_mm = blank.long_mm if long_side == "warp" else blank.short_mm
    return middle_mm + along_mm / 2


def _event_text(row: CustodyEvent, unit: str) -> str:
    much = f", {in_numbers(row.amount)} {unit}" if row.amount is not None else ""
    until = f", until {row.until:%d %b %Y}" if row.until is not None else ""
    remark = f": {row.remark}" if row.remark else ""
    return f"{SAID[row.kind].format(location=row.location)}{much}{until}{remark}"
