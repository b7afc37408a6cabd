"""First fit in true shape: each kind of piece has a map of where its middle may lie.

The maps are grids of one step. A piece that is put down takes away, on the map of every kind,
the places where the two would come too near: the Minkowski sum of one outline and the other's
reflection, widened by the cut between them. What is left of a map keeps every rule, so the
first free place of it, nearest to the cut end, is a place where the piece may be cut.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from math import ceil, cos, floor, pi

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Point, Polygon
from shapely.geometry.base import BaseGeometry

from endurant.core.cutting.sheet import Piece, Placement, Sheet, kerf_between

MAX_CELLS = 40_000_000
FINEST_MM = 1.0
TOUCHES_MM = 1e-7
MAX_ARCS = 48
NO_AREA = 1e-9
"""Share of an area that is nothing: what a shape lacks to its hull where it is convex."""
STAMPS_KEPT = 160
"""Maps of pairs of outlines that are kept for the next sheet; one is 10 kB to 1 MB."""

Map = NDArray[np.bool_]
Corners = tuple[tuple[float, float], ...]
Stack = tuple[str, int]
KindKey = tuple[Stack, str]


def kind_of(piece: Piece) -> KindKey:
    """Return what alike pieces have in common: the layer of a group and the way they lie."""
    return piece.stack, piece.long_side


@dataclass(frozen=True)
class _Kind:
    """A kind of piece, its map's origin, and how many columns and rows the map has."""

    piece: Piece
    left_mm: float
    near_mm: float
    columns: int
    rows: int


@dataclass(frozen=True)
class _Spot:
    """Where the middle of a piece may lie, and the cell of its map."""

    x_mm: float
    y_mm: float
    cell: int


@dataclass(frozen=True)
class Wish:
    """Which kind comes first: the one whose near edge lies nearest to the cut end.

    A kind goes before by so many mm for its extents, for being of the test that came last, and
    by a leaning of its own.
    """

    along: float = 1.0
    across: float = 0.3
    same_test: float = 0.0
    leaning: Mapping[KindKey, float] = field(default_factory=dict)

    def rank(self, piece: Piece, spot: _Spot, last_test: str) -> float:
        """Return how late it is placed: the lower, the sooner."""
        across, along = piece.size_mm()
        near = spot.y_mm - along / 2
        rank = near - self.along * along - self.across * across
        rank -= self.same_test * (piece.test == last_test)
        return rank + self.leaning.get(kind_of(piece), 0.0)


@dataclass(frozen=True)
class Start:
    """A sheet on which some lie already: what is placed, the maps, and what is still to come."""

    placed: list[Placement]
    maps: dict[KindKey, Map]
    stock: dict[Stack, list[Piece]]


