"""The rules of the cutting table, each broken one said in words and drawn where it breaks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from math import hypot, inf
from typing import Literal

from shapely.geometry import box
from shapely.geometry.base import BaseGeometry

from endurant.core.cutting.sheet import Box, Placement, Sheet, kerf_between
from endurant.core.messages import worded

RuleCode = Literal[
    "off-sheet", "selvedge", "cut-end", "avoided-area", "overlap", "kerf", "shared-yarns"
]

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
    """Return every rule that the placements break; none means that the sheet may be cut."""
    broken: list[BrokenRule] = []
    for placement in placements:
        broken += rules_broken_alone(sheet, placement)
    for piece, other in combinations(placements, 2):
        broken += rules_broken_together(sheet, piece, other)
    return broken


def rules_broken_alone(sheet: Sheet, placement: Placement) -> list[BrokenRule]:
    """Return the rules that one placement breaks by itself: edges, margins and areas to avoid."""
    return [*_edges_crossed(sheet, placement), *_areas_affected(sheet, placement)]


def _edges_crossed(sheet: Sheet, placement: Placement) -> list[BrokenRule]:
    left, near, right, far = placement.bounds()
    piece = placement.piece
    margin = piece.margin_mm(sheet.width_mm)
    length = inf if sheet.length_mm is None else sheet.length_mm
    outside = max(-left, -near, right - sheet.width_mm, far - length)
    if outside > TOUCH_MM:
        sentence = worded(
            "cutting-rule.is-mm-over-the-edge-of-the-sheet", label=piece.label, outside=outside
        )
        return [BrokenRule("off-sheet", sentence, (piece.key,), (left, near, right, far))]
    edges_crossed = []
    left_edge, right_edge, near_end, far_end = sheet.edges
    for side, distance, strip in (
        (left_edge, left, (0.0, near, margin, far)),
        (
            right_edge,
            sheet.width_mm - right,
            (sheet.width_mm - margin, near, sheet.width_mm, far),
        ),
    ):
        if distance < margin - TOUCH_MM:
            edges_crossed.append(
                BrokenRule(
                    "selvedge",
                    worded(
                        "cutting-rule.is-mm-from-the-mm-are-to-be-kept",
                        label=piece.label,
                        distance=distance,
                        side=side,
                        margin=margin,
                    ),
                    (piece.key,),
                    _shared(strip, placement),
                )
            )
    end = sheet.end_margin_mm
    for side, distance, strip in (
        (near_end, near, (left, 0.0, right, end)),
        (far_end, length - far, (left, length - end, right, length)),
    ):
        if distance < end - TOUCH_MM:
            edges_crossed.append(
                BrokenRule(
                    "cut-end",
                    worded(
                        "cutting-rule.is-mm-from-the-mm-are-to-be-kept-2",
                        label=piece.label,
                        distance=distance,
                        side=side,
                        end=end,
                    ),
                    (piece.key,),
                    _shared(strip, placement),
                )
            )
    return edges_crossed


def _areas_affected(sheet: Sheet, placement: Placement) -> list[BrokenRule]:
    areas_affected = []
    keep = sheet.clearance_mm
    radius = placement.piece.radius_mm
    for area in sheet.avoided:
        marked = area.polygon
        apart = placement.core.distance(marked) - radius
        if apart >= keep - TOUCH_MM:
            continue
        affected = placement.polygon().intersection(marked.buffer(keep, join_style="mitre"))
        how = (
            worded("cutting-rule.lies-on")
            if apart < TOUCH_MM
            else worded("cutting-rule.is-too-near")
        )
        areas_affected.append(
            BrokenRule(
                "avoided-area",
                worded(
                    "cutting-rule.the-mm-are-to-be-kept-clear-of-it",
                    label=placement.piece.label,
                    how=how,
                    reason=area.reason,
                    keep=keep,
                ),
                (placement.piece.key,),
                _bounds(affected, placement),
            )
        )
    return areas_affected


def rules_broken_together(sheet: Sheet, placement: Placement, other: Placement) -> list[BrokenRule]:
    """Return the rules that two placements break: overlap, the cut between them, shared yarns."""
    a, b = placement.bounds(), other.bounds()
    gap_x = max(a[0], b[0]) - min(a[2], b[2])
    gap_y = max(a[1], b[1]) - min(a[3], b[3])
    same_group = placement.piece.group == other.piece.group
    near = max(gap_x, gap_y) < sheet.kerf_mm
    if not (near or same_group):
        return []
    keys = (placement.piece.key, other.piece.key)
    names = worded("cutting-rule.and", label=placement.piece.label, label_2=other.piece.label)
    broken = []
    kerf = kerf_between(sheet, placement.piece, other.piece)
    apart = _apart(placement, other, gap_x, gap_y) if near else inf
    if apart < -TOUCH_MM:
        overlap = (max(a[0], b[0]), max(a[1], b[1]), min(a[2], b[2]), min(a[3], b[3]))
        broken.append(BrokenRule("overlap", f"{names} overlap", keys, overlap))
    elif apart < kerf - TOUCH_MM:
        broken.append(
            BrokenRule(
                "kerf",
                worded(
                    "cutting-rule.are-mm-apart-the-cut-between-them-takes",
                    names=names,
                    apart=max(apart, 0),
                    kerf=kerf,
                ),
                keys,
                _hull(a, b),
            )
        )
    if same_group:
        broken += _shared_yarns(placement, other, gap_x, gap_y, names)
    return broken


def _apart(placement: Placement, other: Placement, gap_x: float, gap_y: float) -> float:
    """How far two outlines are apart, in mm; below 0 where they overlap."""
    if placement.piece.blank.outline == other.piece.blank.outline == "rectangle":
        if gap_x < 0 and gap_y < 0:
            return max(gap_x, gap_y)
        return hypot(max(gap_x, 0.0), max(gap_y, 0.0))
    radii = placement.piece.radius_mm + other.piece.radius_mm
    apart = placement.core.distance(other.core) - radii
    if radii or apart > 0:
        return apart
    shared = placement.core.intersection(other.core).area
    return -1.0 if shared > TOUCH_MM else 0.0


def _shared_yarns(
    placement: Placement, other: Placement, gap_x: float, gap_y: float, names: str
) -> list[BrokenRule]:
    """The stagger rule: specimens of one test and direction hold different yarns lengthwise."""
    stagger = placement.piece.blank.stagger
    along_warp = placement.piece.long_side == "warp"
    lengthwise, crossing = (gap_x, gap_y) if along_warp else (gap_y, gap_x)
    held = placement.piece.long_side
    crossed = "weft" if along_warp else "warp"
    a, b = placement.bounds(), other.bounds()
    keys = (placement.piece.key, other.piece.key)
    shared_yarns = []
    if stagger in ("lengthwise", "both") and lengthwise < -TOUCH_MM:
        shared_yarns.append(
            BrokenRule(
                "shared-yarns",
                worded(
                    "cutting-rule.hold-the-same-yarns-over-mm-each-specimen",
                    names=names,
                    held=held,
                    lengthwise=-lengthwise,
                ),
                keys,
                _strip(a, b, upright=along_warp),
            )
        )
    if stagger == "both" and crossing < -TOUCH_MM:
        shared_yarns.append(
            BrokenRule(
                "shared-yarns",
                worded(
                    "cutting-rule.share-crossing-yarns-over-mm",
                    names=names,
                    crossed=crossed,
                    crossing=-crossing,
                ),
                keys,
                _strip(a, b, upright=not along_warp),
            )
        )
    return shared_yarns


def crossing_overlap(placement: Placement, other: Placement) -> float:
    """Return over how many mm two pieces share the yarns that cross their long sides."""
    side = 1 if placement.piece.long_side == "warp" else 0
    a, b = placement.bounds(), other.bounds()
    return max(min(a[side + 2], b[side + 2]) - max(a[side], b[side]), 0.0)


def _strip(a: Box, b: Box, *, upright: bool) -> Box:
    """The band of yarns that two pieces share, from one to the other."""
    if upright:
        return max(a[0], b[0]), min(a[1], b[1]), min(a[2], b[2]), max(a[3], b[3])
    return min(a[0], b[0]), max(a[1], b[1]), max(a[2], b[2]), min(a[3], b[3])


def _hull(a: Box, b: Box) -> Box:
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
