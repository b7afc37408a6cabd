"""The rules of the cutting table, each broken one said in words and drawn where it breaks."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations
from math import hypot
from typing import Literal

from shapely.geometry import box
from shapely.geometry.base import BaseGeometry

from endurant.core.cutting.sheet import Placement, Sheet

RuleCode = Literal[
    "off-sheet", "selvedge", "cut-end", "avoided-area", "overlap", "kerf", "shared-yarns"
]
Box = tuple[float, float, float, float]

TOUCH_MM = 1e-6
"""Lengths closer than this are the same at the cutting table."""


@dataclass(frozen=True)
class BrokenRule:
    """A rule that one or two pieces break: in words, and the box in mm where it breaks."""

    code: RuleCode
    sentence: str
    pieces: tuple[int, ...]
    where: Box


def broken_rules(sheet: Sheet, placements: Sequence[Placement]) -> list[BrokenRule]:
    """Every rule that the placements break; an empty list is a sheet that may be cut."""
    found: list[BrokenRule] = []
    for placement in placements:
        found += rules_broken_alone(sheet, placement)
    for one, other in combinations(placements, 2):
        found += rules_broken_together(sheet, one, other)
    return found


def may_stand(sheet: Sheet, placement: Placement, others: Iterable[Placement]) -> bool:
    """No rule is broken by this placement alone or beside the others."""
    if any(True for _ in _edges_crossed(sheet, placement)):
        return False
    if any(rules_broken_together(sheet, placement, other) for other in others):
        return False
    return not _areas_touched(sheet, placement)


def rules_broken_alone(sheet: Sheet, placement: Placement) -> list[BrokenRule]:
    """Edges, margins and areas to avoid."""
    return [*_edges_crossed(sheet, placement), *_areas_touched(sheet, placement)]


def _edges_crossed(sheet: Sheet, placement: Placement) -> list[BrokenRule]:
    left, near, right, far = placement.bounds()
    piece = placement.piece
    margin = piece.cut.selvedge_margin_mm
    outside = max(-left, -near, right - sheet.width_mm, far - sheet.length_mm)
    if outside > TOUCH_MM:
        sentence = f"{piece.label} hangs {outside:.0f} mm over the edge of the sheet"
        return [BrokenRule("off-sheet", sentence, (piece.key,), (left, near, right, far))]
    found = []
    for side, distance, strip in (
        ("left selvedge", left, (0.0, near, margin, far)),
        (
            "right selvedge",
            sheet.width_mm - right,
            (sheet.width_mm - margin, near, sheet.width_mm, far),
        ),
    ):
        if distance < margin - TOUCH_MM:
            found.append(
                BrokenRule(
                    "selvedge",
                    f"{piece.label} is {distance:.0f} mm from the {side}; "
                    f"{margin:g} mm are to be kept",
                    (piece.key,),
                    _shared(strip, placement),
                )
            )
    end = sheet.end_margin_mm
    for side, distance, strip in (
        ("cut end", near, (left, 0.0, right, end)),
        ("far end", sheet.length_mm - far, (left, sheet.length_mm - end, right, sheet.length_mm)),
    ):
        if distance < end - TOUCH_MM:
            found.append(
                BrokenRule(
                    "cut-end",
                    f"{piece.label} is {distance:.0f} mm from the {side}; "
                    f"{end:g} mm are to be kept",
                    (piece.key,),
                    _shared(strip, placement),
                )
            )
    return found


def _areas_touched(sheet: Sheet, placement: Placement) -> list[BrokenRule]:
    found = []
    outline = placement.polygon()
    for area in sheet.avoided:
        marked = area.polygon()
        if outline.distance(marked) >= sheet.clearance_mm - TOUCH_MM:
            continue
        touched = outline.intersection(marked.buffer(sheet.clearance_mm, join_style="mitre"))
        how = "lies on" if outline.intersects(marked) else "is too near"
        found.append(
            BrokenRule(
                "avoided-area",
                f"{placement.piece.label} {how} the {area.reason}; "
                f"{sheet.clearance_mm:g} mm are to be kept clear of it",
                (placement.piece.key,),
                _bounds(touched, placement),
            )
        )
    return found


def rules_broken_together(sheet: Sheet, one: Placement, other: Placement) -> list[BrokenRule]:
    """Overlap, the cut between neighbours, and yarns that both would hold."""
    keys = (one.piece.key, other.piece.key)
    names = f"{one.piece.label} and {other.piece.label}"
    a, b = one.bounds(), other.bounds()
    gap_x = max(a[0], b[0]) - min(a[2], b[2])
    gap_y = max(a[1], b[1]) - min(a[3], b[3])
    found = []
    if gap_x < -TOUCH_MM and gap_y < -TOUCH_MM:
        overlap = (max(a[0], b[0]), max(a[1], b[1]), min(a[2], b[2]), min(a[3], b[3]))
        found.append(BrokenRule("overlap", f"{names} overlap", keys, overlap))
    elif _distance(gap_x, gap_y) < sheet.kerf_mm - TOUCH_MM:
        between = _distance(gap_x, gap_y)
        found.append(
            BrokenRule(
                "kerf",
                f"{names} are {between:.1f} mm apart; the cut between them takes "
                f"{sheet.kerf_mm:g} mm",
                keys,
                _hull(a, b, gap_x, gap_y),
            )
        )
    if one.piece.group == other.piece.group:
        found += _shared_yarns(one, other, gap_x, gap_y, names)
    return found


def _shared_yarns(
    one: Placement, other: Placement, gap_x: float, gap_y: float, names: str
) -> list[BrokenRule]:
    """The stagger rule: specimens of one test and direction hold different yarns lengthwise."""
    stagger = one.piece.cut.stagger
    along_warp = one.piece.long_side == "warp"
    lengthwise, crossing = (gap_x, gap_y) if along_warp else (gap_y, gap_x)
    held = one.piece.long_side
    crossed = "weft" if along_warp else "warp"
    a, b = one.bounds(), other.bounds()
    keys = (one.piece.key, other.piece.key)
    found = []
    if stagger in ("lengthwise", "both") and lengthwise < -TOUCH_MM:
        found.append(
            BrokenRule(
                "shared-yarns",
                f"{names} hold the same {held} yarns over {-lengthwise:.0f} mm; "
                "each specimen stands on yarns of its own",
                keys,
                _strip(a, b, upright=along_warp),
            )
        )
    if stagger == "both" and crossing < -TOUCH_MM:
        found.append(
            BrokenRule(
                "shared-yarns",
                f"{names} share crossing {crossed} yarns over {-crossing:.0f} mm",
                keys,
                _strip(a, b, upright=not along_warp),
            )
        )
    return found


def _distance(gap_x: float, gap_y: float) -> float:
    return hypot(max(gap_x, 0.0), max(gap_y, 0.0))


def _strip(a: Box, b: Box, *, upright: bool) -> Box:
    """The band of yarns that two pieces share, from one to the other."""
    if upright:
        return max(a[0], b[0]), min(a[1], b[1]), min(a[2], b[2]), max(a[3], b[3])
    return min(a[0], b[0]), max(a[1], b[1]), max(a[2], b[2]), min(a[3], b[3])


def _hull(a: Box, b: Box, gap_x: float, gap_y: float) -> Box:
    """The narrow box between two neighbours."""
    xs = sorted((max(a[0], b[0]), min(a[2], b[2])))
    ys = sorted((max(a[1], b[1]), min(a[3], b[3])))
    return xs[0], ys[0], xs[1], ys[1]


def _shared(strip: Box, placement: Placement) -> Box:
    return _bounds(box(*strip).intersection(placement.polygon()), placement)


def _bounds(shape: BaseGeometry, placement: Placement) -> Box:
    if shape.is_empty:
        return placement.bounds()
    left, near, right, far = shape.bounds
    return left, near, right, far