class Grid:
    """The maps of all kinds on one sheet of a length, before anything is placed."""

    def __init__(
        self,
        sheet: Sheet,
        length_mm: float,
        pieces: Iterable[Piece],
        locked: Sequence[Placement] = (),
    ) -> None:
        pieces = list(pieces)
        alike = {kind_of(piece): piece for piece in pieces}
        for piece in pieces:
            if piece.turnable and piece.blank.long_mm != piece.blank.short_mm:
                alike.setdefault(kind_of(piece.turned()), piece.turned())
        self._stock: dict[Stack, list[Piece]] = {}
        for piece in pieces:
            self._stock.setdefault(piece.stack, []).append(piece)
        cells = len(alike) * sheet.width_mm * length_mm
        self.step_mm = max(FINEST_MM, ceil((cells / MAX_CELLS) ** 0.5 * 10) / 10)
        self.sheet = sheet
        self.length_mm = length_mm
        self.locked = list(locked)
        self.kinds = {key: self._kind(piece) for key, piece in alike.items()}
        self._stamps: dict[tuple[KindKey, KindKey, float, float], tuple[int, int, Map]] = {}
        self._maps = {key: self._fresh(kind) for key, kind in self.kinds.items()}
        for placement in locked:
            self._take_away(self._maps, placement)

    def crop(self, length_mm: float) -> None:
        """Go on with a shorter sheet."""
        self.length_mm = length_mm
        self.kinds = {key: self._kind(kind.piece) for key, kind in self.kinds.items()}
        self._maps = {key: self._maps[key][: kind.rows] for key, kind in self.kinds.items()}

    def start_with(self, placed: Sequence[Placement]) -> Start:
        """Return the sheet with these placed first, so that the rest may be tried in many ways."""
        there = {placement.piece.key for placement in placed}
        stock = {
            group: [piece for piece in pieces if piece.key not in there]
            for group, pieces in self._stock.items()
        }
        maps = {key: placement.copy() for key, placement in self._maps.items() if stock[key[0]]}
        for laid in placed:
            self._take_away(maps, laid)
        return Start(list(placed), maps, stock)

    def fill(
        self, wish: Wish, *, all_or_none: bool = False, start: Start | None = None
    ) -> tuple[list[Placement], list[Piece]]:
        """Place what can be placed, always the kind that the wish ranks first.

        What finds no place comes back beside it; with `all_or_none` the rest is not tried then.
        What `start` placed comes first.
        """
        begun = start or Start([], self._maps, self._stock)
        maps = {key: placement.copy() for key, placement in begun.maps.items()}
        stock = {group: list(pieces) for group, pieces in begun.stock.items()}
        spots: dict[KindKey, _Spot] = {}
        placed = list(begun.placed)
        last = placed[-1].piece.test if placed else ""
        while maps:
            for key in list(maps):
                spot = self._first_free(key, maps[key], spots.get(key))
                if spot is None:
                    del maps[key]
                    if all_or_none and not any(other[0] == key[0] for other in maps):
                        return placed, stock[key[0]]
                else:
                    spots[key] = spot
            if not maps:
                break
            key = min(
                maps,
                key=lambda placement: wish.rank(
                    self.kinds[placement].piece, spots[placement], last
                ),
            )
            piece = stock[key[0]].pop(0)
            lying = piece if piece.long_side == key[1] else piece.turned()
            placement = Placement(lying, spots[key].x_mm, spots[key].y_mm)
            placed.append(placement)
            last = piece.test
            if not stock[key[0]]:
                maps = {other: free for other, free in maps.items() if other[0] != key[0]}
            self._take_away(maps, placement)
        return placed, [piece for pieces in stock.values() for piece in pieces]

    def _kind(self, piece: Piece) -> _Kind:
        across, along = piece.size_mm()
        margin = piece.margin_mm(self.sheet.width_mm)
        end = self.sheet.end_margin_mm
        wide = self.sheet.width_mm - 2 * margin - across
        long = self.length_mm - 2 * end - along
        return _Kind(
            piece,
            margin + across / 2,
            end + along / 2,
            max(floor(wide / self.step_mm + TOUCHES_MM) + 1, 0),
            max(floor(long / self.step_mm + TOUCHES_MM) + 1, 0),
        )

    def _fresh(self, kind: _Kind) -> Map:
        free = np.ones((kind.rows, kind.columns), dtype=bool)
        keep = self.sheet.clearance_mm + kind.piece.radius_mm
        for area in self.sheet.avoided:
            for part in _too_near(_convex_parts(area.polygon), _reflected(kind.piece), keep):
                _erase(free, np.asarray(part) - (kind.left_mm, kind.near_mm), self.step_mm)
        return free

    def _first_free(self, key: KindKey, free: Map, before: _Spot | None) -> _Spot | None:
        """The first free place, row by row; the search goes on from the one found before."""
        if free.size == 0:
            return None
        flat = free.reshape(-1)
        start = 0 if before is None else before.cell
        if flat[start]:
            cell = start
        else:
            cell = start + int(flat[start:].argmax())
            if not flat[cell]:
                return None
        row, column = divmod(cell, free.shape[1])
        kind = self.kinds[key]
        x_mm = kind.left_mm + column * self.step_mm
        y_mm = kind.near_mm + row * self.step_mm
        return _Spot(x_mm, y_mm, cell)

    def _take_away(self, maps: dict[KindKey, Map], placement: Placement) -> None:
        """Take away, on every map, the places that this placement forbids."""
        mine = placement.piece
        for key, free in maps.items():
            if free.size == 0:
                continue
            kind = self.kinds[key]
            self._stamp(free, kind, placement)
            if mine.group == kind.piece.group:
                self._stagger(free, kind, placement)

    def _stagger(self, free: Map, kind: _Kind, placement: Placement) -> None:
        """Yarns that the placement holds are not for others of its group."""
        if kind.piece.blank.stagger == "none":
            return
        crossing = placement.piece.crosses_apart_from(kind.piece)
        mine, other = placement.piece.size_mm(), kind.piece.size_mm()
        reach_x, reach_y = (mine[0] + other[0]) / 2, (mine[1] + other[1]) / 2
        upright = placement.piece.long_side == "warp"
        columns = self._between(placement.x_mm, reach_x, kind.left_mm, kind.columns)
        rows = self._between(placement.y_mm, reach_y, kind.near_mm, kind.rows)
        if upright or crossing:
            free[:, columns] = False
        if not upright or crossing:
            free[rows, :] = False

    def _between(self, middle: float, reach: float, origin: float, count: int) -> slice:
        """The cells strictly within `reach` of a middle."""
        first = floor((middle - reach - origin + TOUCHES_MM) / self.step_mm) + 1
        last = ceil((middle + reach - origin - TOUCHES_MM) / self.step_mm) - 1
        return slice(min(max(first, 0), count), max(min(last + 1, count), 0))

    def _stamp(self, free: Map, kind: _Kind, placement: Placement) -> None:
        """Take away the places of a kind that lie too near to a placement."""
        mine, other, step = placement.piece, kind.piece, self.step_mm
        column, beside = divmod(round((placement.x_mm - kind.left_mm) / step, 6), 1)
        row, along = divmod(round((placement.y_mm - kind.near_mm) / step, 6), 1)
        key = (kind_of(mine), kind_of(other), beside, along)
        if key not in self._stamps:
            keep = kerf_between(self.sheet, mine, other) + mine.radius_mm + other.radius_mm
            pair = (_core_corners(mine), _core_corners(other), keep)
            self._stamps[key] = _drawn(*pair, beside * step, along * step, step)
        first_row, first_column, allowed = self._stamps[key]
        top, left = int(row) + first_row, int(column) + first_column
        rows, columns = allowed.shape
        low, high = max(top, 0), min(top + rows, kind.rows)
        begin, end = max(left, 0), min(left + columns, kind.columns)
        if low < high and begin < end:
            free[low:high, begin:end] &= allowed[low - top : high - top, begin - left : end - left]


