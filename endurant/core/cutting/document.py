"""The cutting document: a sheet and what is asked of it, in; where everything lies, out."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, model_validator

from endurant.core.bounds import refuse_what_is_not_finite
from endurant.core.complaints import complaint
from endurant.core.cutting.areas import marked_areas
from endurant.core.cutting.asking import PieceGroup, groups_of_method, is_turnable
from endurant.core.cutting.placing import Plan, place
from endurant.core.cutting.sheet import (
    AvoidedArea,
    LabelSchool,
    LongSide,
    Piece,
    Placement,
    Sheet,
    lies_along,
)
from endurant.core.fields import Name, Strict
from endurant.core.methods import find_method
from endurant.core.methods.guide import Blank, Stagger
from endurant.core.reading import read_model
from endurant.core.refusals import Invalid

Place = Annotated[float, Field(strict=True, allow_inf_nan=False, ge=-200_000, le=200_000)]
Point = tuple[Place, Place]
Margin = Annotated[float, Field(strict=True, allow_inf_nan=False, ge=0, le=10_000)]
Count = Annotated[int, Field(strict=True, ge=0, le=1000)]
Length = Annotated[float, Field(strict=True, allow_inf_nan=False, gt=0, le=100_000)]
Width = Annotated[float, Field(strict=True, allow_inf_nan=False, gt=0, le=10_000)]
Side = Annotated[float, Field(strict=True, allow_inf_nan=False, ge=1, le=10_000)]


def _as_apart(given: float) -> float:
    """Apart by nothing, or by what a knife and a rule can keep."""
    if 0 < given < 0.01:
        raise complaint("cutting.gap")
    return given


Apart = Annotated[
    float, Field(strict=True, allow_inf_nan=False, ge=0, le=1000), AfterValidator(_as_apart)
]
FABRIC_MARGIN_MM, FILM_MARGIN_MM = 50.0, 10.0


class AvoidRequest(Strict):
    """An area to avoid."""

    reason: Name = "marked"
    polygon: Annotated[list[Point], Field(max_length=500)]


class ShapeRequest(Strict):
    """The outline of a specimen; `points` from its middle, the long side along y."""

    kind: Literal["rectangle", "disc", "outline"]
    long_mm: Side | None = None
    short_mm: Side | None = None
    diameter_mm: Side | None = None
    points: Annotated[list[Point], Field(min_length=3, max_length=500)] | None = None

    @model_validator(mode="after")
    def _has_its_sizes(self) -> ShapeRequest:
        sizes = {"rectangle": ("long_mm", "short_mm"), "disc": ("diameter_mm",)}
        for name in sizes.get(self.kind, ("points",)):
            if getattr(self, name) is None:
                raise complaint("cutting.shape-size-missing", name=name, shape=self.kind)
        return self


class GroupRequest(Strict):
    """Specimens of one test whose long sides lie one way."""

    test: Name
    direction: Name | None = None
    count: Count
    spares: Count = 1
    selvedge_margin_mm: Margin | None = None
    stagger: Stagger | None = None
    die_cut: bool = False
    shape: ShapeRequest


class TestRequest(Strict):
    """A test of a known method: its specimens are those of its guide."""

    __test__ = False

    method: Name
    specimens_wanted: Annotated[int, Field(strict=True, ge=1, le=1000)] | None = None
    parameters: dict[str, Any] = {}


class LockedRequest(Strict):
    """A specimen that stays where it is."""

    test: Name
    direction: Name | None = None
    number: Annotated[int, Field(strict=True, ge=1)]
    x_mm: Place
    y_mm: Place
    long_side: LongSide | None = None


class CuttingRequest(Strict):
    """A sheet, areas to avoid, and what is to be cut; lengths in mm."""

    width_mm: Width
    length_mm: Length | None = None
    end_margin_mm: Margin = 50.0
    kerf_mm: Apart = 3.0
    clearance_mm: Apart = 5.0
    avoid: Annotated[list[AvoidRequest], Field(max_length=100)] = []
    groups: Annotated[list[GroupRequest], Field(max_length=100)] = []
    tests: Annotated[list[TestRequest], Field(max_length=40)] = []
    label_school: LabelSchool = "by-failing-yarn"
    locked: Annotated[list[LockedRequest], Field(max_length=400)] = []
    time_limit_s: Annotated[float, Field(strict=True, ge=0, le=60)] = 10.0


def cut_document(data: Any) -> dict[str, Any]:
    """Return the answer to a cutting document, lengths in mm.

    Raises Invalid that names the field.
    """
    if not isinstance(data, dict):
        raise Invalid("cutting.document-shape")
    request = read_model(CuttingRequest, data, "cutting")
    groups = [*map(_group, request.groups), *_of_tests(request)]
    if not groups:
        raise Invalid("cutting.no-groups", field="groups")
    _refuse_doubles(groups)
    sheet = requested_sheet(request)
    names: dict[int, tuple[PieceGroup, int]] = {}
    pieces: dict[int, Piece] = {}
    for group in groups:
        first = group.treated[0] if group.treated else 1
        for number, piece in enumerate(group.pieces(len(pieces) + 1), start=first):
            names[piece.key] = (group, number)
            pieces[piece.key] = piece
    locked = _locked(request.locked, names, pieces)
    fixed = {placement.piece.key for placement in locked}
    free = [piece for key, piece in pieces.items() if key not in fixed]
    plan = place(sheet, free, locked, request.time_limit_s)
    whole = answer(plan, [*plan.placements, *locked], names)
    whole |= {"tests_that_fit": tests_that_fit(sheet, free, locked, plan)}
    refuse_what_is_not_finite(whole, "cutting")
    return whole


def tests_that_fit(
    sheet: Sheet, pieces: Sequence[Piece], locked: Sequence[Placement], plan: Plan
) -> list[str]:
    """Return the tests whose specimens all lie on the sheet together, in the order requested."""
    tests = list(dict.fromkeys(piece.test for piece in pieces))
    if plan.fits:
        return tests
    fitting: list[str] = []
    for test in tests:
        some = [piece for piece in pieces if piece.test in (*fitting, test)]
        if place(sheet, some, locked).fits:
            fitting.append(test)
    return fitting


def requested_sheet(request: CuttingRequest) -> Sheet:
    """Return the sheet with its areas, in mm; raises Invalid for an area that is not valid."""
    avoided: list[AvoidedArea] = []
    for area in request.avoid:
        avoided += marked_areas(area.reason, area.polygon, request.width_mm, request.length_mm)
    return Sheet(
        request.width_mm,
        request.length_mm,
        request.end_margin_mm,
        request.kerf_mm,
        request.clearance_mm,
        tuple(avoided),
    )


def answer(
    plan: Plan, placements: Sequence[Placement], names: dict[int, tuple[PieceGroup, int]]
) -> dict[str, Any]:
    """Return a plan in the terms of the cutting document, lengths in mm."""
    result = sorted(placements, key=lambda placement: placement.piece.key)
    relaxed = plan.relaxation
    return {
        "fits": plan.fits,
        "length_needed_mm": plan.length_needed_mm,
        "length_bound_mm": round(plan.length_bound_mm, 1),
        "used_percent": round(plan.used_percent, 1),
        "placements": [_placement(placement, *names[placement.piece.key]) for placement in result],
        "unplaced": _unplaced(plan.unplaced, names),
        "relaxation": None
        if relaxed is None
        else {
            "rule": relaxed.rule,
            "needs_mm": relaxed.needs_mm,
            "spares_fewer": relaxed.spares_fewer or None,
            "words": relaxed.text,
        },
    }


def _placement(placement: Placement, group: PieceGroup, number: int) -> dict[str, Any]:
    return {
        "test": group.test,
        "direction": group.direction or None,
        "number": number,
        "spare": placement.piece.spare,
        "locked": placement.locked,
        "long_side": placement.piece.long_side,
        "x_mm": round(placement.x_mm, 4),
        "y_mm": round(placement.y_mm, 4),
        "outline": [[round(x, 4), round(y, 4)] for x, y in placement.outline()],
        "marks": [
            {"name": name, "points": [[round(x, 4), round(y, 4)] for x, y in points]}
            for name, points in placement.inner_marks()
        ],
    }


def _unplaced(
    unplaced: Sequence[Piece], names: dict[int, tuple[PieceGroup, int]]
) -> list[dict[str, Any]]:
    missing: dict[str, dict[str, Any]] = {}
    for piece in unplaced:
        group, _ = names[piece.key]
        row = missing.setdefault(
            piece.group,
            {"test": group.test, "direction": group.direction or None, "count": 0, "spares": 0},
        )
        row["spares" if piece.spare else "count"] += 1
    return list(missing.values())


def _group(request: GroupRequest) -> PieceGroup:
    direction = request.direction or ""
    side = lies_along(direction)
    fabric = direction in ("warp", "weft")
    margin = FABRIC_MARGIN_MM if fabric else FILM_MARGIN_MM
    stagger: Stagger = "lengthwise" if fabric else "none"
    shape = request.shape
    given = margin if request.selvedge_margin_mm is None else request.selvedge_margin_mm
    long, short = _size(request.test, shape)
    cut = Blank(
        outline={"rectangle": "rectangle", "disc": "disc", "outline": "die"}[shape.kind],  # type: ignore[arg-type]
        long_mm=long,
        short_mm=short,
        works_on="",
        points_mm=_middled(shape.points) if shape.points else (),
        selvedge_margin_mm=given,
        stagger=request.stagger or stagger,
        die_cut=request.die_cut,
    )
    turnable = is_turnable(cut, direction)
    return PieceGroup(
        request.test, direction, cut, side or "warp", request.count, request.spares, turnable
    )


def _size(test: str, shape: ShapeRequest) -> tuple[float, float]:
    if shape.kind == "disc":
        return shape.diameter_mm or 0, shape.diameter_mm or 0
    if shape.kind == "rectangle":
        return shape.long_mm or 0, shape.short_mm or 0
    points = shape.points or []
    xs, ys = [x for x, _ in points], [y for _, y in points]
    long, short = max(ys) - min(ys), max(xs) - min(xs)
    whole = max(long, short) + 1
    corners = [(x - min(xs), y - min(ys)) for x, y in points]
    marked_areas(f"outline of {test}", corners, whole, whole)
    return long, short


def _middled(points: Sequence[Point]) -> tuple[tuple[float, float], ...]:
    """The points from the middle of the box around them."""
    xs, ys = [x for x, _ in points], [y for _, y in points]
    middle_x, middle_y = (min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2
    return tuple((x - middle_x, y - middle_y) for x, y in points)


def _of_tests(request: CuttingRequest) -> list[PieceGroup]:
    return [
        group
        for test in request.tests
        for group in groups_of_method(
            find_method(test.method), test.specimens_wanted, request.label_school, test.parameters
        )
    ]


def _refuse_doubles(groups: Sequence[PieceGroup]) -> None:
    seen: set[tuple[str, str]] = set()
    for group in groups:
        if group.treated:
            continue
        name = (group.test, group.direction)
        if name in seen:
            text = " ".join(part for part in name if part)
            raise Invalid("cutting.group-twice", group=text, field="groups")
        seen.add(name)


def _locked(
    request: Sequence[LockedRequest],
    names: dict[int, tuple[PieceGroup, int]],
    pieces: dict[int, Piece],
) -> list[Placement]:
    keys = {(group.test, group.direction, number): key for key, (group, number) in names.items()}
    locked: dict[int, Placement] = {}
    for placement in request:
        key = keys.get((placement.test, placement.direction or "", placement.number))
        text = f"{placement.test} {placement.direction or ''} {placement.number}".replace("  ", " ")
        if key is None:
            raise Invalid("cutting.locked-unknown", piece=text, field="locked")
        if key in locked:
            raise Invalid("cutting.locked-twice", piece=text, field="locked")
        piece = pieces[key]
        if placement.long_side not in (None, piece.long_side):
            if not piece.turnable:
                raise Invalid(
                    "cutting.locked-turned",
                    piece=text,
                    long_side=piece.long_side,
                    field="long_side",
                )
            piece = piece.turned()
        locked[key] = Placement(piece, placement.x_mm, placement.y_mm, locked=True)
    return list(locked.values())
