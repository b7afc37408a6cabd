"""The sheet as a constraint model, solved by CP-SAT over boxes.

Every piece stands here as the box around its outline, widened by half the cut on each side,
and every area to avoid as boxes over it. Boxes that do not overlap keep every rule.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from math import ceil, floor
from typing import Any

from shapely import unary_union
from shapely.geometry import box
from shapely.geometry.base import BaseGeometry

from endurant.core.cutting.nesting import Stack, kind_of
from endurant.core.cutting.sheet import AvoidedArea, Box, Piece, Placement, Sheet

TENTH = 10
"""Lengths in the model are whole tenths of a millimetre."""
COLUMN_MM = 20.0
ROUND_CORNERS = 32
WORKERS = 2
LAST_COUNTS = 50


@dataclass(frozen=True)
class Boxed:
    """A sheet and its pieces as boxes: no cut between them, no clearance, margins taken in."""

    sheet: Sheet
    pieces: list[Piece]
    half_mm: float


def boxed(sheet: Sheet, pieces: Sequence[Piece], locked: Sequence[Placement]) -> Boxed:
    """Return the same task over boxes in mm; what keeps its rules keeps those of the task."""
    dies_only = all(
        piece.blank.die_cut for piece in (*pieces, *(member.piece for member in locked))
    )
    half = 0.0 if dies_only else sheet.kerf_mm / 2
    shapes = [
        area.polygon.buffer(sheet.clearance_mm - half, join_style="mitre") for area in sheet.avoided
    ]
    shapes += [
        box(*member.bounds()).buffer(half, join_style="mitre")
        if member.piece.blank.outline == "rectangle"
        else member.core.buffer(member.piece.radius_mm + half, quad_segs=ROUND_CORNERS)
        for member in locked
    ]
    taken = tuple(
        AvoidedArea("taken", ((left, near), (right, near), (right, far), (left, far)))
        for left, near, right, far in _boxes_over(shapes)
    )
    end = sheet.end_margin_mm - half
    plain = replace(sheet, end_margin_mm=end, kerf_mm=0, clearance_mm=0, avoided=taken)
    return Boxed(plain, [_boxed_piece(piece, sheet, half) for piece in pieces], half)


def _boxed_piece(piece: Piece, sheet: Sheet, half: float) -> Piece:
    blank = replace(
        piece.blank,
        outline="rectangle",
        long_mm=_up(piece.blank.long_mm + 2 * half) / TENTH,
        short_mm=_up(piece.blank.short_mm + 2 * half) / TENTH,
        selvedge_margin_mm=piece.margin_mm(sheet.width_mm) - half,
        selvedge_share=0,
    )
    return replace(piece, blank=blank)


def _boxes_over(shapes: Sequence[BaseGeometry]) -> Iterator[Box]:
    """Boxes of whole tenths, none over another, that cover the shapes, slanting ones by columns."""
    edges = [side for shape in shapes for side in shape.bounds[::2]]
    edges = sorted({_down(side) / TENTH for side in edges} | {_up(max(edges, default=0)) / TENTH})
    everything = unary_union(shapes)
    for start, end in pairwise(edges):
        count = 1 if all(_is_box(shape) for shape in shapes) else ceil((end - start) / COLUMN_MM)
        sides = [round(start + place * (end - start) / count, 1) for place in range(count + 1)]
        for left, right in pairwise(sides):
            _, bottom, _, top = everything.bounds
            part = everything.intersection(box(left, bottom, right, top))
            for near, far in _stretches(part):
                yield left, near, right, far


def _is_box(shape: BaseGeometry) -> bool:
    left, near, right, far = shape.bounds
    return bool(abs(shape.area - (right - left) * (far - near)) < 1e-6)


def _stretches(column: BaseGeometry) -> list[tuple[float, float]]:
    """What a column takes of the length, from the cut end; stretches that touch are one."""
    parts = [part for part in getattr(column, "geoms", [column]) if part.area > 0]
    stretches: list[tuple[float, float]] = []
    taken = sorted((_down(part.bounds[1]) / TENTH, _up(part.bounds[3]) / TENTH) for part in parts)
    for near, far in taken:
        if stretches and near <= stretches[-1][1]:
            stretches[-1] = (stretches[-1][0], max(stretches[-1][1], far))
        else:
            stretches.append((near, far))
    return stretches


def _up(length_mm: float) -> int:
    return ceil(length_mm * TENTH - 1e-6)


def _down(length_mm: float) -> int:
    return floor(length_mm * TENTH + 1e-6)


@dataclass
class _Lying:
    """A piece in the model: where its left and near edges may be."""

    piece: Piece
    x: Any
    y: Any
    across: int
    along: int


def solve(
    sheet: Sheet,
    begun: Sequence[Placement],
    locked: Sequence[Placement],
    limits: tuple[float, float],
    free: Collection[int] | None,
    *,
    together: bool = False,
) -> list[Placement] | None:
    """Boxes that end as soon as can be, or with `together` specimens of a test closer by.

    `sheet` and `found` are boxed; `found` is where the search begins, and gives the pieces.
    `limits`: where they end at the latest, in mm, and how long may be looked, in s. Only the
    pieces with a key in `free` move, all where it is None. None when nothing was found.
    """
    from ortools.sat.python import cp_model

    model = cp_model.CpModel()
    far_most = _down(limits[0])
    begun = sorted(
        begun, key=lambda member: (kind_of(member.piece), member.bounds()[1], member.x_mm)
    )
    held = [member for member in begun if free is not None and member.piece.key not in free]
    begun = [member for member in begun if free is None or member.piece.key in free]
    lying = [_variables(model, sheet, member.piece, far_most) for member in begun]
    if any(member is None for member in lying):
        return None
    members = [member for member in lying if member is not None]
    xs = [model.new_fixed_size_interval_var(member.x, member.across, "") for member in members]
    ys = [model.new_fixed_size_interval_var(member.y, member.along, "") for member in members]
    for area in sheet.avoided:
        left, near, right, far = area.polygon.bounds
        xs.append(_fixed(model, left, right))
        ys.append(_fixed(model, near, far))
    for left, near, right, far in (member.bounds() for member in held):
        xs.append(_fixed(model, left, right))
        ys.append(_fixed(model, near, far))
    model.add_no_overlap_2d(xs, ys)
    _stagger(model, members, [*locked, *held])
    _in_order(model, members)
    far_end = model.new_int_var(0, far_most, "far_end")
    for part in members:
        model.add(part.y + part.along <= far_end)
    if together:
        model.minimize(_spread(model, members, far_most, _up(sheet.width_mm)))
    else:
        # Every near edge counts a little, so that pieces settle where the last ones may follow.
        model.minimize(LAST_COUNTS * far_end + sum(member.y for member in members))
    for part, spot in zip(members, begun, strict=True):
        left, near, _, _ = spot.bounds()
        model.add_hint(part.x, _up(left))
        model.add_hint(part.y, _up(near))
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = limits[1]
    solver.parameters.num_workers = WORKERS
    if solver.solve(model) not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return None
    moved = [
        Placement(
            member.piece,
            (solver.value(member.x) + member.across / 2) / TENTH,
            (solver.value(member.y) + member.along / 2) / TENTH,
        )
        for member in members
    ]
    return [*moved, *held]


def _variables(model: Any, sheet: Sheet, piece: Piece, far_most: int) -> _Lying | None:
    """None when the piece has no room at all."""
    across, along = (_up(side) for side in piece.size_mm())
    margin = piece.margin_mm(sheet.width_mm)
    leftmost, rightmost = _up(margin), _down(sheet.width_mm - margin) - across
    nearest, farthest = _up(sheet.end_margin_mm), far_most - along
    if leftmost > rightmost or nearest > farthest:
        return None
    x = model.new_int_var(leftmost, rightmost, "x")
    y = model.new_int_var(nearest, farthest, "y")
    return _Lying(piece, x, y, across, along)


def _stagger(model: Any, lying: Sequence[_Lying], locked: Sequence[Placement]) -> None:
    """In a group that is staggered no two hold the same yarns, in a layer no two cross them."""
    groups: dict[str, list[_Lying]] = {}
    layers: dict[Stack, list[_Lying]] = {}
    for part in lying:
        if part.piece.blank.stagger != "none":
            groups.setdefault(part.piece.group, []).append(part)
            layers.setdefault(part.piece.stack, []).append(part)
    for name, members in groups.items():
        others = [member.bounds() for member in locked if member.piece.group == name]
        upright = members[0].piece.long_side == "warp"
        _no_shared(model, members, others, across=upright)
    for members in layers.values():
        first = members[0].piece
        if first.crosses_apart_from(first):
            others = [
                member.bounds() for member in locked if first.crosses_apart_from(member.piece)
            ]
            _no_shared(model, members, others, across=first.long_side != "warp")


def _no_shared(
    model: Any, members: Sequence[_Lying], others: Sequence[Box], *, across: bool
) -> None:
    """No two extents overlap, either across the roll or along it."""
    if across:
        bands = [model.new_fixed_size_interval_var(each.x, each.across, "") for each in members]
        bands += [_fixed(model, left, right) for left, _, right, _ in others]
    else:
        bands = [model.new_fixed_size_interval_var(each.y, each.along, "") for each in members]
        bands += [_fixed(model, near, far) for _, near, _, far in others]
    model.add_no_overlap(bands)


def _fixed(model: Any, start_mm: float, end_mm: float) -> Any:
    start = _down(start_mm)
    return model.new_fixed_size_interval_var(start, max(_up(end_mm) - start, 1), "")


def _in_order(model: Any, lying: Sequence[_Lying]) -> None:
    """Pieces that are alike come in the order of their near edges, which spares the solver work."""
    last: dict[Any, _Lying] = {}
    for member in lying:
        key = kind_of(member.piece)
        if key in last:
            model.add(last[key].y <= member.y)
        last[key] = member


def _spread(model: Any, lying: Sequence[_Lying], far_most: int, right_most: int) -> Any:
    """The half perimeters of the boxes around the specimens of each test, together."""
    tests: dict[str, list[_Lying]] = {}
    for member in lying:
        tests.setdefault(member.piece.test, []).append(member)
    total = 0
    for members in tests.values():
        left, right = (model.new_int_var(-TENTH, right_most + TENTH, "") for _ in range(2))
        near, far = (model.new_int_var(-TENTH, far_most, "") for _ in range(2))
        for member in members:
            model.add(left <= member.x)
            model.add(right >= member.x + member.across)
            model.add(near <= member.y)
            model.add(far >= member.y + member.along)
        total += right - left + far - near
    return total
