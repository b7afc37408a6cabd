"""A sample laid flat: its size, areas to avoid, and specimens placed on it.

Lengths in mm; x runs across the roll from the left selvedge, y along the roll from the
cut end. The long side of a specimen lies along the warp (y) or along the weft (x).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from math import pi
from typing import Any, Literal

from shapely.geometry import Point, Polygon, box
from shapely.geometry.base import BaseGeometry

from endurant.core.methods.guide import MOULDED_EDGE_MM, Blank

LongSide = Literal["warp", "weft"]
LabelSchool = Literal["by-failing-yarn", "by-long-side"]
Spot = tuple[float, float]
Box = tuple[float, float, float, float]

OTHER_YARN: dict[str, LongSide] = {"warp": "weft", "weft": "warp"}
ALONG_THE_ROLL = ("warp", "md", "length")
ACROSS_THE_ROLL = ("weft", "cd", "width")
POINTS_OF_DISC = 72


@dataclass(frozen=True)
class AvoidedArea:
    """An area that no specimen may touch, with the reason it was marked for."""

    reason: str
    corners: tuple[Spot, ...]

    @cached_property
    def polygon(self) -> Polygon:
        """Its outline."""
        return Polygon(self.corners)


@dataclass(frozen=True)
class Sheet:
    """The sample as it lies on the table; `length_mm` None while the least length is looked for.

    A `moulded` sheet has edges, where a roll has selvedges and a cut end.
    """

    width_mm: float
    length_mm: float | None
    end_margin_mm: float = 50
    kerf_mm: float = 3
    clearance_mm: float = 5
    avoided: tuple[AvoidedArea, ...] = ()
    moulded: bool = False

    @property
    def edges(self) -> tuple[str, str, str, str]:
        """What the left, right, near and far edges are called."""
        if self.moulded:
            return "left edge", "right edge", "near edge", "far edge"
        return "left selvedge", "right selvedge", "cut end", "far end"

    @classmethod
    def for_blanks(
        cls, blanks: Sequence[Blank], width_mm: float, length_mm: float | None, **rules: Any
    ) -> Sheet:
        """The sheet that these are cut from, with its usual margins where no rule is given."""
        moulded = bool(blanks) and all(blank.cut_from == "moulded-sheet" for blank in blanks)
        usual = {"end_margin_mm": MOULDED_EDGE_MM} if moulded else {}
        return cls(width_mm, length_mm, moulded=moulded, **(usual | rules))


@dataclass(frozen=True)
class Piece:
    """One specimen to be placed: which test and group it is of, and how it is cut.

    A group is one test in one direction; it is what staggering looks at. `turnable` pieces
    have no direction and may lie either way. Within a `layer` of a group, from 1 on, pieces
    share no crossing yarns either.
    """

    key: int
    label: str
    group: str
    blank: Blank
    long_side: LongSide
    test: str = ""
    spare: bool = False
    turnable: bool = False
    layer: int = 0

    @property
    def stack(self) -> tuple[str, int]:
        """What pieces that may be exchanged for one another have in common."""
        return self.group, self.layer

    def crosses_apart_from(self, other: Piece) -> bool:
        """The two may share no crossing yarns."""
        if self.group != other.group:
            return False
        return self.blank.stagger == "both" or 0 < self.layer == other.layer

    def size_mm(self) -> tuple[float, float]:
        """Extent across the roll and along it."""
        if self.long_side == "warp":
            return self.blank.short_mm, self.blank.long_mm
        return self.blank.long_mm, self.blank.short_mm

    def margin_mm(self, width_mm: float) -> float:
        """Return what is kept from either selvedge of a sheet this wide."""
        return max(self.blank.selvedge_margin_mm, self.blank.selvedge_share * width_mm)

    def turned(self) -> Piece:
        """Return the same piece lying the other way."""
        return replace(self, long_side=OTHER_YARN[self.long_side])

    def outline(self) -> list[Spot]:
        """Its outline from its middle, as it lies; a disc as a polygon of 72 corners."""
        blank = self.blank
        if blank.outline == "disc":
            ring = Point(0, 0).buffer(blank.long_mm / 2, quad_segs=POINTS_OF_DISC // 4)
            return [(float(x), float(y)) for x, y in ring.exterior.coords[:-1]]
        if blank.outline == "die":
            return [self.lying(point) for point in blank.points_mm]
        across, along = (side / 2 for side in self.size_mm())
        return [(-across, -along), (across, -along), (across, along), (-across, along)]

    def lying(self, point: Spot) -> Spot:
        """A point of the upright piece as it lies: turned, never mirrored, so the face stays up."""
        beside, along = point
        return (beside, along) if self.long_side == "warp" else (along, -beside)

    def area_mm2(self) -> float:
        """Area within the outline."""
        if self.blank.outline == "disc":
            return pi * self.blank.long_mm**2 / 4
        return float(Polygon(self.outline()).area)

    @property
    def radius_mm(self) -> float:
        """The radius of a disc; 0 for every other outline."""
        return self.blank.long_mm / 2 if self.blank.outline == "disc" else 0.0


@dataclass(frozen=True)
class Placement:
    """A piece with its centre on the sheet; one that is locked stays where it is."""

    piece: Piece
    x_mm: float
    y_mm: float
    locked: bool = False

    def bounds(self) -> Box:
        """Left, near, right, far."""
        across, along = self.piece.size_mm()
        return (
            self.x_mm - across / 2,
            self.y_mm - along / 2,
            self.x_mm + across / 2,
            self.y_mm + along / 2,
        )

    @cached_property
    def core(self) -> BaseGeometry:
        """Return what distances are taken from: a disc's middle, or the outline of any other piece.

        The distance of two pieces is that of their cores less both radii, which keeps discs
        exact.
        """
        if self.piece.radius_mm:
            return Point(self.x_mm, self.y_mm)
        if self.piece.blank.outline == "rectangle":
            return box(*self.bounds())
        return Polygon(self.outline())

    def outline(self) -> list[Spot]:
        """Its outline on the sheet."""
        return [(self.x_mm + x, self.y_mm + y) for x, y in self.piece.outline()]

    def polygon(self) -> Polygon:
        """Its outline on the sheet, as a shape; of a disc the polygon inside it."""
        return Polygon(self.outline())

    def inner_marks(self) -> list[tuple[str, list[Spot]]]:
        """Slit, end mark and the like, in sheet coordinates."""
        return [
            (mark.name, [self._on_sheet(point) for point in mark.points_mm])
            for mark in self.piece.blank.inner_marks
        ]

    def _on_sheet(self, point: Spot) -> Spot:
        x, y = self.piece.lying(point)
        return self.x_mm + x, self.y_mm + y


def kerf_between(sheet: Sheet, piece: Piece, other: Piece) -> float:
    """Return the cut between two pieces in mm; 0 where both are punched with a die."""
    return 0.0 if piece.blank.die_cut and other.blank.die_cut else sheet.kerf_mm


def lies_along(direction: str) -> LongSide | None:
    """Return which way a direction runs: warp for along the roll, None when it names no way."""
    first = direction.split("-", maxsplit=1)[0]
    if first in ALONG_THE_ROLL:
        return "warp"
    return "weft" if first in ACROSS_THE_ROLL else None


def long_side_for(direction: str, blank: Blank | None, school: LabelSchool) -> LongSide:
    """Return which way the long side lies for a specimen labelled with this direction.

    By the yarn that fails, a tear specimen labelled warp lies along the weft: a tear runs along the
    long side and breaks the yarns that cross it (ISO 13937).
    """
    own = lies_along(direction) or "warp"
    return (
        OTHER_YARN[own]
        if blank is not None and blank.fails_across and school == "by-failing-yarn"
        else own
    )


def worked_yarn(long_side: LongSide, blank: Blank) -> LongSide:
    """Return the yarns that the test works on: warp, or weft."""
    return OTHER_YARN[long_side] if blank.fails_across else long_side


def works_on(
    long_side: LongSide,
    blank: Blank,
    directions: Sequence[str] = ("warp", "weft"),
    direction: str = "",
) -> str:
    """In plain words, for the label: "tears warp yarns", "stretches along machine direction".

    `directions` are those of the method, which names the ways of its material; `direction` is
    that of the specimen, which may be a face. Without directions it is the length or the width of
    the specimen: a bar has no warp.
    """
    worked = worked_yarn(long_side, blank)
    yarns = way_in_words(worked, directions) if directions else OWN_SIDES[worked]
    return blank.works_on.format(yarns=yarns, face=FACE_NAMES.get(direction, "outer"))


def lies_in_words(piece: Piece, directions: Sequence[str]) -> str:
    """Return along what the long side lies: "warp", "machine direction", "length"."""
    if piece.blank.cut_from == "moulded-sheet":
        return OWN_SIDES[piece.long_side].removeprefix("its ")
    return way_in_words(piece.long_side, directions)


def way_in_words(side: LongSide, directions: Sequence[str]) -> str:
    """Return the name of this side of the sheet for a method with these directions."""
    ways = {
        lies_along(direction): direction.split("-")[0]
        for direction in directions
        if lies_along(direction)
    }
    return WAY_NAMES.get(ways.get(side, side), ways.get(side, side))


OWN_SIDES: dict[LongSide, str] = {"warp": "its length", "weft": "its width"}
FACE_NAMES = {"face-out": "outer", "face-in": "inner"}
WAY_NAMES = {"md": "machine direction", "cd": "cross direction"}
