"""Sequences of moves that the laboratory keeps by name, each change a revision of its own."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field
from sqlalchemy import func, select
from sqlalchemy.exc import IntegrityError

from endurant.core.messages import Message
from endurant.core.moves import LONGEST_TEXT, path_of, read_moves, text_of
from endurant.core.refusals import Conflict, Invalid
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.tables import MoveSequence
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.views.bench.models import PathPointView


class SequenceView(View):
    """A sequence in its latest revision, as it is written and as the way that it takes."""

    name: str
    revision: int
    moves: str
    by: str
    at: datetime


class MovesRequest(RequestBody):
    """A text of moves, and the distance of the jaws that its percents count from."""

    moves: str = Field(max_length=LONGEST_TEXT)
    gauge_mm: float = Field(100.0, gt=0, le=5000)


class MovesRead(View):
    """Moves as they are understood, and the way that they take."""

    moves: str
    path: list[PathPointView]


class SequenceRequest(RequestBody):
    """A sequence to keep; `seen` is the revision that it goes on from, 0 for a new one."""

    name: str = Field(min_length=1, max_length=60)
    moves: str = Field(max_length=LONGEST_TEXT)
    seen: int = Field(0, ge=0)


def sequences() -> list[SequenceView]:
    """All sequences in their latest revision, by name."""
    with transaction() as session:
        latest = (
            select(MoveSequence.name, func.max(MoveSequence.revision).label("revision"))
            .group_by(MoveSequence.name)
            .subquery()
        )
        rows = session.scalars(
            select(MoveSequence)
            .join(
                latest,
                (MoveSequence.name == latest.c.name) & (MoveSequence.revision == latest.c.revision),
            )
            .order_by(MoveSequence.name)
        )
        return [_view(row) for row in rows]


def understand(request: MovesRequest) -> MovesRead:
    """How a text of moves is understood; raises Invalid that names the line."""
    moves = read_moves(request.moves)
    path = [PathPointView.model_validate(point) for point in path_of(moves, request.gauge_mm)]
    return MovesRead(moves=text_of(moves), path=path)


def keep_sequence(actor: Actor, request: SequenceRequest) -> SequenceView:
    """Keep a sequence as a new revision of its name.

    Raises Invalid for moves that cannot be read, Conflict when somebody was first.
    """
    actor.must("test")
    name = " ".join(request.name.split())
    if not name:
        raise Invalid("sequence.name-missing", field="name")
    moves = text_of(read_moves(request.moves))
    with transaction() as session:
        newest = session.scalar(
            select(MoveSequence)
            .where(MoveSequence.name == name)
            .order_by(MoveSequence.revision.desc())
            .limit(1)
        )
        number = newest.revision if newest else 0
        if number != request.seen:
            who = f"by {newest.by.name}" if newest else "never saved"
            raise Conflict(
                "sequence.stale", name=name, number=number, changed_by=who, seen=request.seen
            )
        row = MoveSequence(
            name=name, revision=number + 1, moves=moves, at=clock.now(), by_id=actor.id
        )
        session.add(row)
        try:
            session.flush()
        except IntegrityError as error:
            raise Conflict("sequence.changed", name=name) from error
        record(
            session,
            person_id=actor.id,
            action="keep-sequence",
            entity="move_sequence",
            entity_id=row.id,
            job_id=None,
            message=Message(
                "audit.keep-sequence", {"actor": actor.name, "name": name, "revision": row.revision}
            ),
            after={"moves": moves},
        )
        return _view(row)


def _view(row: MoveSequence) -> SequenceView:
    return SequenceView(
        name=row.name, revision=row.revision, moves=row.moves, by=row.by.name, at=row.at
    )
