"""Photographs of a specimen: added, described, chosen for the report, taken off again."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime

from pydantic import Field
from sqlalchemy import func, select
from sqlalchemy.orm import Session, undefer

from endurant.core.bench.state import collected
from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.methods.voids import observations_of
from endurant.core.refusals import Conflict, Invalid, NeedsReason, NotFound
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.equipment import Photo, PhotoUse
from endurant.store.tables import Specimen
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.bench_events import state_at_bench
from endurant.work.facts.status import (
    last_run,
    open_void,
    refuse_released,
    specimen_or_refuse,
)
from endurant.work.use_cases.photographs.encoding import Encoded

MAX_OF_A_SPECIMEN = 40


class PhotoView(View):
    """A photograph of a specimen, and what it shows."""

    id: int
    sha256: str
    shows: str
    subject: str | None
    in_report: bool
    width: int
    height: int
    at: datetime
    by: str


class PhotoRequest(RequestBody):
    """What a photograph shows, and whether the report shows it."""

    shows: str = Field("", max_length=200)
    subject: str | None = Field(None, max_length=80)
    in_report: bool
    reason: str = Field("", max_length=300)


def subjects_of(specimen_id: int) -> list[str]:
    """What of a specimen a photograph can show by itself: its looks or drops so far, its void.

    Raises NotFound.
    """
    with transaction() as session:
        return _subjects(session, specimen_or_refuse(session, specimen_id))


def _subjects(session: Session, specimen: Specimen) -> list[str]:
    state = state_at_bench(session, specimen)
    subjects = [
        f"{act.code} {number}{_at_count(item)}"
        for act in state.actions
        if act.collects
        for number, item in enumerate(collected(state, act), start=1)
    ]
    void = open_void(specimen)
    if void is not None:
        known = observations_of(find_method(specimen.test.method))
        subjects += [f"void: {each.title}" for each in known if each.code == void.code]
    return subjects


def _at_count(item: object) -> str:
    count = item.get("count") if isinstance(item, Mapping) else None
    return f" at {count}" if count is not None else ""


def _refuse_unknown(session: Session, specimen: Specimen, subject: str | None) -> None:
    if not subject:
        return
    known = _subjects(session, specimen)
    if subject not in known:
        raise Invalid(
            "photo.subject-unknown",
            subject=subject,
            label=specimen.label,
            known=", ".join(known) or "none yet",
            field="subject",
        )


def photos_of(specimen_id: int) -> list[PhotoView]:
    """The photographs of a specimen in their order. Raises NotFound."""
    with transaction() as session:
        specimen_or_refuse(session, specimen_id)
        return _views(session, specimen_id)


def add_photo(
    actor: Actor, specimen_id: int, encoded: Encoded, shows: str, subject: str = ""
) -> list[PhotoView]:
    """Keep a photograph with a specimen; the same one twice is kept once.

    Raises Conflict when the job was released, or the specimen has many already.
    """
    actor.must("test")
    with transaction() as session:
        specimen = specimen_or_refuse(session, specimen_id)
        refuse_released(session, specimen.test.job_id)
        _refuse_unknown(session, specimen, subject)
        kept = session.scalar(
            select(func.count()).where(
                PhotoUse.specimen_id == specimen_id, PhotoUse.removed_at.is_(None)
            )
        )
        if (kept or 0) >= MAX_OF_A_SPECIMEN:
            raise Conflict("photo.too-many", code=specimen.code, count=kept)
        if session.get(Photo, encoded.sha256) is None:
            session.add(
                Photo(
                    sha256=encoded.sha256,
                    jpeg=encoded.jpeg,
                    small=encoded.small,
                    width=encoded.width,
                    height=encoded.height,
                )
            )
            session.flush()
        use = session.scalar(
            select(PhotoUse).where(
                PhotoUse.specimen_id == specimen_id, PhotoUse.sha256 == encoded.sha256
            )
        )
        if use is None:
            use = PhotoUse(sha256=encoded.sha256, specimen_id=specimen_id, in_report=False)
            session.add(use)
        use.shows, use.at, use.by_id, use.removed_at = shows[:200], clock.now(), actor.id, None
        use.subject, use.small_sha256 = subject or None, encoded.small_sha256
        session.flush()
        _note(
            session, actor, use, specimen, "add-photo", Message("audit.add-photo", {"shows": shows})
        )
        return _views(session, specimen_id)


def change_photo(actor: Actor, photo_id: int, request: PhotoRequest) -> list[PhotoView]:
    """Other words, or another place. Raises NotFound, Conflict when the job was released."""
    actor.must("test")
    with transaction() as session:
        use = _use_or_refuse(session, photo_id)
        specimen = session.get_one(Specimen, use.specimen_id)
        refuse_released(session, specimen.test.job_id)
        if request.subject != use.subject:
            _refuse_unknown(session, specimen, request.subject)
        was = _in_words(use)
        less = use.in_report and (not request.in_report or request.shows != use.shows)
        _refuse_without_reason(specimen, request.reason if less else "-")
        use.shows, use.in_report, use.subject = request.shows, request.in_report, request.subject
        said = (was, _in_words(use)) if less else None
        code = "audit.photo-reported" if request.in_report else "audit.photo-kept-out"
        message = Message(code, {"shows": request.shows})
        _note(session, actor, use, specimen, "change-photo", message, said, request.reason)
        session.flush()
        return _views(session, use.specimen_id)


def remove_photo(actor: Actor, photo_id: int, reason: str = "") -> list[PhotoView]:
    """Take a photograph off a specimen; once that was tested, with a reason.

    Raises NotFound, Conflict when the job was released, NeedsReason.
    """
    actor.must("test")
    with transaction() as session:
        use = _use_or_refuse(session, photo_id)
        specimen = session.get_one(Specimen, use.specimen_id)
        refuse_released(session, specimen.test.job_id)
        _refuse_without_reason(specimen, reason)
        use.removed_at = clock.now()
        said = (_in_words(use), "removed")
        message = Message("audit.remove-photo")
        _note(session, actor, use, specimen, "remove-photo", message, said, reason)
        session.flush()
        return _views(session, use.specimen_id)


def photo_bytes(sha256: str, *, small: bool) -> bytes:
    """The JPEG of a photograph, whole or small. Raises NotFound."""
    column = Photo.small if small else Photo.jpeg
    with transaction() as session:
        photo = session.get(Photo, sha256, options=[undefer(column)])
        if photo is None:
            raise NotFound("photo.none")
        return photo.small if small else photo.jpeg


def reported_photos(session: Session, test_id: int) -> list[tuple[str, PhotoUse]]:
    """The photographs of a test that its report shows, each with the label of its specimen."""
    rows = session.execute(
        select(Specimen.label, PhotoUse)
        .join(Specimen, PhotoUse.specimen_id == Specimen.id)
        .where(Specimen.test_id == test_id, PhotoUse.in_report, PhotoUse.removed_at.is_(None))
        .order_by(Specimen.position, PhotoUse.id)
    )
    return [(label, use) for label, use in rows]


def _use_or_refuse(session: Session, photo_id: int) -> PhotoUse:
    use = session.get(PhotoUse, photo_id, with_for_update=True)
    if use is None or use.removed_at is not None:
        raise NotFound("photo.unknown", photo_id=photo_id)
    return use


def _refuse_without_reason(specimen: Specimen, reason: str) -> None:
    """Raises NeedsReason for less to be seen of a specimen that was tested, without a reason."""
    if last_run(specimen) is not None and not reason.strip():
        raise NeedsReason("photo.reason-needed", label=specimen.label)


def _in_words(use: PhotoUse) -> str:
    where = "in the report" if use.in_report else "not in the report"
    return f"{use.shows or 'a photograph'}, {where}"


def _note(
    session: Session,
    actor: Actor,
    use: PhotoUse,
    specimen: Specimen,
    action: str,
    message: Message,
    said: tuple[str, str] | None = None,
    why: str = "",
) -> None:
    facts = {"sha256": use.sha256, "in_report": use.in_report, "specimen": specimen.id}
    record(
        session,
        person_id=actor.id,
        action=action,
        entity="photo_use",
        entity_id=use.id,
        job_id=specimen.test.job_id,
        message=message.within("audit.of-specimen", actor=actor.name, label=specimen.label),
        after=facts if said is None else facts | {"was": said[0], "is": said[1]},
        why=why or None,
    )


def _views(session: Session, specimen_id: int) -> list[PhotoView]:
    rows = session.scalars(
        select(PhotoUse)
        .where(PhotoUse.specimen_id == specimen_id, PhotoUse.removed_at.is_(None))
        .order_by(PhotoUse.id)
    )
    return [
        PhotoView(
            id=row.id,
            sha256=row.sha256,
            shows=row.shows,
            subject=row.subject,
            in_report=row.in_report,
            width=row.photo.width,
            height=row.photo.height,
            at=row.at,
            by=row.by.name,
        )
        for row in rows
    ]