@lru_cache(maxsize=STAMPS_KEPT)
def _drawn(
    mine: Corners, other: Corners, keep_mm: float, x_mm: float, y_mm: float, step_mm: float
) -> tuple[int, int, Map]:
    """A small map that is false where another piece is too near, with its first row and column.

    Sheets of the same pieces are placed again and again; the map is shared and never written to.
    """
    parts = _forbidden(mine, other, keep_mm)
    corners = np.concatenate([np.asarray(part) for part in parts]) + np.asarray((x_mm, y_mm))
    left, near = np.floor(corners.min(axis=0) / step_mm).astype(int)
    right, far = np.ceil(corners.max(axis=0) / step_mm).astype(int)
    allowed = np.ones((far - near + 1, right - left + 1), dtype=bool)
    for part in parts:
        moved = np.asarray((x_mm - left * step_mm, y_mm - near * step_mm))
        _erase(allowed, np.asarray(part) + moved, step_mm)
    return int(near), int(left), allowed


def _erase(free: Map, corners: NDArray[np.float64], step_mm: float) -> None:
    """Take the cells strictly within a convex polygon off a map whose first cell is (0, 0)."""
    low, high = corners[:, 1].min(), corners[:, 1].max()
    first = max(floor((low + TOUCHES_MM) / step_mm) + 1, 0)
    last = min(ceil((high - TOUCHES_MM) / step_mm) - 1, free.shape[0] - 1)
    if last < first:
        return
    rows = np.arange(first, last + 1) * step_mm
    lefts, rights = np.full(rows.size, np.inf), np.full(rows.size, -np.inf)
    for (x0, y0), (x1, y1) in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        under, over = (y0, y1) if y0 <= y1 else (y1, y0)
        if over - under < TOUCHES_MM:
            continue
        crossed = slice(*np.searchsorted(rows, (under - TOUCHES_MM, over + TOUCHES_MM)))
        xs = x0 + (rows[crossed].clip(under, over) - y0) * ((x1 - x0) / (y1 - y0))
        lefts[crossed] = np.minimum(lefts[crossed], xs)
        rights[crossed] = np.maximum(rights[crossed], xs)
    upper = free.shape[1]
    begins = np.clip(np.floor((lefts + TOUCHES_MM) / step_mm) + 1, 0, upper).astype(int)
    ends = np.clip(np.ceil((rights - TOUCHES_MM) / step_mm), 0, upper).astype(int)
    for row, begin, end in zip(range(first, last + 1), begins, ends, strict=True):
        free[row, begin:end] = False


