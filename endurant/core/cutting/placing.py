"""Finding a place for every piece: first fit over the edges of what already lies there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from endurant.core.cutting.rules import TOUCH_MM, may_stand
from endurant.core.cutting.sheet import Piece, Placement, Sheet

LONGEST_MM = 100_000.0


@dataclass(frozen=True)
class Plan:
    """What was placed and what was not.

    `length_needed_mm` is the length that this way of placing needs for all pieces at the
    width given; None when no length helps, and then `width_needed_mm` says how wide.
    """

    placements: list[Placement]
    unplaced: list[Piece]
    length_needed_mm: float | None
    width_needed_mm: float | None

    def shortage(self, sheet: Sheet) -> str | None:
        """What is missing, in words; None when everything lies on the sheet."""
        if not self.unplaced:
            return None
        count = len(self.unplaced)
        what = f"{count} specimen{'s' if count != 1 else ''} cannot be placed"
        if self.length_needed_mm is not None:
            missing = self.length_needed_mm - sheet.length_mm
            return (
                f"{what}: the sample is {missing:.0f} mm too short. "
                f"It is {sheet.length_mm:.0f} mm long, {self.length_needed_mm:.0f} mm are needed "
                f"at a width of {sheet.width_mm:.0f} mm"
            )
        if self.width_needed_mm is None:
            return f"{what}: no length of sample helps, the marked areas leave no room"
        missing = self.width_needed_mm - sheet.width_mm
        if missing <= TOUCH_MM:
            return f"{what}: the marked areas leave too little of the width free"
        return (
            f"{what}: the sample is {missing:.0f} mm too narrow. It is {sheet.width_mm:.0f} mm "
            f"wide, {self.width_needed_mm:.0f} mm are needed with both selvedge margins"
        )


def place(sheet: Sheet, pieces: Sequence[Piece], locked: Sequence[Placement] = ()) -> Plan:
    """Place every piece that fits, in the order given, around those that are locked.

    Long pieces along the warp come first; within a group the order is kept, so that
    numbers run across the sheet.
    """
    placements, unplaced = _first_fit(sheet, pieces, locked)
    if not unplaced:
        return Plan(placements, [], _far_end(sheet, placements), None)
    longer, still_out = _first_fit(replace(sheet, length_mm=LONGEST_MM), pieces, locked)
    if still_out:
        return Plan(placements, unplaced, None, _width_needed(sheet, pieces))
    return Plan(placements, unplaced, _far_end(sheet, longer), None)


def _first_fit(
    sheet: Sheet, pieces: Sequence[Piece], locked: Sequence[Placement]
) -> tuple[list[Placement], list[Piece]]:
    """The better of two ways: rows across the sheet, or a staircase that wastes no width."""
    ways = [_fit(sheet, pieces, locked, staircase=way) for way in (False, True)]
    return min(ways, key=lambda found: (len(found[1]), _far_end(sheet, found[0])))


def _fit(
    sheet: Sheet, pieces: Sequence[Piece], locked: Sequence[Placement], *, staircase: bool
) -> tuple[list[Placement], list[Piece]]:
    placed = list(locked)
    unplaced = []
    for piece in sorted(pieces, key=lambda one: one.long_side != "warp"):
        found = _first_place(sheet, piece, placed, staircase)
        if found is None:
            unplaced.append(piece)
        else:
            placed.append(found)
    order = {piece.key: place for place, piece in enumerate(pieces)}
    fresh = [placement for placement in placed if placement.piece.key in order]
    return sorted(fresh, key=lambda one: order[one.piece.key]), unplaced


def _first_place(
    sheet: Sheet, piece: Piece, placed: Sequence[Placement], staircase: bool
) -> Placement | None:
    """The first place that breaks no rule: nearest to the cut end, for a staircase to the left."""
    across, along = piece.size_mm()
    margin = piece.cut.selvedge_margin_mm
    lefts, nears = {margin}, {sheet.end_margin_mm}
    for other in placed:
        left, near, right, far = other.bounds()
        lefts |= {right + sheet.kerf_mm, right, left - sheet.kerf_mm - across}
        nears |= {far + sheet.kerf_mm, far, near - sheet.kerf_mm - along}
    for area in sheet.avoided:
        left, near, right, far = area.polygon().bounds
        lefts |= {right + sheet.clearance_mm, left - sheet.clearance_mm - across}
        nears |= {far + sheet.clearance_mm, near - sheet.clearance_mm - along}
    rightmost = sheet.width_mm - margin - across
    farthest = sheet.length_mm - sheet.end_margin_mm - along
    places = [
        (left, near)
        for left in lefts
        if margin <= left <= rightmost + TOUCH_MM
        for near in nears
        if sheet.end_margin_mm <= near <= farthest + TOUCH_MM
    ]
    for left, near in sorted(places, key=lambda spot: spot if staircase else spot[::-1]):
        candidate = Placement(piece, left + across / 2, near + along / 2)
        if may_stand(sheet, candidate, placed):
            return candidate
    return None


def _far_end(sheet: Sheet, placements: Sequence[Placement]) -> float:
    ends = [placement.bounds()[3] for placement in placements]
    return max(ends, default=0.0) + sheet.end_margin_mm


def _width_needed(sheet: Sheet, pieces: Sequence[Piece]) -> float:
    """The least width at which a length can hold all: the widest piece, or a staggered row."""
    widest = max(piece.size_mm()[0] + 2 * piece.cut.selvedge_margin_mm for piece in pieces)
    rows: dict[str, list[Piece]] = {}
    for piece in pieces:
        if piece.cut.stagger != "none" and piece.long_side == "warp":
            rows.setdefault(piece.group, []).append(piece)
    for row in rows.values():
        held = sum(piece.size_mm()[0] for piece in row)
        widest = max(widest, held + 2 * row[0].cut.selvedge_margin_mm)
    return widest
