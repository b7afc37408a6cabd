"""A sample laid flat: its size, areas to avoid, and specimens placed on it.

Lengths in mm; x runs across the roll from the left selvedge, y along the roll from the
cut end. The long side of a specimen lies along the warp (y) or along the weft (x).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from shapely.geometry import Polygon, box

from endurant.core.methods.method import Cut

LongSide = Literal["warp", "weft"]
LabelSchool = Literal["by-failing-yarn", "by-long-side"]

OTHER_YARN: dict[str, LongSide] = {"warp": "weft", "weft": "warp"}


@dataclass(frozen=True)
class AvoidedArea:
    """An area that no specimen may touch, with the reason it was marked for."""

    reason: str
    corners: tuple[tuple[float, float], ...]

    def polygon(self) -> Polygon:
        """Its outline."""
        return Polygon(self.corners)


@dataclass(frozen=True)
class Sheet:
    """The sample as it lies on the table."""

    width_mm: float
    length_mm: float
    end_margin_mm: float = 50
    kerf_mm: float = 3
    clearance_mm: float = 5
    avoided: tuple[AvoidedArea, ...] = ()


@dataclass(frozen=True)
class Piece:
    """One specimen to be placed: which test and group it is of, and how it is cut."""

    key: int
    label: str
    group: str
    cut: Cut
    long_side: LongSide

    def size_mm(self) -> tuple[float, float]:
        """Extent across the roll and along it."""
        if self.long_side == "warp":
            return self.cut.short_mm, self.cut.long_mm
        return self.cut.long_mm, self.cut.short_mm


@dataclass(frozen=True)
class Placement:
    """A piece with its centre on the sheet."""

    piece: Piece
    x_mm: float
    y_mm: float

    def bounds(self) -> tuple[float, float, float, float]:
        """Left, near, right, far."""
        across, along = self.piece.size_mm()
        return (
            self.x_mm - across / 2,
            self.y_mm - along / 2,
            self.x_mm + across / 2,
            self.y_mm + along / 2,
        )

    def polygon(self) -> Polygon:
        """Its outline on the sheet."""
        return box(*self.bounds())

    def inner_marks(self) -> list[tuple[str, list[tuple[float, float]]]]:
        """Slit, end mark and the like, in sheet coordinates."""
        return [
            (mark.name, [self._on_sheet(point) for point in mark.points_mm])
            for mark in self.piece.cut.inner_marks
        ]

    def _on_sheet(self, point: tuple[float, float]) -> tuple[float, float]:
        beside, along = point
        if self.piece.long_side == "warp":
            return self.x_mm + beside, self.y_mm + along
        return self.x_mm + along, self.y_mm + beside


def long_side_for(direction: str, cut: Cut | None, school: LabelSchool) -> LongSide:
    """Which way the long side lies for a specimen labelled with this direction.

    By the yarn that fails, a tear specimen labelled warp lies along the weft, because a
    tear runs along the long side and breaks the yarns that cross it.
    """
    own: LongSide = "warp" if direction == "warp" else "weft"
    return (
        OTHER_YARN[own]
        if cut is not None and cut.fails_across and school == "by-failing-yarn"
        else own
    )


def worked_yarn(long_side: LongSide, cut: Cut) -> LongSide:
    """The yarns that the test works on."""
    return OTHER_YARN[long_side] if cut.fails_across else long_side


def works_on(long_side: LongSide, cut: Cut) -> str:
    """In plain words, for the label: "tears warp yarns"."""
    return cut.works_on.format(yarns=worked_yarn(long_side, cut))
