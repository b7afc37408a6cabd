"""Files of other programs: what was taken for what, before anything is brought in."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from pydantic import Field
from sqlalchemy import func, select

from endurant.core.csv_trace import BY_NAME, headers_of
from endurant.core.messages import Message
from endurant.core.refusals import Conflict, Invalid, NotFound
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.equipment import ColumnMapping
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.use_cases.bench.uploads import keep_upload


class MatchedFile(View):
    """A file, or a part of one, and the specimen that it was taken for."""

    name: str
    label: str | None
    text: str
    samples: int | None
    highest: float | None


class PreviewView(View):
    """Files that were kept, and what each was taken for; they are imported by `upload_id`."""

    upload_id: int
    matched: list[MatchedFile]
    said: list[str]


class HeadersView(View):
    """The headers of a file, each with the column that it looks like, and the columns there are."""

    headers: list[str]
    taken: list[str | None]
    columns: list[str]


class MappingView(View):
    """What the headers of another program mean, by a name."""

    name: str
    revision: int
    columns: dict[str, str]
    by: str
    at: datetime


class MappingRequest(RequestBody):
    """A mapping to keep; `seen` is the revision that it goes on from, 0 for a new one."""

    name: str = Field(min_length=1, max_length=60)
    columns: dict[str, str] = Field(min_length=1, max_length=20)
    seen: int = Field(0, ge=0)


def preview(
    actor: Actor,
    test_id: int,
    files: Sequence[tuple[str, bytes]],
    specimens_by: str | None,
    mapped: dict[str, str],
) -> PreviewView:
    """Keep files and match them with the specimens of a test; nothing is imported yet.

    Raises Invalid that names the file, NotFound.
    """
    kept = keep_upload(actor, test_id, files, specimens_by, mapped)
    return PreviewView(
        upload_id=kept.id,
        matched=[
            MatchedFile(
                name=matched.name, label=matched.label, text=matched.text, **_at_a_glance(entry)
            )
            for entry, matched in zip(kept.entries, kept.matches, strict=True)
        ],
        said=kept.said,
    )


def _at_a_glance(entry: dict[str, Any]) -> dict[str, Any]:
    """How many samples a trace has, and its highest force or pressure."""
    trace = entry.get("trace")
    if not isinstance(trace, dict):
        return {"samples": None, "highest": None}
    tall = trace.get("force_n") or trace.get("pressure_kpa") or []
    return {"samples": len(next(iter(trace.values()), [])), "highest": max(tall, default=None)}


def headers(name: str, data: bytes) -> HeadersView:
    """The headers of a file, for whoever says what they mean. Raises Invalid."""
    try:
        found, taken = headers_of(data)
    except Invalid as refusal:
        raise refusal.within("file.in", file=name) from refusal
    return HeadersView(headers=found, taken=taken, columns=list(BY_NAME))


def mappings() -> list[MappingView]:
    """The mappings that the laboratory keeps, each in its latest revision, by name."""
    with transaction() as session:
        latest = select(func.max(ColumnMapping.id)).group_by(ColumnMapping.name)
        rows = session.scalars(
            select(ColumnMapping).where(ColumnMapping.id.in_(latest)).order_by(ColumnMapping.name)
        )
        return [_view(row) for row in rows]


def mapping_or_refuse(name: str) -> dict[str, str]:
    """The columns of a mapping in its latest revision; raises NotFound."""
    for each in mappings():
        if each.name == name:
            return each.columns
    raise NotFound("import.mapping-unknown", name=name)


def keep_mapping(actor: Actor, request: MappingRequest) -> MappingView:
    """Keep a mapping as a new revision of its name.

    Raises Invalid for a column that is none, Conflict when someone was first.
    """
    actor.must("test")
    for header, column in request.columns.items():
        if column not in BY_NAME:
            raise Invalid(
                "import.column-unknown",
                header=header,
                column=column,
                known=list(BY_NAME),
                field="columns",
            )
    with transaction() as session:
        latest = session.scalar(
            select(func.max(ColumnMapping.revision)).where(ColumnMapping.name == request.name)
        )
        if (latest or 0) != request.seen:
            raise Conflict("import.mapping-stale", mapping=request.name, revision=latest or 0)
        row = ColumnMapping(
            name=request.name,
            revision=request.seen + 1,
            columns=dict(request.columns),
            at=clock.now(),
            by_id=actor.id,
        )
        session.add(row)
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="keep-mapping",
            entity="column_mapping",
            entity_id=row.id,
            message=Message(
                "audit.keep-mapping",
                {"actor": actor.name, "name": request.name, "revision": row.revision},
            ),
        )
        return _view(row)


def _view(row: ColumnMapping) -> MappingView:
    return MappingView(
        name=row.name, revision=row.revision, columns=row.columns, by=row.by.name, at=row.at
    )
