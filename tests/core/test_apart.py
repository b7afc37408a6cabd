"""Crossing yarns of tears and seams are apart where the sheet has room, and as few as can be."""

from __future__ import annotations

from itertools import combinations

import pytest

from endurant.core.cutting.apart import place_apart, shared_crossings
from endurant.core.cutting.asking import groups_of_method
from endurant.core.cutting.placing import place
from endurant.core.cutting.rules import broken_rules, crossing_overlap
from endurant.core.cutting.sheet import Piece, Sheet
from endurant.core.methods import find_method


def pieces_of(method_id: str) -> list[Piece]:
    method = find_method(method_id)
    pieces: list[Piece] = []
    for group in groups_of_method(method, None, "by-failing-yarn", method.defaults):
        pieces += group.pieces(len(pieces) + 1, test=method_id)
    return pieces


def test_with_room_no_two_tears_of_a_direction_share_a_crossing_yarn() -> None:
    sheet = Sheet(2000, 1500)
    pieces = pieces_of("iso-13937-2")
    plan = place_apart(sheet, pieces)
    assert plan.fits
    assert shared_crossings(plan.placements) == []
    for one, other in combinations(plan.placements, 2):
        if one.piece.group == other.piece.group:
            assert crossing_overlap(one, other) == 0
    assert [each.piece for each in plan.placements] == pieces
    assert shared_crossings(place(sheet, pieces).placements) != []


def test_where_only_the_spare_has_no_room_of_its_own_it_shares() -> None:
    sheet = Sheet(1480, 1500)
    plan = place_apart(sheet, pieces_of("iso-13937-2"))
    by_key = {each.piece.key: each for each in plan.placements}
    (shared,) = shared_crossings(plan.placements)
    assert shared.long_side == "weft"
    sharing = [by_key[key] for key in shared.keys]
    for one, other in combinations(sharing, 2):
        assert crossing_overlap(one, other) == 0 or one.piece.spare or other.piece.spare
    assert 0 < shared.max_mm <= 200
    assert broken_rules(sheet, plan.placements) == []


@pytest.mark.parametrize("length_mm", [700, 1000])
def test_on_a_short_sample_each_yarn_is_shared_by_two_at_most(length_mm: float) -> None:
    plan = place_apart(Sheet(1480, length_mm), pieces_of("iso-13937-2"))
    assert plan.fits
    along = [each for each in plan.placements if each.piece.long_side == "warp"]
    edges = sorted({each.bounds()[1] + 1 for each in along})
    holders = [sum(each.bounds()[1] < at < each.bounds()[3] for each in along) for at in edges]
    assert max(holders) == 2


def test_what_does_not_fit_is_said_as_before_and_what_is_locked_stays() -> None:
    pieces = pieces_of("iso-13937-2")
    short = Sheet(1480, 300)
    relaxed = place_apart(short, pieces).relaxation
    assert relaxed == place(short, pieces).relaxation
    assert relaxed is not None
    whole = place_apart(Sheet(2000, 1500), pieces).placements
    locked, free = whole[:3], [each.piece for each in whole[3:]]
    again = place_apart(Sheet(2000, 1500), free, locked)
    assert shared_crossings([*locked, *again.placements]) == []


def test_strips_are_staggered_lengthwise_only() -> None:
    pieces = pieces_of("iso-13934-1")
    sheet = Sheet(1480, 3000)
    assert place_apart(sheet, pieces).placements == place(sheet, pieces).placements
