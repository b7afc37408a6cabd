"""The sheet of a job: placing, moving by hand, marking areas, and cutting."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime
from typing import Annotated, Any

from pydantic import Field
from sqlalchemy.orm import Session

from endurant.core.cutting.areas import marked_areas
from endurant.core.cutting.asking import is_turnable
from endurant.core.cutting.placing import place
from endurant.core.cutting.rules import BrokenRule, broken_rules
from endurant.core.cutting.sheet import AvoidedArea, LongSide, Piece, Placement, Sheet, way_in_words
from endurant.core.methods import find_method
from endurant.core.refusals import Conflict, Invalid
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.engine import transaction
from endurant.store.tables import Job, Specimen
from endurant.work.jobs import Asked, add_specimen
from endurant.work.people import Actor
from endurant.work.results import label_words
from endurant.work.states import (
    is_cut,
    job_or_refuse,
    last_run,
    missing_replacements,
    refuse_released,
    refuse_stale,
    test_or_refuse,
)
from endurant.work.views import View

MOST_AREAS = 40
DEFAULT_SECONDS = 4.0
RULES = ("end_margin_mm", "kerf_mm", "clearance_mm")

Millimetres = Annotated[float, Field(allow_inf_nan=False, ge=-100_000, le=200_000)]


class AreaAsked(Asked):
    """An area to avoid: a box, a band or any polygon, by its corners."""

    reason: str = Field(min_length=1, max_length=60)
    corners: list[tuple[Millimetres, Millimetres]] = Field(max_length=200)


class LaidAsked(Asked):
    """A specimen put down with its centre here, or taken off the sheet (without a place)."""

    specimen_id: int
    x_mm: Millimetres | None
    y_mm: Millimetres | None
    long_side: LongSide | None = None
    locked: bool = False


class PlaceAsked(Asked):
    """How long to look, and the rules of this sheet where they are not the usual ones."""

    seconds: float = Field(DEFAULT_SECONDS, ge=0, le=30, allow_inf_nan=False)
    end_margin_mm: float | None = Field(None, ge=0, le=1000, allow_inf_nan=False)
    kerf_mm: float | None = Field(None, ge=0, le=100, allow_inf_nan=False)
    clearance_mm: float | None = Field(None, ge=0, le=500, allow_inf_nan=False)


class PointView(View):
    """A point of the sheet, in mm."""

    x: float
    y: float


class BoxView(View):
    """A box of the sheet, in mm."""

    left: float
    near: float
    right: float
    far: float


class AreaView(View):
    """An area to avoid, as it was marked."""

    reason: str
    corners: list[PointView]


class InnerMarkView(View):
    """A slit, an end mark or the like, where it lies on the sheet."""

    name: str
    points: list[PointView]


class BrokenRuleView(View):
    """See core.cutting.rules.BrokenRule; `specimens` are ids."""

    code: str
    sentence: str
    specimens: list[int]
    where: BoxView


class PlacedSpecimen(View):
    """A specimen on the sheet, or waiting beside it when it has no place."""

    id: int
    test_id: int
    test: str
    label: str
    code: str
    direction: str
    long_side: str
    works_on: str
    spare: bool
    across_mm: float
    along_mm: float
    x_mm: float | None
    y_mm: float | None
    outline: list[PointView]
    inner_marks: list[InnerMarkView]
    locked: bool
    turnable: bool
    disc: bool
    lies: str
    hot_knife: bool
    selvedge_margin_mm: float
    cut: bool


class SheetView(View):
    """The sheet with everything that is drawn and said about it."""

    job_id: int
    job_number: str
    product: str
    width_mm: float
    length_mm: float
    end_margin_mm: float
    kerf_mm: float
    clearance_mm: float
    avoided: list[AreaView]
    specimens: list[PlacedSpecimen]
    broken: list[BrokenRuleView]
    shortage: str | None
    length_needed_mm: float | None
    length_bound_mm: float | None
    used_percent: float | None
    cut_at: datetime | None
    replacements: dict[int, dict[str, int]]
    released: bool
    revision: int


def sheet(job_id: int) -> SheetView:
    """The sheet of a job as it lies now."""
    with transaction() as session:
        return _view(job_or_refuse(session, job_id))


def place_all(
    actor: Actor, job_id: int, revision: int, asked: PlaceAsked | None = None
) -> SheetView:
    """Place every specimen anew around those that are locked.

    Those that do not fit stay off, and the view says which rule stands in the way. The search
    runs outside the transaction; Conflict when the sheet was changed meanwhile.
    """
    actor.must("cut")
    asked = asked or PlaceAsked()
    with transaction() as session:
        job = _uncut(session, job_id, revision)
        rules = _rules_of(job) | {
            name: value for name in RULES if (value := getattr(asked, name)) is not None
        }
        on_sheet = sheet_of(job, rules)
        locked = [one for one in placements_of(job) if one.locked]
        fixed = {one.piece.key for one in locked}
        pieces = [_piece(one) for one in _specimens(job) if one.id not in fixed]
    plan = place(on_sheet, pieces, locked, asked.seconds)
    with transaction() as session:
        job = _uncut(session, job_id, revision)
        before = _layout(job)
        spots = {one.piece.key: one for one in plan.placements}
        for specimen in _specimens(job):
            if specimen.id in fixed:
                continue
            spot = spots.get(specimen.id)
            specimen.x_mm, specimen.y_mm = (spot.x_mm, spot.y_mm) if spot else (None, None)
            specimen.long_side = spot.piece.long_side if spot else specimen.long_side
        job.sheet = rules | {
            "shortage": plan.relaxation.words if plan.relaxation else None,
            "length_needed_mm": plan.length_needed_mm,
            "length_bound_mm": plan.length_bound_mm,
            "used_percent": plan.used_percent,
        }
        words = "placed the specimens on the sheet"
        _note(session, actor, job, "place", words, before, _layout(job))
        return _view(job)


def lay(actor: Actor, job_id: int, asked: Sequence[LaidAsked], revision: int) -> SheetView:
    """Put specimens down by hand, turn or lock them, even where a rule breaks: the view says so.

    All of them or none. Raises Invalid for one of another job, or turned against its direction.
    """
    actor.must("cut")
    with transaction() as session:
        job = _uncut(session, job_id, revision)
        own = {one.id: one for one in _specimens(job)}
        before = _layout(job)
        for one in asked:
            specimen = own.get(one.specimen_id)
            if specimen is None:
                raise Invalid(
                    f"specimen {one.specimen_id} is not one of {job.number}", field="specimen_id"
                )
            _lay_one(specimen, one)
        after = _layout(job)
        changed = [own[key].label for key in own if before[str(key)] != after[str(key)]]
        words = f"laid {', '.join(changed) or 'nothing'} by hand on the sheet"[:300]
        _note(session, actor, job, "lay", words, before, after)
        return _view(job)


def _lay_one(specimen: Specimen, asked: LaidAsked) -> None:
    piece = _piece(specimen)
    if asked.long_side not in (None, piece.long_side) and not piece.turnable:
        raise Invalid(
            f"{specimen.label} lies along the {piece.long_side}, because its direction asks for "
            "it; only a specimen without a direction is turned",
            field="long_side",
        )
    if (asked.x_mm is None) != (asked.y_mm is None):
        raise Invalid(f"{specimen.label} has one of x_mm and y_mm; expected both", field="x_mm")
    specimen.x_mm = None if asked.x_mm is None else round(asked.x_mm, 1)
    specimen.y_mm = None if asked.y_mm is None else round(asked.y_mm, 1)
    specimen.long_side = asked.long_side or specimen.long_side
    specimen.locked = asked.locked and asked.x_mm is not None


def check_move(job_id: int, asked: LaidAsked) -> list[BrokenRuleView]:
    """The rules that would be broken with the specimen here; nothing is stored."""
    with transaction() as session:
        job = job_or_refuse(session, job_id)
        placements = placements_of(job)
        if asked.x_mm is not None and asked.y_mm is not None:
            moved = (asked.x_mm, asked.y_mm)
            placements = [
                Placement(one.piece, *moved) if one.piece.key == asked.specimen_id else one
                for one in placements
            ]
        return [_broken_view(rule) for rule in broken_rules(sheet_of(job), placements)]


def _layout(job: Job) -> dict[str, Any]:
    """Where everything lies, for the record."""
    return {str(one.id): [one.x_mm, one.y_mm, one.long_side, one.locked] for one in _specimens(job)}


def mark_areas(actor: Actor, job_id: int, areas: Sequence[AreaAsked], revision: int) -> SheetView:
    """Replace the areas to avoid. Raises Invalid for one that is empty or off the sheet."""
    actor.must("cut")
    if len(areas) > MOST_AREAS:
        raise Invalid(
            f"{len(areas)} areas are marked; {MOST_AREAS} at most are kept", field="areas"
        )
    with transaction() as session:
        job = _uncut(session, job_id, revision)
        before = job.avoided
        job.avoided = [found for area in areas for found in _areas(job, area)]
        _note(
            session,
            actor,
            job,
            "mark-areas",
            f"marked {len(areas)} area{'s' if len(areas) != 1 else ''} to avoid on the sheet",
            {"avoided": before},
            {"avoided": job.avoided},
        )
        return _view(job)


def confirm_cut(actor: Actor, job_id: int, revision: int) -> SheetView:
    """The specimens were cut as they lie. Raises Conflict while a rule is broken."""
    actor.must("cut")
    with transaction() as session:
        job = _uncut(session, job_id, revision)
        unplaced = [one.label for one in _specimens(job) if one.x_mm is None]
        if unplaced:
            raise Conflict(f"{', '.join(unplaced)} lie nowhere yet; place them before cutting")
        broken = broken_rules(sheet_of(job), placements_of(job))
        if broken:
            raise Conflict(f"the sheet may not be cut like this: {broken[0].sentence}")
        job.cut_at = clock.now()
        _note(session, actor, job, "cut", f"cut {len(_specimens(job))} specimens")
        return _view(job)


def cut_replacement(actor: Actor, test_id: int, direction: str) -> SheetView:
    """One more spare from what is left of the sheet, for a void that has no spare left.

    Raises Conflict when none is needed or no room is left.
    """
    actor.must("cut")
    with transaction() as session:
        test = test_or_refuse(session, test_id)
        job = refuse_released(session, test.job_id)
        if missing_replacements(test).get(direction, 0) == 0:
            raise Conflict(f"no replacement is needed in the {direction}")
        members = [one for one in test.specimens if one.direction == direction]
        specimen = add_specimen(
            test,
            direction,
            number=len(members) + 1,
            spare=True,
            test_place=job.tests.index(test) + 1,
        )
        session.flush()
        plan = place(sheet_of(job), [_piece(specimen)], placements_of(job))
        if plan.unplaced:
            raise Conflict(
                f"there is no room left on the sheet for one more specimen in the {direction}; "
                "ask for more of the sample"
            )
        spot = plan.placements[0]
        specimen.x_mm, specimen.y_mm = spot.x_mm, spot.y_mm
        specimen.long_side = spot.piece.long_side
        _note(
            session, actor, job, "cut-replacement", f"cut {specimen.label} as a further replacement"
        )
        return _view(job)


def sheet_of(job: Job, rules: dict[str, float] | None = None) -> Sheet:
    """The sheet as the core knows it."""
    avoided = tuple(
        AvoidedArea(area["reason"], tuple((x, y) for x, y in area["corners"]))
        for area in job.avoided
    )
    return Sheet(job.width_mm, job.length_mm, avoided=avoided, **(rules or _rules_of(job)))


def _rules_of(job: Job) -> dict[str, float]:
    """The rules of this sheet where they are not the usual ones."""
    told = job.sheet or {}
    return {name: told[name] for name in RULES if name in told}


def placements_of(job: Job) -> list[Placement]:
    """The specimens that have a place."""
    return [
        Placement(_piece(one), one.x_mm, one.y_mm, one.locked)
        for one in _specimens(job)
        if one.x_mm is not None and one.y_mm is not None
    ]


def _specimens(job: Job) -> list[Specimen]:
    return [one for test in job.tests if is_cut(test) for one in test.specimens]


def _piece(specimen: Specimen) -> Piece:
    side: LongSide = "warp" if specimen.long_side == "warp" else "weft"
    cut = find_method(specimen.test.method).guide.cut
    if cut is None:
        raise Invalid(f"{specimen.label} is not cut from a sheet", field="specimen")
    return Piece(
        key=specimen.id,
        label=specimen.label,
        group=f"{specimen.test_id}/{specimen.direction}",
        cut=cut,
        long_side=side,
        test=str(specimen.test_id),
        spare=specimen.spare,
        turnable=is_turnable(cut, specimen.direction),
    )


def _areas(job: Job, area: AreaAsked) -> list[dict[str, Any]]:
    found = marked_areas(area.reason, area.corners, job.width_mm, job.length_mm)
    return [
        {"reason": one.reason, "corners": [[round(x, 1), round(y, 1)] for x, y in one.corners]}
        for one in found
    ]


def _uncut(session: Session, job_id: int, revision: int) -> Job:
    job = refuse_released(session, job_id)
    refuse_stale(f"the sheet of {job.number}", job.revision, revision)
    if job.cut_at is not None:
        raise Conflict(
            f"the specimens of {job.number} were cut on {job.cut_at:%d %b at %H:%M} UTC; "
            "what is cut stays where it lay"
        )
    return job


def _note(
    session: Session,
    actor: Actor,
    job: Job,
    action: str,
    words: str,
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
        words=f"{actor.name} {words}",
        before=before,
        after=after,
    )


def _view(job: Job) -> SheetView:
    core_sheet = sheet_of(job)
    placements = placements_of(job)
    specimens = _specimens(job)
    told = job.sheet or {}
    by_key = {one.piece.key: one for one in placements}
    return SheetView(
        job_id=job.id,
        job_number=job.number,
        product=job.product,
        width_mm=job.width_mm,
        length_mm=job.length_mm,
        end_margin_mm=core_sheet.end_margin_mm,
        kerf_mm=core_sheet.kerf_mm,
        clearance_mm=core_sheet.clearance_mm,
        avoided=[
            AreaView(reason=area["reason"], corners=_points(area["corners"]))
            for area in job.avoided
        ],
        specimens=[_placed_view(one, by_key.get(one.id)) for one in specimens],
        broken=[_broken_view(rule) for rule in broken_rules(core_sheet, placements)],
        shortage=told.get("shortage"),
        length_needed_mm=told.get("length_needed_mm"),
        length_bound_mm=told.get("length_bound_mm"),
        used_percent=told.get("used_percent"),
        cut_at=job.cut_at,
        replacements={
            test.id: missing for test in job.tests if (missing := missing_replacements(test))
        },
        released=job.released_at is not None,
        revision=job.revision,
    )


def _placed_view(specimen: Specimen, placement: Placement | None) -> PlacedSpecimen:
    piece = _piece(specimen)
    across, along = piece.size_mm()
    lying = placement or Placement(piece, across / 2, along / 2)
    return PlacedSpecimen(
        id=specimen.id,
        test_id=specimen.test_id,
        test=find_method(specimen.test.method).title,
        label=specimen.label,
        code=specimen.code,
        direction=specimen.direction,
        long_side=specimen.long_side,
        works_on=label_words(specimen),
        spare=specimen.spare,
        across_mm=across,
        along_mm=along,
        x_mm=specimen.x_mm,
        y_mm=specimen.y_mm,
        outline=_points(lying.outline()),
        locked=specimen.locked,
        turnable=piece.turnable,
        disc=piece.cut.outline == "disc",
        lies=way_in_words(piece.long_side, find_method(specimen.test.method).directions),
        hot_knife=piece.cut.hot_knife,
        inner_marks=[
            InnerMarkView(name=name, points=_points(points)) for name, points in lying.inner_marks()
        ],
        selvedge_margin_mm=piece.margin_mm(specimen.test.job.width_mm),
        cut=last_run(specimen) is not None or specimen.test.job.cut_at is not None,
    )


def _points(points: Iterable[Sequence[float]]) -> list[PointView]:
    return [PointView(x=x, y=y) for x, y in points]


def _broken_view(rule: BrokenRule) -> BrokenRuleView:
    left, near, right, far = rule.where
    return BrokenRuleView(
        code=rule.code,
        sentence=rule.sentence,
        specimens=list(rule.pieces),
        where=BoxView(left=left, near=near, right=right, far=far),
    )
