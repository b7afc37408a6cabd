"""Crossing yarns kept apart as far as the sheet has room: a goal, where the stagger is a rule.

Specimens of one test and direction always stand on lengthwise yarns of their own. A tear or a
seam is better still when they share no crossing yarns either, so that each tests other yarns.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import combinations

from endurant.core.cutting.placing import Plan, can_hold, place
from endurant.core.cutting.rules import TOUCH_MM, crossing_overlap
from endurant.core.cutting.sheet import LongSide, Piece, Placement, Sheet


@dataclass(frozen=True)
class SharedCrossing:
    """Pieces of one test and direction that share crossing yarns, and the longest stretch in mm."""

    test: str
    long_side: LongSide
    keys: tuple[int, ...]
    max_mm: float


Layers = Callable[[Piece, int], int]
"""The layer of a piece, by its number in its group."""


def _deep(layers: int) -> Layers:
    """Every yarn is shared by this many specimens at most."""
    return lambda _piece, number: 1 + number % layers


ONE_DEEP, TWO_DEEP, THREE_DEEP = _deep(1), _deep(2), _deep(3)


def spares_below(piece: Piece, _number: int) -> int:
    """Return the piece with its spares below the others, as spares may share yarns."""
    return 2 if piece.spare else 1


def place_apart(
    sheet: Sheet,
    pieces: Sequence[Piece],
    locked: Sequence[Placement] = (),
    seconds: float = 0.0,
) -> Plan:
    """Place every piece, with no shared crossing yarns as far as the sheet has room for it.

    Where a group does not fit so, its spares may share with the others, then two or three
    specimens with one another. Raises Invalid as `place` does.
    """
    groups = list(
        dict.fromkeys(piece.group for piece in pieces if piece.blank.keeps_crossing_apart)
    )
    layers = dict.fromkeys(groups, ONE_DEEP)
    if groups and not _holds(sheet, pieces, locked, layers):
        layers = {}
        for group in groups:
            for way in (ONE_DEEP, spares_below, TWO_DEEP, THREE_DEEP):
                if _holds(sheet, pieces, locked, layers | {group: way}):
                    layers[group] = way
                    break
    plan = place(sheet, *_in_layers(pieces, locked, layers), seconds)
    return replace(
        plan,
        placements=[replace(each, piece=replace(each.piece, layer=0)) for each in plan.placements],
        unplaced=[replace(piece, layer=0) for piece in plan.unplaced],
    )


def _holds(
    sheet: Sheet,
    pieces: Sequence[Piece],
    locked: Sequence[Placement],
    layers: Mapping[str, Layers],
) -> bool:
    return can_hold(sheet, *_in_layers(pieces, locked, layers))


def _in_layers(
    pieces: Sequence[Piece], locked: Sequence[Placement], layers: Mapping[str, Layers]
) -> tuple[list[Piece], list[Placement]]:
    places = dict[str, int]()
    laid = []
    for piece in pieces:
        place_in_group = places.get(piece.group, 0)
        places[piece.group] = place_in_group + 1
        laid.append(_in_layer(piece, place_in_group, layers))
    held = [replace(each, piece=_in_layer(each.piece, 0, layers)) for each in locked]
    return laid, held


def _in_layer(piece: Piece, number: int, layers: Mapping[str, Layers]) -> Piece:
    way = layers.get(piece.group)
    return piece if way is None else replace(piece, layer=way(piece, number))


def shared_crossings(placements: Sequence[Placement]) -> list[SharedCrossing]:
    """Return the groups whose specimens share crossing yarns but should not (ISO 13937)."""
    groups: dict[str, list[Placement]] = {}
    for placement in placements:
        if placement.piece.blank.keeps_crossing_apart:
            groups.setdefault(placement.piece.group, []).append(placement)
    shared = []
    for members in groups.values():
        sharing: set[int] = set()
        max_mm = 0.0
        for one, other in combinations(members, 2):
            over_mm = crossing_overlap(one, other)
            if over_mm > TOUCH_MM:
                sharing |= {one.piece.key, other.piece.key}
                max_mm = max(max_mm, over_mm)
        if sharing:
            keys = tuple(each.piece.key for each in members if each.piece.key in sharing)
            first = members[0].piece
            shared.append(SharedCrossing(first.test, first.long_side, keys, max_mm))
    return shared