@lru_cache(maxsize=STAMPS_KEPT)
def _forbidden(mine: Corners, other: Corners, keep_mm: float) -> tuple[Corners, ...]:
    """Convex polygons of the offsets at which two outlines are too near."""
    return _too_near(_parts_of(mine), _parts_of(_through_middle(other)), keep_mm)


def _reflected(piece: Piece) -> tuple[Corners, ...]:
    """The convex parts of a piece as it lies, through its middle; the middle alone of a disc."""
    return _parts_of(_through_middle(_core_corners(piece)))


def _through_middle(corners: Corners) -> Corners:
    return tuple((-x, -y) for x, y in corners)


def _core_corners(piece: Piece) -> Corners:
    if piece.blank.outline == "disc":
        return ((0.0, 0.0),)
    return tuple(piece.outline())


@lru_cache(maxsize=512)
def _parts_of(corners: Corners) -> tuple[Corners, ...]:
    return (corners,) if len(corners) < 3 else _convex_parts(Polygon(corners))


def _convex_parts(polygon: Polygon) -> tuple[Corners, ...]:
    """A few convex polygons that make up a polygon together."""
    if _is_convex(polygon):
        return (_corners(polygon.convex_hull),)
    parts: list[BaseGeometry] = []
    for triangle in shapely.constrained_delaunay_triangles(polygon).geoms:
        for place, part in enumerate(parts):
            joined = shapely.union(part, triangle)
            if _is_convex(joined):
                parts[place] = joined.convex_hull
                break
        else:
            parts.append(triangle)
    return tuple(_corners(part) for part in parts)


def _is_convex(shape: BaseGeometry) -> bool:
    return bool(abs(shape.convex_hull.area - shape.area) <= NO_AREA * shape.area)


def _corners(polygon: BaseGeometry) -> Corners:
    exterior = polygon.exterior  # type: ignore[attr-defined]
    return tuple((float(x), float(y)) for x, y in exterior.coords[:-1])


def _too_near(
    mine: Sequence[Corners], other: Sequence[Corners], keep_mm: float
) -> tuple[Corners, ...]:
    """Convex polygons of offsets at which the two are nearer than `keep_mm`.

    Their union holds all such offsets; arcs are drawn as polygons around them, 0.1 mm too
    wide at most.
    """
    hulls = []
    for placement in mine:
        for two in other:
            sums = (np.asarray(placement)[:, None, :] + np.asarray(two)[None, :, :]).reshape(-1, 2)
            hull = shapely.MultiPoint(sums).convex_hull if len(sums) > 1 else Point(sums[0])
            if keep_mm > 0:
                quarter = min(max(round(keep_mm / 3), 4), MAX_ARCS)
                around = keep_mm / cos(pi / (4 * quarter))
                hull = hull.buffer(around, quad_segs=quarter)
                hull = _with_exact_sides(hull, np.asarray(sums), keep_mm)
            if isinstance(hull, Polygon):
                hulls.append(_corners(hull))
    return tuple(hulls)


def _with_exact_sides(widened: Polygon, sums: NDArray[np.float64], keep_mm: float) -> BaseGeometry:
    """Upright and level sides back to the distance itself, so that neighbours fit exactly."""
    left, near = sums.min(axis=0) - keep_mm
    right, far = sums.max(axis=0) + keep_mm
    exact: BaseGeometry = shapely.intersection(widened, shapely.box(left, near, right, far))
    return exact
