"""The sheet of a job: placing, moving by hand, marking areas, and cutting."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import astuple
from typing import Annotated, Any

from pydantic import Field
from sqlalchemy.orm import Session

from endurant.core.cutting.apart import place_apart
from endurant.core.cutting.areas import marked_areas
from endurant.core.cutting.document import tests_that_fit
from endurant.core.cutting.placing import Plan, place
from endurant.core.cutting.rules import broken_rules
from endurant.core.cutting.sheet import LongSide, Placement
from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.refusals import Conflict, Invalid
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.tables import Job, Specimen
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.facts.status import (
    is_cut,
    job_or_refuse,
    refuse_gone,
    refuse_released,
    refuse_stale,
    test_or_refuse,
)
from endurant.work.use_cases.receiving.receiving import add_replacement
from endurant.work.views.sheet_drawing import (
    RULES,
    BrokenRuleView,
    Lies,
    SheetView,
    broken_view,
    cut_from_cloth,
    lay_down,
    left_to_cut,
    lie_in_cloth,
    lies_of,
    piece_of,
    pieces_of,
    pieces_on,
    place_of_id,
    placements_of,
    rules_of,
    sheet_id,
    sheet_of,
    sheet_view,
)

MAX_AREAS = 40
DEFAULT_SECONDS = 4.0

Millimetres = Annotated[float, Field(allow_inf_nan=False, ge=-100_000, le=200_000)]


class AreaRequest(RequestBody):
    """An area to avoid: a box, a band or any polygon, by its corners."""

    reason: str = Field(min_length=1, max_length=60)
    corners: list[tuple[Millimetres, Millimetres]] = Field(max_length=200)


class LaidRequest(RequestBody):
    """A piece put down with its centre here, or taken off the sheet (without a place).

    `specimen_id` is the id that it has on the sheet: that of its specimen, where it is in one
    piece.
    """

    specimen_id: int
    x_mm: Millimetres | None
    y_mm: Millimetres | None
    long_side: LongSide | None = None
    locked: bool = False


class PlaceRequest(RequestBody):
    """How long to look, and the rules of this sheet where they are not the usual ones."""

    seconds: float = Field(DEFAULT_SECONDS, ge=0, le=30, allow_inf_nan=False)
    end_margin_mm: float | None = Field(None, ge=0, le=1000, allow_inf_nan=False)
    kerf_mm: float | None = Field(None, ge=0, le=100, allow_inf_nan=False)
    clearance_mm: float | None = Field(None, ge=0, le=500, allow_inf_nan=False)


def sheet(job_id: int) -> SheetView:
    """The sheet of a job as it lies now."""
    with transaction() as session:
        return sheet_view(job_or_refuse(session, job_id))


def place_all(
    actor: Actor, job_id: int, revision: int, request: PlaceRequest | None = None
) -> SheetView:
    """Place every specimen anew around those that are locked.

    Those that do not fit stay off, and the view says which rule stands in the way. The search
    runs outside the transaction; Conflict when the sheet was changed meanwhile.
    """
    actor.must("cut")
    request = request or PlaceRequest()
    with transaction() as session:
        job = _uncut(session, job_id, revision)
        rules = rules_of(job) | {
            name: value for name in RULES if (value := getattr(request, name)) is not None
        }
        on_sheet = sheet_of(job, rules)
        locked = fixed_on(job)
        fixed = {specimen.piece.key for specimen in locked}
        pieces = [piece_of(*piece) for piece in pieces_on(job) if sheet_id(*piece) not in fixed]
    plan = place_apart(on_sheet, pieces, locked, request.seconds)
    fitting = tests_that_fit(on_sheet, pieces, locked, plan)
    with transaction() as session:
        job = _uncut(session, job_id, revision)
        before = _layout(job)
        spots = {placement.piece.key: placement for placement in plan.placements}
        for specimen, which in pieces_on(job):
            key = sheet_id(specimen, which)
            if key not in fixed:
                _put(specimen, which, spots.get(key))
                _mark_laid(job, specimen)
        job.sheet = rules | {
            "shortage": _shortage(job, plan, fitting),
            "length_needed_mm": plan.length_needed_mm,
            "length_bound_mm": plan.length_bound_mm,
            "used_percent": plan.used_percent,
        }
        _note(session, actor, job, "place", {}, before, _layout(job))
        return sheet_view(job)


def fixed_on(job: Job) -> list[Placement]:
    """What stays where it lies: what was cut, and what is locked."""
    free = {specimen.id for specimen in left_to_cut(job)}
    return [
        placement
        for placement in placements_of(job)
        if placement.locked or place_of_id(placement.piece.key)[0] not in free
    ]


def _mark_laid(job: Job, specimen: Specimen) -> None:
    """Once the rest is cut, what is laid down after it is only laid, and not cut."""
    if job.cut_at is not None:
        for each in cut_from_cloth(specimen) or [specimen]:
            each.laid_later = each.x_mm is not None


def _put(specimen: Specimen, place: int, spot: Placement | None) -> None:
    """Lay one piece of a specimen where it was placed, or nowhere."""
    if spot is None:
        lies = Lies(None, None, lies_of(specimen, place).long_side, locked=False)
    else:
        lies = Lies(spot.x_mm, spot.y_mm, spot.piece.long_side, spot.locked)
    lay_down(specimen, place, lies)


def _shortage(job: Job, plan: Plan, fitting: Sequence[str]) -> str | None:
    """What stands in the way, and which tests fit on the sheet as it is; None when all do."""
    if plan.relaxation is None:
        return None
    titles = [find_method(test.method).title for test in job.tests if str(test.id) in fitting]
    if not any(is_cut(test) and str(test.id) not in fitting for test in job.tests):
        return plan.relaxation.text
    fit = "No test fits as a whole" if not titles else f"These fit: {', '.join(titles)}"
    return f"{plan.relaxation.text}. {fit}"


def lay(actor: Actor, job_id: int, request: Sequence[LaidRequest], revision: int) -> SheetView:
    """Put specimens down by hand, turn or lock them, even where a rule breaks: the view says so.

    All of them or none. Raises Invalid for one of another job, or turned against its direction.
    """
    actor.must("cut")
    with transaction() as session:
        job = _uncut(session, job_id, revision)
        own = {sheet_id(*piece): piece for piece in pieces_on(job)}
        free = {specimen.id for specimen in left_to_cut(job)}
        before = _layout(job)
        for member in request:
            if member.specimen_id not in own:
                raise Invalid(
                    "sheet.specimen-of-other-job",
                    specimen_id=member.specimen_id,
                    job=job.number,
                    field="specimen_id",
                )
            specimen, place = own[member.specimen_id]
            if specimen.id not in free:
                raise Conflict("sheet.specimen-cut", label=specimen.label)
            _lay_one(specimen, place, member)
            _mark_laid(job, specimen)
        after = _layout(job)
        changed = [piece_of(*own[key]).label for key in own if before[str(key)] != after[str(key)]]
        _note(session, actor, job, "lay", {"labels": changed or "nothing"}, before, after)
        return sheet_view(job)


def _lay_one(specimen: Specimen, place: int, request: LaidRequest) -> None:
    piece = piece_of(specimen, place)
    if request.long_side not in (None, piece.long_side) and not piece.turnable:
        raise Invalid(
            "sheet.direction-fixed", label=piece.label, long_side=piece.long_side, field="long_side"
        )
    if (request.x_mm is None) != (request.y_mm is None):
        raise Invalid("sheet.position-incomplete", label=piece.label, field="x_mm")
    lies = Lies(
        None if request.x_mm is None else round(request.x_mm, 1),
        None if request.y_mm is None else round(request.y_mm, 1),
        request.long_side or piece.long_side,
        locked=request.locked and request.x_mm is not None,
    )
    lay_down(specimen, place, lies)


def check_move(job_id: int, request: LaidRequest) -> list[BrokenRuleView]:
    """The rules that would be broken with the specimen here; nothing is stored."""
    with transaction() as session:
        job = job_or_refuse(session, job_id)
        placements = placements_of(job)
        if request.x_mm is not None and request.y_mm is not None:
            moved = (request.x_mm, request.y_mm)
            placements = [
                Placement(placement.piece, *moved)
                if placement.piece.key == request.specimen_id
                else placement
                for placement in placements
            ]
        return [broken_view(rule) for rule in broken_rules(sheet_of(job), placements)]


def _layout(job: Job) -> dict[str, Any]:
    """Where everything lies, for the record."""
    return {str(sheet_id(*piece)): list(astuple(lies_of(*piece))) for piece in pieces_on(job)}


def mark_areas(actor: Actor, job_id: int, areas: Sequence[AreaRequest], revision: int) -> SheetView:
    """Replace the areas to avoid. Raises Invalid for one that is empty or off the sheet."""
    actor.must("cut")
    if len(areas) > MAX_AREAS:
        raise Invalid("sheet.too-many-areas", count=len(areas), max=MAX_AREAS, field="areas")
    with transaction() as session:
        job = _uncut(session, job_id, revision)
        before = job.avoided
        job.avoided = [outlines for area in areas for outlines in _areas(job, area)]
        _note(
            session,
            actor,
            job,
            "mark-areas",
            {"count": len(areas)},
            {"avoided": before},
            {"avoided": job.avoided},
        )
        return sheet_view(job)


def confirm_cut(actor: Actor, job_id: int, revision: int) -> SheetView:
    """The specimens were cut as they lie. Raises Conflict while a rule is broken."""
    actor.must("cut")
    with transaction() as session:
        job = _uncut(session, job_id, revision)
        unplaced = [
            piece_of(*piece).label for piece in pieces_on(job) if lies_of(*piece).x_mm is None
        ]
        if unplaced:
            raise Conflict("sheet.specimens-unplaced", specimens=list(unplaced))
        broken = broken_rules(sheet_of(job), placements_of(job))
        if broken:
            raise Conflict("sheet.rule-broken", rule=broken[0].sentence)
        cut = left_to_cut(job)
        for specimen in cut:
            specimen.laid_later = None
        job.cut_at = job.cut_at or clock.now()
        _note(session, actor, job, "cut", {"count": len(cut)})
        return sheet_view(job)


def cut_replacement(actor: Actor, test_id: int, direction: str) -> SheetView:
    """One more spare from what is left of the sheet, for a void that has no spare left.

    Raises Conflict when none is needed or no room is left.
    """
    actor.must("cut")
    with transaction() as session:
        test = test_or_refuse(session, test_id)
        job = refuse_released(session, test.job_id)
        refuse_gone(session, job)
        specimen = add_replacement(test, direction)
        session.flush()
        lie_in_cloth(specimen)
        pieces = [piece_of(specimen, number) for number in range(pieces_of(specimen))]
        plan = place(sheet_of(job), pieces, placements_of(job))
        if plan.unplaced:
            raise Conflict("sheet.no-room", direction=direction)
        for spot in plan.placements:
            _put(specimen, place_of_id(spot.piece.key)[1], spot)
        _note(session, actor, job, "cut-replacement", {"label": specimen.label})
        return sheet_view(job)


def _areas(job: Job, area: AreaRequest) -> list[dict[str, Any]]:
    marked = marked_areas(area.reason, area.corners, job.width_mm or 0, job.length_mm or 0)
    return [
        {
            "reason": specimen.reason,
            "corners": [[round(x, 1), round(y, 1)] for x, y in specimen.corners],
        }
        for specimen in marked
    ]


def _uncut(session: Session, job_id: int, revision: int) -> Job:
    job = refuse_released(session, job_id)
    refuse_gone(session, job)
    refuse_stale(f"the sheet of {job.number}", job.revision, revision)
    if job.cut_at is not None and not left_to_cut(job):
        raise Conflict("sheet.already-cut", job=job.number, cut_at=job.cut_at)
    return job


def _note(
    session: Session,
    actor: Actor,
    job: Job,
    action: str,
    about: Mapping[str, Any],
    before: dict[str, Any] | None = None,
    after: dict[str, Any] | None = None,
) -> None:
    """Store the change with its entry; the job's revision moves on so that others notice."""
    job.revision += 1
    session.flush()
    record(
        session,
        person_id=actor.id,
        action=action,
        entity="job",
        entity_id=job.id,
        job_id=job.id,
        message=Message(f"audit.{action}", {"actor": actor.name, **about}),
        before=before,
        after=after,
    )
